"""How the command ends when it cannot do what was asked: one clear line on standard error, exit status 2."""

from __future__ import annotations

import contextlib
import sys
from collections.abc import Iterator
from pathlib import Path
from typing import BinaryIO, NoReturn

BAD_INPUT = 2


def fail(message: str, status: int = BAD_INPUT) -> NoReturn:
    print(f"hornfels: {message}", file=sys.stderr)
    raise SystemExit(status)


@contextlib.contextmanager
def opened(file: Path) -> Iterator[BinaryIO]:
    """A file for reading, `-` for standard input; what cannot be opened ends the command."""
    if str(file) == "-":
        yield sys.stdin.buffer
        return
    try:
        with file.open("rb") as source:
            yield source
    except OSError as error:
        fail(f"{file}: {error.strerror or error}")
