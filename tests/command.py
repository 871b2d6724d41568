"""The `hornfels` command as a script runs it."""

from __future__ import annotations

import os
import subprocess
import sys
from pathlib import Path

COMMAND = str(Path(sys.executable).parent / "hornfels")


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
