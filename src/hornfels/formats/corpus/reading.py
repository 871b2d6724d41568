"""A corpus opened: how often one digest, or many, were seen."""

from __future__ import annotations

import hashlib
import mmap
import os
import zlib
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Self

import numpy as np
from numpy.typing import NDArray

from hornfels.core.passwords.digests import nt_hash, sha1
from hornfels.core.passwords.folding import folded
from hornfels.formats.corpus.entries import Entries, beginnings, counts_in, rows, whole
from hornfels.formats.corpus.layout import (
    COUNT_BYTES,
    DIGEST_BYTES,
    HEADER_BYTES,
    CorpusError,
    Kind,
    layout_of,
)

_BUCKETS_AT_ONCE = 1 << 14
_NEAR = 6


class Corpus:
    """A corpus on disk. Many threads may ask it at once. Raises `CorpusError` where the file is not
    one, and OSError where it cannot be read.

    A new version is put in the place of the file, never written into it: what is open goes on with
    the old one.
    """

    def __init__(self, path: Path) -> None:
        self.path = path
        self._file = -1
        self._file = os.open(path, os.O_RDONLY | os.O_CLOEXEC)
        self._open()

    def _open(self) -> None:
        header = os.pread(self._file, HEADER_BYTES, 0)
        self.layout, tables = layout_of(header, os.fstat(self._file).st_size)
        held = self.layout
        self._map = mmap.mmap(self._file, 0, prot=mmap.PROT_READ)
        every = memoryview(self._map)
        if zlib.crc32(every[held.offsets_at :]) != tables:
            raise CorpusError("its tables are damaged; compile it again, or fetch it again")
        # Plain views for one question, whose numbers come much quicker than those of NumPy.
        self._offsets = every[held.offsets_at : held.checksums_at].cast("Q")
        self._checksums = every[held.checksums_at :].cast("I")
        self.offsets: NDArray[np.uint64] = np.frombuffer(self._offsets, "<u8")
        """Where each bucket's records begin, and where the last one's end; shape (buckets + 1,)."""
        self._key = slice(held.left_out, DIGEST_BYTES[held.kind])
        self._shift = 32 - held.bits
        self._width = held.record_bytes
        self._records: NDArray[np.void] = np.frombuffer(
            every, f"V{self._width}", held.entries, HEADER_BYTES
        )
        self._rest = self._width - COUNT_BYTES
        self.identity = hashlib.sha256(header).hexdigest()[:16]
        """Differs where anything of two corpora differs."""

    def close(self) -> None:
        """Give the file back. Where other threads may be asking, let go of the corpus instead."""
        if self._file >= 0:
            os.close(self._file)
            self._file = -1

    def __del__(self) -> None:
        self.close()

    def __enter__(self) -> Self:
        return self

    def __exit__(self, *_: object) -> None:
        self.close()

    @property
    def entries(self) -> int:
        return self.layout.entries

    @property
    def kind(self) -> Kind:
        return self.layout.kind

    def count(self, digest: bytes) -> int:
        """How often a digest was seen, 0 if never; one read, whose checksum is looked at."""
        bucket = int.from_bytes(digest[:4], "big") >> self._shift
        first = self._offsets[bucket]
        size = (self._offsets[bucket + 1] - first) * self._width
        if not size:
            return 0
        records = os.pread(self._file, size, HEADER_BYTES + first * self._width)
        if zlib.crc32(records) != self._checksums[bucket]:
            raise self._damaged(bucket)
        key, at = digest[self._key], -1
        while (at := records.find(key, at + 1)) >= 0:
            # A key may stand across two records too.
            if at % self._width == 0:
                end = at + self._width
                return int.from_bytes(records[end - COUNT_BYTES : end], "little")
        return 0

    def digest_of(self, text: str) -> bytes:
        """What a password would be found by."""
        if self.layout.folded:
            text = folded(text)
        return sha1(text) if self.kind == "sha1" else nt_hash(text)

    def count_text(self, text: str) -> int:
        """How often a password was seen."""
        return self.count(self.digest_of(text))

    def counts(self, digests: NDArray[np.uint8]) -> NDArray[np.uint32]:
        """How often each of many digests was seen, shape (digests,); digests have the shape
        (digests, bytes). Does not look at the checksums of what it reads: `verify` does.
        """
        found = np.zeros(len(digests), np.uint32)
        if not self.entries:
            return found
        # In their order, so that what is read lies close together.
        order = np.argsort(beginnings(digests))
        sorted_ = rows(digests, order)
        keys = sorted_[:, self._key]
        wanted = beginnings(keys)
        at, ends = self._lower_bound(beginnings(sorted_), wanted)
        # Records that begin alike stand one after another, and all but never are there two.
        left = np.flatnonzero(at < ends)
        while left.size:
            read = self._read(at[left])
            same = whole(read[:, : self._rest]) == whole(keys)[left]
            found[order[left[same]]] = counts_in(rows(read, np.flatnonzero(same)))
            on = left[~same & (beginnings(read) == wanted[left])]
            at[on] += 1
            left = on[at[on] < ends[on]]
        return found

    def _lower_bound(
        self, numbers: NDArray[np.uint64], wanted: NDArray[np.uint64]
    ) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
        """The first record of a digest's bucket that begins with at least what is wanted, and where
        the bucket ends. Digests by their first eight bytes as numbers.
        """
        bits = np.uint64(self.layout.bits)
        buckets = (numbers >> np.uint64(64 - self.layout.bits)).astype(np.int64)
        low = self.offsets[buckets].astype(np.int64)
        ends = self.offsets[buckets + 1].astype(np.int64)
        high = ends.copy()
        # Digests lie evenly: most are within a few records of where that puts them.
        into = ((numbers << bits) >> np.uint64(32)).astype(np.int64)
        guess = low + ((into * (high - low)) >> 32)
        for middle in (guess - _NEAR, guess + _NEAR):
            self._halve(wanted, low, high, np.clip(middle, low, np.maximum(high - 1, low)))
        while (low < high).any():
            self._halve(wanted, low, high, (low + high) >> 1)
        return low, ends

    def _halve(
        self,
        wanted: NDArray[np.uint64],
        low: NDArray[np.int64],
        high: NDArray[np.int64],
        middle: NDArray[np.int64],
    ) -> None:
        """Look at a record between each two."""
        less = beginnings(self._read(np.minimum(middle, self.entries - 1))) < wanted
        open_ = low < high
        np.copyto(low, middle + 1, where=less & open_)
        np.copyto(high, middle, where=~less & open_)

    def _read(self, records: NDArray[np.int64]) -> NDArray[np.uint8]:
        """Records as they lie, shape (records, record bytes)."""
        return self._records.take(records).view(np.uint8).reshape(-1, self._width)

    def verify(self, told: Callable[[int, int], None] | None = None) -> None:
        """Read all of it and compare every checksum. Raises `CorpusError`. `told` hears of the
        buckets that are done, and how many there are.
        """
        for first, last, records in self._by_buckets():
            view = memoryview(records)
            start = int(self._offsets[first])
            for bucket in range(first, last):
                low = (self._offsets[bucket] - start) * self._width
                high = (self._offsets[bucket + 1] - start) * self._width
                if zlib.crc32(view[low:high]) != self._checksums[bucket]:
                    raise self._damaged(bucket)
            if told:
                told(last, self.layout.buckets)

    def _by_buckets(self) -> Iterator[tuple[int, int, bytes]]:
        for first in range(0, self.layout.buckets, _BUCKETS_AT_ONCE):
            last = min(first + _BUCKETS_AT_ONCE, self.layout.buckets)
            low, high = int(self._offsets[first]), int(self._offsets[last])
            yield (
                first,
                last,
                os.pread(self._file, (high - low) * self._width, HEADER_BYTES + low * self._width),
            )

    def between(self, first: int, last: int) -> Entries:
        """The whole digests of the records from one to before another, and their counts."""
        size = (last - first) * self._width
        read = os.pread(self._file, size, HEADER_BYTES + first * self._width)
        records = np.frombuffer(read, np.uint8).reshape(-1, self._width)
        buckets = self._buckets(np.arange(first, last, dtype=np.uint64))
        digests = np.empty((len(records), DIGEST_BYTES[self.kind]), np.uint8)
        left_out = self.layout.left_out
        begin = (buckets >> (self.layout.bits - 8 * left_out)).astype(">u4")
        digests[:, :left_out] = begin.view(np.uint8).reshape(-1, 4)[:, 4 - left_out :]
        digests[:, left_out:] = records[:, : self._rest]
        return Entries(digests, counts_in(records))

    def beginnings(self, step: int) -> NDArray[np.uint64]:
        """About the first eight bytes of every so-manieth digest as a number: their buckets."""
        buckets = self._buckets(np.arange(0, self.entries, step, dtype=np.uint64))
        return buckets.astype(np.uint64) << np.uint64(64 - self.layout.bits)

    def _buckets(self, records: NDArray[np.uint64]) -> NDArray[np.intp]:
        return np.searchsorted(self.offsets, records, side="right") - 1

    def first_from(self, number: int) -> int:
        """The first record whose digest begins with eight bytes of at least this number."""
        bucket = number >> 64 - self.layout.bits
        low, high = int(self._offsets[bucket]), int(self._offsets[bucket + 1])
        digests, _ = self.between(low, high)
        return low + int(np.searchsorted(beginnings(digests), np.uint64(number)))

    def _damaged(self, bucket: int) -> CorpusError:
        return CorpusError(
            f"{self.path}: the records of bucket {bucket:,} are damaged; compile it again, or "
            "fetch it again"
        )
