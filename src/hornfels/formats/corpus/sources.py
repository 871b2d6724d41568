"""What corpora are compiled from: text files, packed by gzip or not, in blocks of whole lines."""

from __future__ import annotations

import gzip
import zlib
from collections.abc import Iterator
from pathlib import Path
from typing import NamedTuple

from hornfels.formats.corpus.layout import CorpusError

_BLOCK = 1 << 20
"""Bytes at a time: what is worked on stays in the processor's cache."""
_LONGEST_LINE = 1 << 24
_GZIP = b"\x1f\x8b"
_MARK_OF_UTF8 = b"\xef\xbb\xbf"


class Block(NamedTuple):
    """Whole lines, each with its line feed; how many bytes of text stand before them; and how many
    of the file were read.
    """

    text: bytes
    start: int
    read: int


def blocks(source: Path) -> Iterator[Block]:
    """The blocks of a source. Raises `CorpusError` and OSError."""
    with source.open("rb") as raw:
        packed = raw.read(2) == _GZIP
        raw.seek(0)
        stream = gzip.GzipFile(fileobj=raw) if packed else raw
        start = 0
        try:
            while text := stream.read(_BLOCK):
                if not start:
                    text = text.removeprefix(_MARK_OF_UTF8)
                if not text.endswith(b"\n"):
                    text += stream.readline(_LONGEST_LINE) or b"\n"
                if not text.endswith(b"\n"):
                    if stream.read(1):
                        raise CorpusError(
                            f"{source}: it has a line longer than {_LONGEST_LINE:,} bytes; is it a "
                            "text?"
                        )
                    text += b"\n"
                yield Block(text, start, raw.tell())
                start += len(text)
        except (EOFError, gzip.BadGzipFile, zlib.error) as error:
            raise CorpusError(
                f"{source}: the gzip data is cut off or damaged ({error}); fetch it again"
            ) from None


def line_at(source: Path, start: int, line: int) -> int:
    """The number from 1 of a line which is given by its number from 0 in the block that begins
    behind so many bytes of text.
    """
    before = (block.text.count(b"\n") for block in blocks(source) if block.start < start)
    return sum(before) + line + 1
