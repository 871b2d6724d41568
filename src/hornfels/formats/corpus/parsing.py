"""Text to digests, block by block: lines of ``HASH[:COUNT]``, or plain words."""

from __future__ import annotations

import binascii
from collections.abc import Iterator
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from hornfels.core.passwords.digests import SHORT, nt_hashes, nt_hashes_of_units
from hornfels.core.passwords.folding import folded
from hornfels.formats.corpus.layout import DIGEST_BYTES, MOST_COUNTED, CorpusError, Kind

_LINE_FEED, _RETURN, _COLON, _ZERO = b"\n\r:0"
_MOST_DIGITS = 10


class Parsed(NamedTuple):
    """Digests of a block, shape (lines, bytes), and how often each was seen, shape (lines,)."""

    digests: NDArray[np.uint8]
    counts: NDArray[np.uint32]


class LineError(CorpusError):
    """A line cannot be read: its number in the block, from 0."""

    def __init__(self, line: int, message: str) -> None:
        super().__init__(message)
        self.line = line


def parse_hashes(block: bytes, kind: Kind) -> Parsed:
    """A block of whole lines of ``HASH`` or ``HASH:COUNT``; empty ones and those seen 0 times are
    left out. Raises `LineError`.
    """
    found = _quick(block, kind) or _line_by_line(block, kind)
    if not found.counts.all():
        seen = found.counts > 0
        return Parsed(found.digests[seen], found.counts[seen])
    return found


def _quick(block: bytes, kind: Kind) -> Parsed | None:
    """All lines at once; None where one of them is unusual."""
    size = 2 * DIGEST_BYTES[kind]
    text = np.frombuffer(block, np.uint8)
    ends = np.flatnonzero(text == _LINE_FEED)
    if not ends.size:
        return None
    starts = np.empty_like(ends)
    starts[0], starts[1:] = 0, ends[:-1] + 1
    if text[ends[0] - 1] == _RETURN:
        ends = ends - 1
    digits = ends - starts - size - 1
    most = int(digits.max())
    if int(digits.min()) < -1 or most > _MOST_DIGITS or (digits == 0).any():
        return None
    counted = most > 0
    if counted and (digits < 0).any():
        return None
    if counted and not (text[starts + size] == _COLON).all():
        return None
    rows = np.ndarray((len(block) - size + 1,), f"V{size}", block, 0, (1,))
    try:
        raw = binascii.unhexlify(rows[starts].data)
    except binascii.Error:
        return None
    digests = np.frombuffer(raw, np.uint8).reshape(-1, size // 2)
    if not counted:
        return Parsed(digests, np.ones(len(digests), np.uint32))
    counts = text[ends - 1].astype(np.int64) - _ZERO
    wrong = (counts < 0) | (counts > 9)
    left, ten = np.flatnonzero(digits > 1), 10
    for place in range(2, most + 1):
        digit = text[ends[left] - place].astype(np.int64) - _ZERO
        wrong[left] |= (digit < 0) | (digit > 9)
        counts[left] += digit * ten
        left, ten = left[digits[left] > place], ten * 10
    if wrong.any():
        return None
    return Parsed(digests, np.minimum(counts, MOST_COUNTED).astype(np.uint32))


def _line_by_line(block: bytes, kind: Kind) -> Parsed:
    size = 2 * DIGEST_BYTES[kind]
    digests, counts = bytearray(), []
    for number, text in enumerate(block.split(b"\n")):
        written = text.strip()
        if not written:
            continue
        digest, colon, count = written.partition(b":")
        try:
            if len(digest) != size:
                raise binascii.Error
            digests += binascii.unhexlify(digest)
        except binascii.Error:
            raise LineError(number, _wrong_digest(digest, kind)) from None
        if colon and not (count.isdigit() and count.isascii()):
            raise LineError(number, "behind the colon stands how often it was seen, in digits")
        counts.append(min(int(count[-40:]), MOST_COUNTED) if colon else 1)
    return Parsed(
        np.frombuffer(bytes(digests), np.uint8).reshape(-1, size // 2),
        np.array(counts, np.uint32),
    )


def _wrong_digest(digest: bytes, kind: Kind) -> str:
    """What is wrong, without what stands there: it may be somebody's password."""
    size = 2 * DIGEST_BYTES[kind]
    hexadecimal = digest.isalnum() and not digest.lower().strip(b"0123456789abcdef")
    for other, width in DIGEST_BYTES.items():
        if other != kind and hexadecimal and len(digest) == 2 * width:
            return f"{size} hexadecimal digits are wanted; this is {other}, try --kind {other}"
    if hexadecimal and len(digest) == size - 5:
        return (
            f"{size} hexadecimal digits are wanted, and here are {len(digest)}; the answer to a "
            "question for a range leaves out the first five, put them before"
        )
    return (
        f"{size} hexadecimal digits are wanted, then a colon and how often it was seen, or "
        "nothing; for plain words, try --kind plain"
    )


def parse_words(block: bytes, *, look_alike: bool) -> tuple[Parsed, int]:
    """A block of plain words, one on each line, as NT hashes, each seen once for each line; empty
    lines are left out. With `look_alike`, words as they look (domain rules §9). Words that are not
    UTF-8 are read as Windows-1252; how many comes back too.
    """
    if look_alike or not block.isascii():
        return _each_word(block, look_alike=look_alike)
    text = np.frombuffer(block, np.uint8)
    ends = np.flatnonzero(text == _LINE_FEED)
    starts = np.empty_like(ends)
    starts[:1], starts[1:] = 0, ends[:-1] + 1
    lengths = ends - starts
    lengths -= (lengths > 0) & (text[np.maximum(ends - 1, 0)] == _RETURN)
    short = (lengths > 0) & (lengths <= SHORT)
    rows = np.ndarray((len(block),), f"V{SHORT}", block + bytes(SHORT), 0, (1,))
    units = rows[starts[short]].view(np.uint8).reshape(-1, SHORT).astype("<u2")
    units[np.arange(SHORT) >= lengths[short, None]] = 0
    long = [
        block[start : start + length].decode("ascii")
        for start, length in zip(
            starts[lengths > SHORT].tolist(), lengths[lengths > SHORT].tolist(), strict=True
        )
    ]
    digests = np.concatenate([nt_hashes_of_units(units, lengths[short]), nt_hashes(long)])
    return Parsed(digests, np.ones(len(digests), np.uint32)), 0


def _each_word(block: bytes, *, look_alike: bool) -> tuple[Parsed, int]:
    words: list[str] = []
    strange = 0
    for line in _lines(block):
        try:
            word = line.decode("utf-8")
        except UnicodeDecodeError:
            word, strange = line.decode("cp1252", "replace"), strange + 1
        words.append(folded(word) if look_alike else word)
    digests = nt_hashes(words)
    return Parsed(digests, np.ones(len(digests), np.uint32)), strange


def _lines(block: bytes) -> Iterator[bytes]:
    for line in block.split(b"\n"):
        if written := line.removesuffix(b"\r"):
            yield written
