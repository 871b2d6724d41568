"""The corpora in a folder by their names: ``NAME.hfc``, and ``NAME+LABEL.hfc`` for what was added
to it later.
"""

from __future__ import annotations

import threading
import time
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path

from hornfels.core.passwords.rules.exposed import Seen
from hornfels.formats.corpus.layout import CorpusError
from hornfels.formats.corpus.reading import Corpus

ENDING = ".hfc"
_LOOK_EVERY = 1.0


@dataclass(frozen=True, slots=True)
class Part:
    """A file of a corpus: open, or with what is wrong with it."""

    file: str
    corpus: Corpus | None
    problem: str = ""


Parts = Mapping[str, Sequence[Part]]


class Shelf:
    """A folder with corpora, looked through once more when somebody asks and a second has passed.
    Many threads may ask. Without a folder it is empty.
    """

    def __init__(self, folder: Path | None) -> None:
        self._folder = folder
        self._lock = threading.Lock()
        self._looked = -_LOOK_EVERY
        self._files: dict[tuple[str, int, int, int], Part] = {}
        self._parts: Parts = {}

    def parts(self) -> Parts:
        """The files of each corpus, by its name."""
        with self._lock:
            if time.monotonic() - self._looked >= _LOOK_EVERY:
                self._look()
                self._looked = time.monotonic()
            return self._parts

    def exposed(self, names: tuple[str, ...]) -> Callable[[str], Seen] | None:
        """What tells how often a text was seen in these corpora, None if one is not here
        (`hornfels.core.passwords.rules.exposed.ExposedOf`).
        """
        return exposed_in(self.parts(), names)

    def _look(self) -> None:
        found: dict[tuple[str, int, int, int], Part] = {}
        parts: dict[str, list[Part]] = {}
        for path in sorted(self._folder.glob(f"*{ENDING}")) if self._folder else ():
            try:
                told = path.stat()
                key = (path.name, told.st_ino, told.st_size, told.st_mtime_ns)
                part = self._files.get(key) or _opened(path)
            except OSError as error:
                part, key = Part(path.name, None, error.strerror or str(error)), None
            if key:
                found[key] = part
            parts.setdefault(path.name.removesuffix(ENDING).partition("+")[0], []).append(part)
        # What is no longer named here is given back when nobody asks it any more.
        self._files, self._parts = found, parts


def _opened(path: Path) -> Part:
    try:
        return Part(path.name, Corpus(path))
    except CorpusError as error:
        return Part(path.name, None, str(error))


def exposed_in(parts: Parts, names: tuple[str, ...]) -> Callable[[str], Seen] | None:
    """What tells how often a text was seen in corpora, None if one of them is not there."""
    if any(name not in parts for name in names):
        return None
    chosen = [(name, parts[name]) for name in names]

    def seen(text: str) -> Seen:
        times, unread = [], []
        digests: dict[tuple[str, bool], bytes] = {}
        for name, files in chosen:
            count = 0
            for part in files:
                try:
                    count += _count(part, text, digests)
                except (CorpusError, OSError):
                    unread.append(name)
            if count:
                times.append((name, count))
        return Seen(tuple(times), tuple(dict.fromkeys(unread)))

    return seen


def _count(part: Part, text: str, digests: dict[tuple[str, bool], bytes]) -> int:
    if part.corpus is None:
        raise CorpusError(part.problem)
    form = part.corpus.kind, part.corpus.layout.folded
    if form not in digests:
        digests[form] = part.corpus.digest_of(text)
    return part.corpus.count(digests[form])
