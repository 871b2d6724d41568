"""What the command says. No control character of a file reaches the terminal; a failure is one line
and exit status 2.
"""

from __future__ import annotations

import contextlib
import json
import sys
from collections.abc import Iterator
from pathlib import Path
from typing import BinaryIO, NoReturn

from hornfels.core.values.text import printable

BAD_INPUT = 2


def fail(message: str, status: int = BAD_INPUT) -> NoReturn:
    print(printable(f"hornfels: {message}"), file=sys.stderr)
    raise SystemExit(status)


def note(message: str) -> None:
    """Something worth knowing that is no error."""
    print(printable(f"hornfels: note: {message}"), file=sys.stderr)


def say(message: str) -> None:
    """A line of the answer in words."""
    print(printable(message), flush=True)


def json_line(answer: object) -> str:
    """An answer as one line of JSON, readable as far as a terminal may be shown it."""
    line = json.dumps(answer, ensure_ascii=False)
    return line if line.isprintable() else json.dumps(answer)


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


def bytes_of(file: Path, most: int) -> bytes:
    """What a file holds; of one that is larger than `most` one byte more, so that it is noticed."""
    with opened(file) as source:
        return source.read(most + 1)
