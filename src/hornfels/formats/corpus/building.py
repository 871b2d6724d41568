"""Corpora compiled from sources of any size, and merged, in bounded memory.

What is read is sorted in runs, which are written to a folder beside the corpus and merged in the
end. A compilation that was ended in the middle goes on where it stopped: what the folder's runs
hold is not read once more.
"""

from __future__ import annotations

import fcntl
import json
import os
import shutil
from collections import deque
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import Future, ThreadPoolExecutor
from contextlib import contextmanager
from dataclasses import dataclass, field
from pathlib import Path
from typing import Literal, NamedTuple

from hornfels.formats.corpus.entries import Entries, combined
from hornfels.formats.corpus.layout import DIGEST_BYTES, CorpusError, Kind, Layout, bits_for
from hornfels.formats.corpus.parsing import LineError, parse_hashes, parse_words
from hornfels.formats.corpus.reading import Corpus
from hornfels.formats.corpus.runs import Held, Run, Sorted, entries_in, merged, write_run
from hornfels.formats.corpus.sources import Block, blocks, line_at
from hornfels.formats.corpus.writing import write_corpus

SourceKind = Literal["sha1", "nt", "plain"]
MEMORY = 512 << 20
_THREADS = 2


class Progress(NamedTuple):
    """How far it is: what is being done, and how much of how much, in bytes or in entries."""

    doing: Literal["reading", "writing"]
    done: int
    all: int


Told = Callable[[Progress], None]


class Built(NamedTuple):
    """A corpus that was made; ``strange`` words were not UTF-8 and read as Windows-1252."""

    layout: Layout
    strange: int


def build(
    path: Path,
    kind: SourceKind,
    sources: Sequence[Path],
    *,
    look_alike: bool = False,
    memory: int = MEMORY,
    told: Told | None = None,
) -> Built:
    """Compile sources into one corpus, their counts added up. Plain words become NT hashes, and so
    can be compared with accounts too; with `look_alike`, of how they look. `memory` in bytes is
    what sorting may take. Raises `CorpusError` and OSError; then there is no corpus, or the one
    that was there before.
    """
    if look_alike and kind != "plain":
        raise CorpusError("only plain words can be folded: nobody knows how the others look")
    digests: Kind = "nt" if kind == "plain" else kind
    with _working(path) as folder:
        made = _Making(folder, kind, digests, look_alike, sources, memory, told)
        made.take_up()
        parts = made.read_all()
        layout = _put_together(path, folder, digests, parts, look_alike, told)
    return Built(layout, made.strange)


def merge(path: Path, sources: Sequence[Path], *, told: Told | None = None) -> Layout:
    """Make one corpus of several, counts added up. Raises `CorpusError` and OSError."""
    parts = [_opened(source, told) for source in sources]
    first = parts[0]
    for source, part in zip(sources, parts, strict=True):
        if part.kind != first.kind or part.layout.folded != first.layout.folded:
            raise CorpusError(
                f"{source}: holds {_what(part.layout)}, and {sources[0]} {_what(first.layout)}; "
                "only corpora of one kind can be merged"
            )
    with _working(path) as folder:
        return _put_together(path, folder, first.kind, parts, first.layout.folded, told)


def _what(layout: Layout) -> str:
    return f"{layout.kind} of folded words" if layout.folded else layout.kind


def _opened(source: Path, told: Told | None) -> Corpus:
    try:
        part = Corpus(source)
        part.verify(told and (lambda done, all_: told(Progress("reading", done, all_))))
    except CorpusError as error:
        text = str(error)
        raise CorpusError(text if text.startswith(str(source)) else f"{source}: {text}") from None
    return part


@contextmanager
def _working(path: Path) -> Iterator[Path]:
    """The folder for a compilation, which is gone when it succeeds. Only one works at a corpus."""
    folder = path.with_name(f"{path.name}.work")
    folder.mkdir(exist_ok=True)
    handle = os.open(folder, os.O_RDONLY)
    try:
        try:
            fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            raise CorpusError(
                f"{path}: another compilation works at it; wait until it is done, or name another "
                "file"
            ) from None
        if not folder.exists() or folder.stat().st_ino != os.fstat(handle).st_ino:
            raise CorpusError(f"{path}: another compilation has just made it; look at it first")
        try:
            yield folder
        except CorpusError:
            # Sources have to be mended first: what was read of them is of no more use.
            shutil.rmtree(folder)
            raise
        shutil.rmtree(folder)
    finally:
        os.close(handle)


def _put_together(
    path: Path,
    folder: Path,
    kind: Kind,
    parts: Sequence[Sorted],
    look_alike: bool,
    told: Told | None,
) -> Layout:
    """Merge sorted parts into a corpus, and put it in its place."""
    entries = sum(part.entries for part in parts)
    pieces = _counted(merged(parts), entries, told)
    ready = folder / "ready.hfc"
    layout = write_corpus(ready, kind, pieces, most=entries, folded=look_alike)
    if bits_for(layout.entries) < layout.bits:
        # So many were the same that the tables are larger than they have to be.
        smaller = folder / "smaller.hfc"
        again = merged([Corpus(ready)])
        layout = write_corpus(smaller, kind, again, most=layout.entries, folded=look_alike)
        ready = smaller
    ready.replace(path)
    return layout


def _counted(pieces: Iterator[Entries], entries: int, told: Told | None) -> Iterator[Entries]:
    """Pieces with word of how far it is, the next one made while one is written."""
    done = 0
    with ThreadPoolExecutor(1) as pool:
        coming = pool.submit(next, pieces, None)
        while (piece := coming.result()) is not None:
            coming = pool.submit(next, pieces, None)
            yield piece
            done += len(piece.counts)
            if told:
                told(Progress("writing", done, entries))


@dataclass(slots=True)
class _Making:
    """What is read so far. The folder's list says of each run up to where in which source it goes,
    so that a run and its place are there together or not at all.
    """

    folder: Path
    kind: SourceKind
    digests: Kind
    look_alike: bool
    sources: Sequence[Path]
    memory: int
    told: Told | None
    runs: list[Path] = field(default_factory=list)
    strange: int = 0
    source: int = 0
    start: int = 0
    """Bytes of the source's text that are in runs."""

    def take_up(self) -> None:
        """Go on where an earlier compilation of the very same sources stopped, or begin anew."""
        known = self._list()
        try:
            held = json.loads((self.folder / "list.json").read_text())
            same = held["of"] == known
        except (OSError, ValueError, KeyError, TypeError):
            same = False
        if same and all((self.folder / name).exists() for name in held["runs"]):
            self.runs = [self.folder / name for name in held["runs"]]
            self.strange, self.source, self.start = held["strange"], held["source"], held["start"]
            return
        for left in self.folder.iterdir():
            left.unlink()

    def _list(self) -> list[object]:
        told = [source.stat() for source in self.sources]
        return [
            self.kind,
            self.look_alike,
            *(
                [str(path.absolute()), one.st_size, one.st_mtime_ns, one.st_ino]
                for path, one in zip(self.sources, told, strict=True)
            ),
        ]

    def read_all(self) -> Sequence[Sorted]:
        """Read the sources from where it stands, run by run. Gives what is to be merged."""
        most = entries_in(self.memory)
        held: list[Sorted] = []
        entries = 0
        sizes = [source.stat().st_size for source in self.sources]
        for number in range(self.source, len(self.sources)):
            for block, found, strange in self._parsed(self.sources[number]):
                held.append(Held(found))
                entries += len(found.counts)
                self.strange += strange
                if entries >= most:
                    self._run(held, number, block.start + len(block.text))
                    held, entries = [], 0
                if self.told:
                    done = sum(sizes[:number]) + block.read
                    self.told(Progress("reading", done, sum(sizes)))
            self.start = 0
        # What is left has not to go by the disk.
        return [*(Run(run, DIGEST_BYTES[self.digests]) for run in self.runs), *held]

    def _parsed(self, source: Path) -> Iterator[tuple[Block, Entries, int]]:
        """What is in the blocks that are not yet in runs, some of them ahead in other threads:
        most of the work is done outside of the interpreter's lock.
        """
        unread = (block for block in blocks(source) if block.start >= self.start)
        with ThreadPoolExecutor(_THREADS) as pool:
            ahead: deque[tuple[Block, Future[tuple[Entries, int]]]] = deque()
            for block in unread:
                ahead.append((block, pool.submit(self._parse, block)))
                if len(ahead) > 2 * _THREADS:
                    yield self._come(source, *ahead.popleft())
            while ahead:
                yield self._come(source, *ahead.popleft())

    def _parse(self, block: Block) -> tuple[Entries, int]:
        if self.kind == "plain":
            found, strange = parse_words(block.text, look_alike=self.look_alike)
            return combined(*found), strange
        return combined(*parse_hashes(block.text, self.kind)), 0

    def _come(
        self, source: Path, block: Block, found: Future[tuple[Entries, int]]
    ) -> tuple[Block, Entries, int]:
        try:
            return block, *found.result()
        except LineError as error:
            line = line_at(source, block.start, error.line)
            raise CorpusError(f"{source}, line {line:,}: {error}") from None

    def _run(self, held: Sequence[Sorted], source: int, start: int) -> None:
        path = self.folder / f"{len(self.runs)}.run"
        write_run(path, merged(held))
        self.runs.append(path)
        self.source, self.start = source, start
        listed = {
            "of": self._list(),
            "runs": [run.name for run in self.runs],
            "strange": self.strange,
            "source": source,
            "start": start,
        }
        partly = self.folder / "list.part"
        partly.write_text(json.dumps(listed))
        partly.replace(self.folder / "list.json")
