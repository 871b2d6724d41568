"""Corpora: how long compiling takes beside reading the file once, how large they are, and how long
looking up takes.
"""

from __future__ import annotations

import resource
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np

from hornfels.formats.corpus.building import build
from hornfels.formats.corpus.reading import Corpus

ENTRIES = 5_000_000
_AT_ONCE = 500_000
_BLOCK = 1 << 23


def _timed(act: Callable[[], object]) -> float:
    begun = time.perf_counter()
    act()
    return time.perf_counter() - begun


def _listed(path: Path, entries: int, size: int, *, in_order: bool) -> None:
    """A list as they are published: digests in hexadecimal with counts, in their order or not."""
    rng = np.random.default_rng(3)
    begin = rng.integers(0, 2**64, entries, np.uint64)
    begin = np.sort(begin) if in_order else begin
    with path.open("w") as file:
        for start in range(0, entries, _AT_ONCE):
            some = begin[start : start + _AT_ONCE]
            digests = rng.integers(0, 256, (len(some), size), np.uint8)
            digests[:, :8] = some.astype(">u8").view(np.uint8).reshape(-1, 8)
            counts = np.minimum(rng.zipf(1.5, len(some)), 10**7).tolist()
            text = digests.tobytes().hex().upper()
            file.writelines(
                f"{text[2 * size * n : 2 * size * (n + 1)]}:{count}\n"
                for n, count in enumerate(counts)
            )


def _read(path: Path) -> None:
    with path.open("rb") as file:
        while file.read(_BLOCK):
            pass


def corpora(entries: int = ENTRIES) -> None:
    """Lists of SHA-1 in their order, and of NT hashes in none."""
    print(f"\nCorpora: lists of {entries:,} hashes with counts, from memory that holds the file")
    with tempfile.TemporaryDirectory() as held:
        folder = Path(held)
        for kind, size, in_order in (("sha1", 20, True), ("nt", 16, False)):
            source, target = folder / "list", folder / "corpus.hfc"
            _listed(source, entries, size, in_order=in_order)
            reading = min(_timed(lambda: _read(source)) for _ in range(3))  # noqa: B023
            made = _timed(lambda: build(target, kind, [source]))  # type: ignore[arg-type] # noqa: B023
            most = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
            what = f"{kind}, {'in order' if in_order else 'in no order'}"
            print(
                f"  {what:<22} compiled in {made:5.2f} s, {made / reading:5.1f} times reading it "
                f"once ({reading:.2f} s); {most:,.0f} MB at most"
            )
            _looked_up(target)


def _looked_up(path: Path) -> None:
    rng = np.random.default_rng(5)
    with Corpus(path) as corpus:
        layout = corpus.layout
        every, _ = corpus.between(0, corpus.entries)
        some = every[rng.integers(0, len(every), 50_000)]
        asked = np.concatenate([some, rng.integers(0, 256, some.shape, np.uint8)])
        rng.shuffle(asked)
        digests = [row.tobytes() for row in asked]
        times = []
        for digest in digests:
            begun = time.perf_counter()
            corpus.count(digest)
            times.append(time.perf_counter() - begun)
        times.sort()
        batch = min(_timed(lambda: corpus.counts(asked)) for _ in range(5))
        print(
            f"  {'':<22} {layout.file_bytes / layout.entries:.1f} bytes an entry; one look-up p50 "
            f"{times[len(times) // 2] * 1e6:.1f} µs, p99 {times[len(times) * 99 // 100] * 1e6:.1f} "
            f"µs; {len(asked):,} at once {len(asked) / batch / 1e6:.1f} M/s; all checksums in "
            f"{_timed(corpus.verify):.2f} s"
        )
