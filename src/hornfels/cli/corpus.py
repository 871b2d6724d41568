"""`hornfels corpus`: lists of known-exposed passwords compiled, merged, looked at and asked."""

from __future__ import annotations

import sys
from binascii import unhexlify
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from functools import partial
from io import BufferedIOBase
from pathlib import Path
from typing import cast

from hornfels.cli.errors import fail, json_line, note, say
from hornfels.cli.lines import blocks
from hornfels.cli.progress import Teller
from hornfels.core.passwords.rules.exposed import ExposedOf
from hornfels.core.passwords.rules.rule import plural
from hornfels.formats.corpus.building import MEMORY, Progress, SourceKind, build, merge
from hornfels.formats.corpus.layout import DIGEST_BYTES, CorpusError, Layout
from hornfels.formats.corpus.reading import Corpus
from hornfels.formats.corpus.shelf import Part, exposed_in

_UNITS = {"reading": ("MB", 1_000_000), "writing": ("M entries", 1_000_000)}


@contextmanager
def _telling() -> Iterator[Teller]:
    """What goes wrong with a file ends the command, and leaves no half line behind."""
    teller = Teller()
    try:
        yield teller
    except CorpusError as error:
        teller.close()
        fail(str(error))
    except OSError as error:
        teller.close()
        fail(f"{error.filename or 'corpus'}: {error.strerror or error}")
    finally:
        teller.close()


def exposed_by(given: Sequence[str]) -> ExposedOf:
    """Corpora that are given as ``NAME=FILE.hfc``, for rules that name them. What cannot be opened
    ends the command.
    """
    return partial(exposed_in, dict(map(_given, given)))


def _given(text: str) -> tuple[str, list[Part]]:
    name, _, file = text.partition("=")
    if not name or not file:
        fail(f"--corpus {text}: give a name and a file, as in known=known.hfc")
    try:
        return name, [Part(file, Corpus(Path(file)))]
    except CorpusError as error:
        fail(f"{file}: {error}")
    except OSError as error:
        fail(f"{file}: {error.strerror or error}")


def build_corpus(
    path: Path, kind: SourceKind, sources: list[Path], *, look_alike: bool, megabytes: int
) -> None:
    """Compile sources into one corpus."""
    for source in sources:
        if not source.is_file():
            fail(f"{source}: there is no such file")
    memory = megabytes << 20 if megabytes else MEMORY
    with _telling() as teller:

        def told(progress: Progress) -> None:
            unit, size = _UNITS[progress.doing]
            teller(progress.doing, progress.done, progress.all, unit, size)

        made = build(path, kind, sources, look_alike=look_alike, memory=memory, told=told)
    if made.strange:
        note(f"{made.strange:,} words are not UTF-8 and were read as Windows-1252")
    _say(path, made.layout)


def merge_corpora(path: Path, sources: list[Path]) -> None:
    """Make one corpus of several."""
    with _telling() as teller:

        def told(progress: Progress) -> None:
            teller(progress.doing, progress.done, progress.all, "M", 1_000_000)

        layout = merge(path, sources, told=told)
    _say(path, layout)


def show_corpus(path: Path, *, as_json: bool) -> None:
    """What a corpus holds, after all of it was read and found whole."""
    with _telling() as teller, opened(path) as corpus:
        corpus.verify(lambda done, whole: teller("verifying", done, whole, "buckets", 1))
        held = corpus.layout
        if not as_json:
            _say(path, held)
            return
        say(
            json_line(
                {
                    "kind": held.kind,
                    "folded": held.folded,
                    "entries": held.entries,
                    "seen": held.seen,
                    "bytes": held.file_bytes,
                    "bytes_per_entry": round(held.file_bytes / max(held.entries, 1), 2),
                    "identity": corpus.identity,
                }
            )
        )


@contextmanager
def opened(path: Path) -> Iterator[Corpus]:
    """A corpus, of which is told by its name what is wrong with it."""
    try:
        corpus = Corpus(path)
    except CorpusError as error:
        raise CorpusError(f"{path}: {error}") from None
    with corpus:
        yield corpus


def _say(path: Path, held: Layout) -> None:
    what = "NT hashes" if held.kind == "nt" else "SHA-1 hashes"
    say(
        f"{path}: {held.entries:,} {what}{' of folded words' if held.folded else ''}, seen "
        f"{held.seen:,} times, {held.file_bytes:,} bytes"
    )


def find_in_corpus(path: Path, kind: SourceKind, *, as_json: bool) -> None:
    """Look up each line of standard input: passwords, or digests in hexadecimal."""
    with _telling(), opened(path) as corpus:
        if kind not in ("plain", corpus.kind):
            fail(f"{path}: it holds {corpus.kind} hashes; ask with --kind {corpus.kind} or plain")
        if kind != "plain" and corpus.layout.folded:
            fail(f"{path}: it holds folded words, which only a password can be; use --kind plain")
        for number, lines in blocks(cast(BufferedIOBase, sys.stdin.buffer)):
            answers = []
            try:
                for n, line in enumerate(lines, number):
                    text = line.removesuffix("\r")
                    if kind == "plain":
                        count = corpus.count_text(text)
                    elif text:
                        count = corpus.count(_digest(text, n, corpus))
                    else:
                        continue
                    answers.append(_answer(count, as_json=as_json))
            finally:
                # What stood before an unreadable line is answered all the same.
                sys.stdout.write("".join(answers))
                sys.stdout.flush()


def _answer(count: int, *, as_json: bool) -> str:
    if as_json:
        return f'{{"found": {"true" if count else "false"}, "count": {count}}}\n'
    return f"seen {plural(count, 'time')}\n" if count else "not seen\n"


def _digest(text: str, line: int, corpus: Corpus) -> bytes:
    size = 2 * DIGEST_BYTES[corpus.kind]
    try:
        if len(text) != size:
            raise ValueError
        return unhexlify(text)
    except ValueError:
        fail(f"standard input, line {line}: {size} hexadecimal digits are wanted, and nothing else")
