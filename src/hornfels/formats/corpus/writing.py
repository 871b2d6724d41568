"""A corpus written in one go from sorted entries."""

from __future__ import annotations

import os
from collections.abc import Iterable, Iterator
from pathlib import Path
from zlib import crc32

import numpy as np

from hornfels.formats.corpus.entries import Entries, beginnings, records_of
from hornfels.formats.corpus.layout import (
    COUNT_BYTES,
    DIGEST_BYTES,
    HEADER_BYTES,
    Kind,
    Layout,
    bits_for,
)

_AT_ONCE = 1 << 15


def write_corpus(
    path: Path, kind: Kind, pieces: Iterable[Entries], *, most: int, folded: bool = False
) -> Layout:
    """Write a corpus of entries that come in their order, each digest once; `most` is how many they
    may be. The file is on the disk when this returns, but should be put in its place only then.
    """
    bits = bits_for(most)
    digest_bytes = DIGEST_BYTES[kind]
    left_out = bits // 8
    width = digest_bytes - left_out + COUNT_BYTES
    offsets = np.zeros((1 << bits) + 1, "<u8")
    checksums = np.zeros(1 << bits, "<u4")
    entries = seen = 0
    with path.open("wb") as file:
        file.write(bytes(HEADER_BYTES))
        for digests, counts in _small(pieces):
            written = records_of(digests[:, left_out:], counts)
            buckets = (beginnings(digests) >> np.uint64(64 - bits)).astype(np.int64)
            starts = np.flatnonzero(np.diff(buckets, prepend=-1))
            numbers = buckets[starts]
            ends = np.append(starts[1:], len(digests))
            offsets[numbers + 1] += (ends - starts).astype(np.uint64)
            first = int(numbers[0])
            found = [
                crc32(written[start:end])
                for start, end in zip(
                    (starts[1:] * width).tolist(), (ends[1:] * width).tolist(), strict=True
                )
            ]
            # The first bucket of a piece may be the last one of the piece before.
            checksums[first] = crc32(written[: ends[0] * width], int(checksums[first]))
            checksums[numbers[1:]] = found
            file.write(written)
            entries += len(digests)
            seen += int(counts.sum(dtype=np.uint64))
        np.cumsum(offsets, out=offsets)
        made = Layout(kind, folded, bits, entries, seen)
        file.write(bytes(made.offsets_at - file.tell()))
        tables = offsets.tobytes(), checksums.tobytes()
        for table in tables:
            file.write(table)
        file.seek(0)
        file.write(made.header(crc32(tables[1], crc32(tables[0]))))
        file.flush()
        os.fsync(file.fileno())
    return made


def _small(pieces: Iterable[Entries]) -> Iterator[Entries]:
    """Pieces that stay in the processor's cache."""
    for digests, counts in pieces:
        for start in range(0, len(counts), _AT_ONCE):
            yield Entries(digests[start : start + _AT_ONCE], counts[start : start + _AT_ONCE])
