"""The `hornfels` command as a script runs it."""

from __future__ import annotations

import os
import subprocess
import sys
from dataclasses import dataclass
from pathlib import Path
from typing import Protocol

COMMAND = str(Path(sys.executable).parent / "hornfels")
ILSE_CHANGES = ("--account", "ilse.varga", "--operation", "change")
ILSE_RESETS = ("--account", "ilse.varga", "--operation", "reset")
"""Options of `hornfels try` for a change by an account of the demo domain, and for a reset."""


def run(
    *arguments: object, stdin: str = "", **environment: str
) -> subprocess.CompletedProcess[str]:
    return subprocess.run(
        [COMMAND, *map(str, arguments)],
        input=stdin,
        capture_output=True,
        text=True,
        check=False,
        env={**os.environ, **environment},
    )


@dataclass(frozen=True)
class Ran:
    """What a command said."""

    returncode: int
    stdout: str
    stderr: str


class Command(Protocol):
    """Runs the command in the process of the tests (a fixture)."""

    def __call__(self, *arguments: object, stdin: str | bytes = "", **environment: str) -> Ran: ...
