"""Digests with counts in memory."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from hornfels.formats.corpus.layout import COUNT_BYTES, MOST_COUNTED


class Entries(NamedTuple):
    """Digests, shape (entries, bytes), and how often each was seen, shape (entries,)."""

    digests: NDArray[np.uint8]
    counts: NDArray[np.uint32]


def beginnings(digests: NDArray[np.uint8], start: int = 0) -> NDArray[np.uint64]:
    """Eight bytes of each digest as a number, which sorts as they do."""
    return digests[:, start : start + 8].view(">u8")[:, 0].astype(np.uint64)


def whole(digests: NDArray[np.uint8]) -> NDArray[np.void]:
    """Digests, or a part of each, as items that are copied at once."""
    return digests.view(f"V{digests.shape[1]}")[:, 0]


def combined(digests: NDArray[np.uint8], counts: NDArray[np.uint32]) -> Entries:
    """Digests in their order, the counts of those that are the same added up."""
    numbers = beginnings(digests)
    if (numbers[1:] <= numbers[:-1]).any():
        order = np.argsort(numbers)
        digests, counts, numbers = rows(digests, order), counts[order], numbers[order]
    elif len(digests):
        return Entries(digests, counts)
    alike = numbers[1:] == numbers[:-1]
    if not alike.any():
        return Entries(digests, counts)
    at = np.flatnonzero(alike)
    same = np.zeros(len(digests), bool)
    same[at + 1] = (digests[at] == digests[at + 1]).all(axis=1)
    if not same[at + 1].all():
        # Digests that begin alike and go on otherwise: nobody comes by such unless by intent.
        order = np.lexsort(digests.T[::-1])
        digests, counts = rows(digests, order), counts[order]
        same[1:] = (digests[1:] == digests[:-1]).all(axis=1)
    firsts = np.flatnonzero(~same)
    added = np.add.reduceat(counts.astype(np.uint64), firsts)
    return Entries(rows(digests, firsts), np.minimum(added, MOST_COUNTED).astype(np.uint32))


def rows(digests: NDArray[np.uint8], which: NDArray[np.intp]) -> NDArray[np.uint8]:
    """Digests by their numbers."""
    return whole(digests).take(which).view(np.uint8).reshape(-1, digests.shape[1])


def records_of(digests: NDArray[np.uint8], counts: NDArray[np.uint32]) -> memoryview:
    """Digests, or what is left of them, each followed by its count, as bytes."""
    width = digests.shape[1]
    records = np.empty((len(digests), width + COUNT_BYTES), np.uint8)
    whole(records[:, :width])[:] = whole(digests)
    records[:, width:].view("<u4")[:, 0] = counts
    return records.data.cast("B")


def counts_in(records: NDArray[np.uint8]) -> NDArray[np.uint32]:
    """The counts at the ends of records."""
    return records[:, -COUNT_BYTES:].view("<u4")[:, 0].astype(np.uint32)
