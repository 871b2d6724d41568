"""Sorted runs on disk: what a compilation has read so far, and merges in the end."""

from __future__ import annotations

import os
from collections.abc import Iterable, Iterator, Sequence
from pathlib import Path
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from hornfels.formats.corpus.entries import Entries, beginnings, combined, counts_in, records_of
from hornfels.formats.corpus.layout import COUNT_BYTES

_BYTES_AT_WORK = 48
"""What one entry takes while it is held: the digest, its beginning once more, and the count."""
_MOST_AT_ONCE = 1 << 16
"""Entries merged at a time: what is worked on stays in the processor's cache."""


def entries_in(memory: int) -> int:
    """How many entries can be worked on in so many bytes."""
    return max(memory // _BYTES_AT_WORK, 1)


class Sorted(Protocol):
    """Entries in the order of their digests."""

    @property
    def entries(self) -> int: ...

    def first_from(self, number: int) -> int:
        """The first entry whose digest begins with eight bytes of at least this number."""
        ...

    def between(self, first: int, last: int) -> Entries:
        """The entries from one to before another."""
        ...

    def beginnings(self, step: int) -> NDArray[np.uint64]:
        """About the first eight bytes of every so-manieth digest as a number."""
        ...


class Run:
    """A run in a file of its own: digests with counts, and nothing else."""

    def __init__(self, path: Path, digest_bytes: int) -> None:
        self._digest_bytes = digest_bytes
        width = digest_bytes + COUNT_BYTES
        self.entries = path.stat().st_size // width
        self._records: NDArray[np.uint8] = (
            np.memmap(path, np.uint8, "r", shape=(self.entries, width))
            if self.entries
            else np.empty((0, width), np.uint8)
        )

    def first_from(self, number: int) -> int:
        low, high = 0, self.entries
        while low < high:
            middle = (low + high) // 2
            if int.from_bytes(self._records[middle, :8].tobytes(), "big") < number:
                low = middle + 1
            else:
                high = middle
        return low

    def between(self, first: int, last: int) -> Entries:
        records = self._records[first:last]
        return Entries(np.array(records[:, : self._digest_bytes]), counts_in(records))

    def beginnings(self, step: int) -> NDArray[np.uint64]:
        return beginnings(self._records[::step])


def write_run(path: Path, pieces: Iterable[Entries]) -> None:
    """Write a run of entries that come in their order; it is there as a whole or not at all."""
    partly = path.with_suffix(".part")
    with partly.open("wb") as file:
        for digests, counts in pieces:
            file.write(records_of(digests, counts))
        file.flush()
        os.fsync(file.fileno())
    partly.replace(path)


class Held:
    """Entries that never were on disk."""

    def __init__(self, held: Entries) -> None:
        self._held = held
        self._beginnings = beginnings(held.digests)
        self.entries = len(held.counts)

    def first_from(self, number: int) -> int:
        return int(np.searchsorted(self._beginnings, np.uint64(number)))

    def between(self, first: int, last: int) -> Entries:
        digests, counts = self._held
        return Entries(digests[first:last], counts[first:last])

    def beginnings(self, step: int) -> NDArray[np.uint64]:
        return self._beginnings[::step]


_STEP = 1 << 10
"""Entries between two whose beginnings tell how all of them lie."""


def merged(parts: Sequence[Sorted]) -> Iterator[Entries]:
    """The entries of all parts in their order, the counts of the same digest added up."""
    lows = [0] * len(parts)
    for number in [*_cuts(parts), None]:
        highs = [part.entries if number is None else part.first_from(number) for part in parts]
        read = [
            part.between(low, high)
            for part, low, high in zip(parts, lows, highs, strict=True)
            if low < high
        ]
        if len(read) == 1:
            yield read[0]
        elif read:
            yield combined(
                np.concatenate([one.digests for one in read]),
                np.concatenate([one.counts for one in read]),
            )
        lows = highs


def _cuts(parts: Sequence[Sorted]) -> list[int]:
    """Beginnings of digests between which about so many entries stand, as samples tell."""
    entries = sum(part.entries for part in parts)
    if entries <= _MOST_AT_ONCE:
        return []
    samples = np.sort(np.concatenate([part.beginnings(_STEP) for part in parts]))
    cuts: list[int] = np.unique(samples[:: _MOST_AT_ONCE // _STEP][1:]).tolist()
    return cuts
