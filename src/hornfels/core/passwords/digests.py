"""What passwords are known by without being known: their SHA-1 and their NT hash (MD4 of UTF-16LE,
RFC 1320).
"""

from __future__ import annotations

import hashlib
from collections.abc import Iterable, Sequence

import numpy as np
from Crypto.Hash import MD4
from numpy.typing import NDArray

SHA1_BYTES, NT_BYTES = 20, 16
SHORT = 27
"""UTF-16 units that fit into one block of MD4, beside what it appends."""


def sha1(text: str) -> bytes:
    """SHA-1 of a text in UTF-8."""
    # Not to keep anything secret: lists of exposed passwords are published so.
    return hashlib.sha1(text.encode("utf-8", "surrogatepass"), usedforsecurity=False).digest()


def nt_hash(text: str) -> bytes:
    """The NT hash of a text: what a directory keeps of a password."""
    return MD4.new(text.encode("utf-16-le", "surrogatepass")).digest()  # noqa: S303


def nt_hashes(texts: Sequence[str]) -> NDArray[np.uint8]:
    """The NT hashes of many texts, shape (texts, 16): `nt_hash` of each, some ten times as quick
    for those of no more than `SHORT` units.
    """
    found = np.empty((len(texts), NT_BYTES), np.uint8)
    lengths = np.fromiter(map(len, texts), np.int64, len(texts))
    codes = np.array(texts, f"<U{SHORT}").view("<u4").reshape(len(texts), SHORT)
    short = (lengths <= SHORT) & (codes.max(axis=1, initial=0) <= 0xFFFF)
    found[short] = nt_hashes_of_units(codes[short].astype("<u2"), lengths[short])
    for number in np.flatnonzero(~short).tolist():
        found[number] = np.frombuffer(nt_hash(texts[number]), np.uint8)
    return found


_ROWS = 4096
"""Texts at a time: what is worked on stays in the processor's cache."""


def nt_hashes_of_units(units: NDArray[np.uint16], lengths: NDArray[np.int64]) -> NDArray[np.uint8]:
    """The NT hashes of texts of no more than `SHORT` UTF-16 units, given with shape (texts, SHORT)
    and 0 behind each one's end; shape (texts, 16).
    """
    found = np.empty((len(units), NT_BYTES), np.uint8)
    for start in range(0, len(units), _ROWS):
        some = slice(start, start + _ROWS)
        rows = lengths[some]
        block = np.zeros((len(rows), 32), "<u2")
        block[:, :SHORT] = units[some]
        block[np.arange(len(rows)), rows] = 0x80
        block[:, 28] = rows * 16
        words = np.ascontiguousarray(block.view("<u4").T)
        found[some] = np.stack(_md4(words), axis=1).astype("<u4").view(np.uint8)
    return found


_START = (0x67452301, 0xEFCDAB89, 0x98BADCFE, 0x10325476)
_ROUNDS: Sequence[tuple[int, Iterable[int], tuple[int, int, int, int]]] = (
    (0, range(16), (3, 7, 11, 19)),
    (0x5A827999, (0, 4, 8, 12, 1, 5, 9, 13, 2, 6, 10, 14, 3, 7, 11, 15), (3, 5, 9, 13)),
    (0x6ED9EBA1, (0, 8, 4, 12, 2, 10, 6, 14, 1, 9, 5, 13, 3, 11, 7, 15), (3, 9, 11, 15)),
)
"""For each round what is added, in which order the words are taken, and how far each of four steps
turns (RFC 1320 §3.4).
"""


def _md4(words: NDArray[np.uint32]) -> list[NDArray[np.uint32]]:
    """MD4 of one block each, its 16 words by rows."""
    a, b, c, d = (np.full(words.shape[1], start, np.uint32) for start in _START)
    for number, (added, order, turns) in enumerate(_ROUNDS):
        for step, word in enumerate(order):
            if number == 0:
                mixed = d ^ (b & (c ^ d))
            elif number == 1:
                mixed = (b & c) | (d & (b | c))
            else:
                mixed = b ^ c ^ d
            mixed += a
            mixed += words[word]
            if added:
                mixed += np.uint32(added)
            turn = turns[step % 4]
            turned = mixed << np.uint32(turn)
            mixed >>= np.uint32(32 - turn)
            turned |= mixed
            a, b, c, d = d, turned, b, c
    return [part + np.uint32(start) for part, start in zip((a, b, c, d), _START, strict=True)]
