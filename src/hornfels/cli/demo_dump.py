"""`hornfels demo-dump`: the invented domain as a file."""

from __future__ import annotations

import sys
from datetime import UTC, datetime
from pathlib import Path

from hornfels.cli.errors import fail
from hornfels.demo.tarnholt import entries
from hornfels.formats.ldif import write


def write_demo(file: Path) -> None:
    """Write it; ``-`` is standard output."""
    lines = write(entries(datetime.now(UTC)))
    if str(file) == "-":
        sys.stdout.buffer.writelines(lines)
        return
    try:
        with file.open("wb") as out:
            out.writelines(lines)
    except OSError as error:
        fail(f"{file}: {error.strerror}")
