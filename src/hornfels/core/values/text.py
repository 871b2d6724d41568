"""Columns of text that stay small in memory and quick to search at a million rows."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Iterable, Iterator, Sequence
from functools import cached_property
from typing import overload

import numpy as np
import numpy.typing as npt

from hornfels.core.values.dn import fold


def printable(text: str) -> str:
    """One line of text with what moves a terminal's cursor, is not seen, or turns its direction
    written as an escape.
    """
    if text.isprintable():
        return text
    return "".join(c if c.isprintable() or c == "\N{NO-BREAK SPACE}" else _escape(c) for c in text)


def hidden(c: str) -> bool:
    """Whether a character controls, is not seen, or turns text around ([Unicode] general categories
    Cc, Cf, Cs, Zl, Zp).
    """
    return not c.isprintable() and unicodedata.category(c) in ("Cc", "Cf", "Cs", "Zl", "Zp")


def visible(text: str, but: str = "") -> str:
    """Text in which every hidden character is an escape such as ``\\u200b``, but for those in
    `but`.
    """
    if text.isprintable():
        return text
    return "".join(_escape(c) if hidden(c) and c not in but else c for c in text)


def meant(text: str) -> str:
    """The text that `visible` shows so."""
    return _ESCAPE.sub(lambda m: chr(int(m[1] or m[2] or m[3], 16)), text)


_ESCAPE = re.compile(r"\\x([0-9a-f]{2})|\\u([0-9a-f]{4})|\\U000([0-9a-f]{5})")


def _escape(c: str) -> str:
    return c.encode("ascii", "backslashreplace").decode() if ord(c) > 0x7F else f"\\x{ord(c):02x}"


_SAMPLE = 1 << 16
_MOST_KNOWN = 50_000
_FEW = 8
"""Look-ups in a column after which an index of it is worth making."""
_DEAR = 20
"""How many values can be gone over in the time of one look-up."""


class TextColumn(Sequence[str]):
    """An immutable column of strings, held as one UTF-8 buffer in which every value ends in NUL.

    Values cannot contain NUL themselves (nor can a directory string or a PostgreSQL text).
    """

    __slots__ = ("__dict__", "_data", "_ends")

    def __init__(self, data: bytes, ends: npt.NDArray[np.int64]) -> None:
        self._data = data
        self._ends = ends

    @classmethod
    def of(cls, values: Iterable[str]) -> TextColumn:
        """The column of these values; lone surrogates, which no directory stores, become '?'.
        Raises ValueError for NUL.
        """
        held = list(values)
        data = "".join(f"{value}\0" for value in held).encode("utf-8", "replace")
        ends = _ends(data)
        if len(ends) != len(held):
            raise ValueError("a value holds a NUL character")
        return cls(data, ends)

    @classmethod
    def joined(cls, data: bytes) -> TextColumn:
        """The column of values already joined, each followed by NUL."""
        return cls(data, _ends(data))

    @property
    def data(self) -> bytes:
        """The values joined, each followed by NUL."""
        return self._data

    @property
    def size_in_bytes(self) -> int:
        """Memory that the column takes, without what searching it has made."""
        return len(self._data) + self._ends.nbytes

    def same_as(self, other: TextColumn) -> bool:
        """Whether both hold the same values in the same rows."""
        return self._data == other._data

    def __len__(self) -> int:
        return len(self._ends)

    @overload
    def __getitem__(self, index: int) -> str: ...
    @overload
    def __getitem__(self, index: slice) -> list[str]: ...
    def __getitem__(self, index: int | slice) -> str | list[str]:
        if isinstance(index, slice):
            return [self[i] for i in range(*index.indices(len(self)))]
        if index < 0:
            index += len(self)
        start = int(self._ends[index - 1]) + 1 if index else 0
        return self._data[start : int(self._ends[index])].decode("utf-8")

    def __iter__(self) -> Iterator[str]:
        yield from self._data.decode("utf-8").split("\0")[:-1]

    @cached_property
    def _folded(self) -> tuple[bytes, npt.NDArray[np.int64]]:
        data = self._data.decode("utf-8").upper().encode("utf-8")
        return data, _ends(data)

    @cached_property
    def order(self) -> npt.NDArray[np.int32]:
        """Row numbers in alphabetical order, without regard to case; equal values in row order."""
        folded = self._folded[0].decode("utf-8").split("\0")[:-1]
        return np.array(sorted(range(len(folded)), key=folded.__getitem__), dtype=np.int32)

    def containing(self, needle: str) -> npt.NDArray[np.int64]:
        """The rows whose value contains `needle`, without regard to case, ascending."""
        data, ends = self._folded
        wanted = _folded_needle(needle)
        if not wanted:
            return np.arange(len(ends))
        return _distinct(np.searchsorted(ends, _positions(data, wanted), side="left"))

    def best(self, needle: str, most: int) -> npt.NDArray[np.int64]:
        """Up to `most` rows that contain `needle`: those that begin with it first, then the
        shortest, then in row order.
        """
        data, ends = self._folded
        wanted = _folded_needle(needle)
        at = _positions(data, wanted) if wanted else np.empty(0, dtype=np.int64)
        rows = np.searchsorted(ends, at, side="left")
        first = np.diff(rows, prepend=-1) > 0
        at, rows = at[first], rows[first]
        starts = np.where(rows > 0, ends[rows - 1] + 1, 0)
        # One number that orders as wanted: beginning, length, row.
        rank = (
            ((at != starts).astype(np.int64) << 62)
            + (np.minimum(ends[rows] - starts, 1 << 20) << 40)
            + rows
        )
        if len(rank) > most:
            rank = np.partition(rank, most)[:most]
        return np.sort(rank) & ((1 << 40) - 1)

    def find(self, value: str) -> npt.NDArray[np.int64]:
        """The rows whose whole value is `value`, or what it shows (`visible`), without regard to
        case.
        """
        rows = self._known.get(value)
        if rows is None:
            rows = self._find(value)
            if not len(rows) and "\\" in value:
                rows = self._find(meant(value))
            if len(self._known) >= _MOST_KNOWN:
                self._known.clear()
            self._known[value] = rows
        return rows

    def first_rows(self, values: Sequence[str]) -> npt.NDArray[np.int64]:
        """The first row that `find` finds for each of many values; −1 where there is none."""
        if len(values) * _DEAR < len(self):
            found = (next(iter(self.find(value).tolist()), -1) for value in values)
            return np.fromiter(found, np.int64, len(values))
        backwards = [fold(value) for value in self][::-1]
        row_of = dict(zip(backwards, range(len(backwards) - 1, -1, -1), strict=True))
        rows = np.fromiter((row_of.get(fold(v), -1) for v in values), np.int64, len(values))
        for number in np.flatnonzero(rows < 0).tolist():
            if "\\" in values[number]:
                rows[number] = row_of.get(fold(meant(values[number])), -1)
        return rows

    def expect_many(self) -> None:
        """Make ready what many look-ups need: else the ninth one does, which takes a second in a
        million values.
        """
        self.__dict__["_asked"] = _FEW
        _ = self._index

    @cached_property
    def _known(self) -> dict[str, npt.NDArray[np.int64]]:
        """What was looked up lately: a long draft asks for the same names at each change of it."""
        return {}

    def _find(self, value: str) -> npt.NDArray[np.int64]:
        wanted = value.upper().replace("\0", "")
        self.__dict__["_asked"] = asked = self.__dict__.get("_asked", 0) + 1
        rows = self._searched(wanted) if asked <= _FEW else self._looked_up(wanted)
        # Upper case takes ß for SS, which are two names to a directory.
        return rows[[fold(self[int(row)]) == fold(value) for row in rows]]

    def _searched(self, wanted: str) -> npt.NDArray[np.int64]:
        data, ends = self._folded
        whole = wanted.encode("utf-8", "replace") + b"\0"
        hits = [
            m.start()
            for m in re.finditer(re.escape(whole), data)
            if m.start() == 0 or data[m.start() - 1] == 0
        ]
        return np.searchsorted(ends, np.array(hits, dtype=np.int64), side="left")

    def _looked_up(self, wanted: str) -> npt.NDArray[np.int64]:
        hashes, order = self._index
        low, high = np.searchsorted(hashes, [hash(wanted), hash(wanted) + 1])
        return np.sort(order[low:high])

    @cached_property
    def _index(self) -> tuple[npt.NDArray[np.int64], npt.NDArray[np.int64]]:
        """Hashes of the folded values in ascending order, and the row of each."""
        values = self._folded[0].decode("utf-8").split("\0")[:-1]
        hashes = np.fromiter(map(hash, values), dtype=np.int64, count=len(values))
        order = np.argsort(hashes, kind="stable")
        return hashes[order], order


def _ends(data: bytes) -> npt.NDArray[np.int64]:
    return np.flatnonzero(np.frombuffer(data, dtype=np.uint8) == 0)


def _folded_needle(needle: str) -> bytes:
    return needle.upper().replace("\0", "").encode("utf-8", "replace")


def _positions(data: bytes, wanted: bytes) -> npt.NDArray[np.int64]:
    """Where `wanted` begins in `data`, ascending: byte by byte over the whole, since a hit may
    stand in every value.
    """
    letters = np.frombuffer(data, dtype=np.uint8)
    if len(wanted) > len(letters):
        return np.empty(0, dtype=np.int64)
    # The rarest byte first: it leaves the fewest places to look at.
    counts = [
        (int(np.count_nonzero(letters[:_SAMPLE] == byte)), place)
        for place, byte in enumerate(wanted)
    ]
    (_, place), *others = sorted(counts)
    found = np.flatnonzero(letters[place : len(letters) - len(wanted) + 1 + place] == wanted[place])
    for _, place in others:
        found = found[letters[found + place] == wanted[place]]
    return found


def _distinct(ascending: npt.NDArray[np.int64]) -> npt.NDArray[np.int64]:
    return ascending[np.diff(ascending, prepend=-1) > 0]
