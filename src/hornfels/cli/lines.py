"""Standard input as whole lines, in bounded memory: quick for files, prompt for whoever waits for
each answer.
"""

from __future__ import annotations

from collections.abc import Iterator
from io import BufferedIOBase

from hornfels.cli.errors import fail

BLOCK = 1 << 16
LONGEST_LINE = 1 << 20
"""Bytes of one line; far beyond any password, so that a stream without line ends cannot fill the
memory.
"""


def blocks(source: BufferedIOBase) -> Iterator[tuple[int, list[str]]]:
    """Whole lines as they come in, without their line feeds, each block with the number of its
    first line.
    """
    number, rest = 1, b""
    while block := source.read1(BLOCK):
        *lines, rest = (rest + block).split(b"\n")
        yield from _decoded(lines, number)
        number += len(lines)
        if len(rest) > LONGEST_LINE:
            fail(
                f"standard input, line {number}: longer than {LONGEST_LINE:,} bytes; put less "
                "on each line"
            )
    if rest:
        yield from _decoded([rest], number)


def _decoded(lines: list[bytes], number: int) -> Iterator[tuple[int, list[str]]]:
    if not lines:
        return
    joined = b"\n".join(lines)
    try:
        yield number, joined.decode("utf-8").split("\n")
    except UnicodeDecodeError as error:
        # The lines before the broken one are answered first.
        good = joined.count(b"\n", 0, error.start)
        yield number, [line.decode("utf-8") for line in lines[:good]]
        fail(f"standard input, line {number + good}: not UTF-8 text")
