"""Corpora as files, against a plain dictionary: every kind of source, what is cut or damaged, and
compilations that are ended, repeated or begun twice.
"""

from __future__ import annotations

import fcntl
import gzip
import os
import zlib
from collections import Counter
from collections.abc import Iterable
from pathlib import Path
from random import Random

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from hornfels.core.passwords.digests import nt_hash, nt_hashes, sha1
from hornfels.core.passwords.folding import folded
from hornfels.formats.corpus import building, runs, sources
from hornfels.formats.corpus.building import build, merge
from hornfels.formats.corpus.entries import Entries
from hornfels.formats.corpus.layout import (
    HEADER_BYTES,
    MOST_COUNTED,
    CorpusError,
    Kind,
    Layout,
    layout_of,
)
from hornfels.formats.corpus.parsing import parse_hashes
from hornfels.formats.corpus.reading import Corpus
from hornfels.formats.corpus.runs import write_run

WIDTH = {"sha1": 20, "nt": 16}


def digests(kind: Kind, random: Random, count: int) -> list[bytes]:
    """Digests some of which share their beginnings, at the borders of buckets too."""
    width = WIDTH[kind]
    heads = (b"", b"\0" * 9, b"\xff" * 9, b"\x7f\xff\xff", b"\x80", bytes(4), b"\x01\0\0\0")
    made = [b"\0" * width, b"\xff" * width]
    while len(made) < count:
        head = random.choice(heads)
        made.append(head + random.randbytes(width - len(head)))
    return made[:count]


def lines(counted: Iterable[tuple[bytes, int | None]]) -> bytes:
    return b"".join(
        digest.hex().encode() + (b"" if count is None else b":%d" % count) + b"\n"
        for digest, count in counted
    )


def write(path: Path, content: bytes) -> Path:
    path.write_bytes(content)
    return path


def assert_holds(corpus: Corpus, wanted: Counter[bytes], absent: Iterable[bytes]) -> None:
    """By every way of asking."""
    corpus.verify()
    asked = [*wanted, *(digest for digest in absent if digest not in wanted)]
    expected = [wanted.get(digest, 0) for digest in asked]
    assert [corpus.count(digest) for digest in asked] == expected
    many = np.frombuffer(b"".join(asked), np.uint8).reshape(-1, WIDTH[corpus.kind])
    assert corpus.counts(many).tolist() == expected
    everything, counts = corpus.between(0, corpus.entries)
    assert [row.tobytes() for row in everything] == sorted(wanted)
    assert (corpus.entries, corpus.layout.seen) == (len(wanted), int(counts.sum(dtype=np.uint64)))


@pytest.mark.parametrize("kind", ["sha1", "nt"])
@pytest.mark.parametrize(
    "count", [0, 1, 2, 3, 40, 3_000, pytest.param(30_000, marks=pytest.mark.thorough)]
)
def test_every_digest_is_found_with_its_count_and_no_other(
    tmp_path: Path, kind: Kind, count: int
) -> None:
    random = Random(count)
    given_ = [(digest, random.randint(1, 10**6)) for digest in digests(kind, random, count)]
    twice = random.sample(given_, min(count, 50))
    wanted: Counter[bytes] = Counter()
    for digest, seen in given_ + twice:
        wanted[digest] += seen
    random.shuffle(given_)
    first = write(tmp_path / "first", lines(given_).replace(b"\n", b"\r\n").upper())
    second = write(tmp_path / "second.gz", gzip.compress(lines(twice)))
    build(tmp_path / "c.hfc", kind, [first, second])
    near = [digest[:-1] + bytes([digest[-1] ^ 1]) for digest in wanted]
    with Corpus(tmp_path / "c.hfc") as corpus:
        assert_holds(corpus, wanted, [*near, *digests(kind, Random(-1), 50)])
    assert [path.name for path in tmp_path.glob("c.hfc*")] == ["c.hfc"]


@settings(max_examples=40, deadline=None)
@given(
    entries=st.lists(
        st.tuples(
            st.sampled_from(digests("nt", Random(5), 60)),
            st.one_of(st.none(), st.integers(0, 99), st.just(2**40)),
        ),
        max_size=120,
    ),
    split=st.integers(0, 120),
    odd=st.sampled_from([b"", b"\n\n", b"\r\n", b"  \n"]),
    end=st.booleans(),
)
def test_counts_are_added_up_whatever_the_order_and_the_lines(
    entries: list[tuple[bytes, int | None]],
    split: int,
    odd: bytes,
    end: bool,
    tmp_path_factory: pytest.TempPathFactory,
) -> None:
    folder = tmp_path_factory.mktemp("corpus")
    wanted: Counter[bytes] = Counter()
    for digest, seen in entries:
        wanted[digest] = min(wanted[digest] + (1 if seen is None else seen), MOST_COUNTED)
    wanted = +wanted
    parts = [entries[:split], entries[split:]]
    texts = [odd.join([b"", lines(part), b""]) for part in parts]
    files = [
        write(folder / f"{n}", text if end else text.removesuffix(b"\n"))
        for n, text in enumerate(texts)
    ]
    build(folder / "all.hfc", "nt", files)
    for n, file in enumerate(files):
        build(folder / f"{n}.hfc", "nt", [file])
    merge(folder / "merged.hfc", [folder / "0.hfc", folder / "1.hfc"])
    assert (folder / "merged.hfc").read_bytes() == (folder / "all.hfc").read_bytes()
    with Corpus(folder / "all.hfc") as corpus:
        assert_holds(corpus, wanted, digests("nt", Random(6), 5))


WORDS = [
    "summer",
    "Summer",
    "Sömmer",
    "p@$$w0rd",
    "x" * 27,
    "y" * 28,
    "z" * 300,
    "😀" * 20,
    "orb it",
]


@given(st.lists(st.text(st.characters(codec="utf-8"), max_size=40)))
def test_many_nt_hashes_are_those_of_each(texts: list[str]) -> None:
    assert [row.tobytes() for row in nt_hashes(texts)] == [nt_hash(text) for text in texts]


@pytest.mark.parametrize("look_alike", [False, True])
def test_plain_words_are_found_as_passwords(tmp_path: Path, look_alike: bool) -> None:
    ascii_only = write(tmp_path / "a", "\r\n".join(filter(str.isascii, WORDS)).encode())
    mixed = write(tmp_path / "b", b"\xef\xbb\xbf" + "\n".join(WORDS).encode() + b"\n\nM\xfcller\n")
    made = build(tmp_path / "c.hfc", "plain", [ascii_only, mixed], look_alike=look_alike)
    assert made.strange == 1
    with Corpus(tmp_path / "c.hfc") as corpus:
        assert corpus.kind == "nt"
        for word in WORDS:
            form = folded if look_alike else str
            times = sum((1 + other.isascii()) for other in WORDS if form(other) == form(word))
            assert corpus.count_text(word) == times
        assert corpus.count_text("Müller") == 1
        assert corpus.count_text("") == 0
        assert corpus.count_text("5ummer") == (corpus.count_text("summer") if look_alike else 0)


def test_a_list_of_sha1_is_asked_by_the_password(tmp_path: Path) -> None:
    listed = write(tmp_path / "a", b"db4baacb8d20becf1ec8c89b14d59af86d60eb19:7")
    build(tmp_path / "c.hfc", "sha1", [listed])
    with Corpus(tmp_path / "c.hfc") as corpus:
        assert (corpus.count_text("orbit"), corpus.count_text("Orbit")) == (7, 0)
        assert corpus.count(sha1("orbit")) == 7


GOOD = lines([(sha1("orbit"), 7)])


@pytest.mark.parametrize(
    ("text", "line", "said"),
    [
        (GOOD + b"orbit-keeper\n", 2, "40 hexadecimal digits are wanted"),
        (GOOD * 9 + b"\n" + nt_hash("x").hex().encode(), 11, "this is nt, try --kind nt"),
        (GOOD[5:], 1, "leaves out the first five"),
        (GOOD + GOOD.replace(b":7", b":7x"), 2, "how often it was seen, in digits"),
        (GOOD + GOOD.replace(b":7", b":"), 2, "how often it was seen, in digits"),
        (GOOD + GOOD.replace(b":7", b":-7"), 2, "how often it was seen, in digits"),
        (GOOD.replace(b"a", b"g"), 1, "40 hexadecimal digits are wanted"),
    ],
)
def test_a_line_that_cannot_be_read_is_named_and_not_told(
    tmp_path: Path, text: bytes, line: int, said: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    """In small blocks too, where the number of a line is not that in its block."""
    for block in (sources._BLOCK, 64):
        monkeypatch.setattr(sources, "_BLOCK", block)
        listed = write(tmp_path / "list", text)
        with pytest.raises(CorpusError) as told:
            build(tmp_path / "c.hfc", "sha1", [listed])
        assert str(told.value).startswith(f"{listed}, line {line}: ")
        assert said in str(told.value)
        assert "orbit" not in str(told.value)
    assert [path.name for path in tmp_path.iterdir()] == ["list"]


@pytest.fixture
def corpus_file(tmp_path: Path) -> Path:
    listed = write(tmp_path / "list", lines((d, 3) for d in digests("sha1", Random(1), 500)))
    build(tmp_path / "c.hfc", "sha1", [listed])
    return tmp_path / "c.hfc"


def test_a_file_that_is_cut_is_refused(corpus_file: Path) -> None:
    content = corpus_file.read_bytes()
    layout = Corpus(corpus_file).layout
    borders = (0, 8, HEADER_BYTES, layout.offsets_at, layout.checksums_at, len(content))
    for border in borders:
        for size in (border - 1, border, border + 1):
            if size >= 0 and size != len(content):
                cut = (content + b"\0")[:size]
                with pytest.raises(CorpusError, match=r"it is|cut off|it has"):
                    Corpus(write(corpus_file.with_name("cut"), cut))


def test_a_flipped_bit_is_noticed_wherever_it_is(corpus_file: Path) -> None:
    content = corpus_file.read_bytes()
    asked = digests("sha1", Random(1), 500)
    layout = Corpus(corpus_file).layout
    padding = range(HEADER_BYTES + layout.entries * layout.record_bytes, layout.offsets_at)
    for at in [*range(HEADER_BYTES), *range(HEADER_BYTES, len(content), 13)]:
        if at in padding:
            continue
        bad = bytearray(content)
        bad[at] ^= 1 << at % 8
        write(flipped := corpus_file.with_name("flipped"), bytes(bad))
        with pytest.raises(CorpusError):
            Corpus(flipped).verify()
        if HEADER_BYTES <= at < layout.offsets_at:
            with pytest.raises(CorpusError, match="are damaged"):
                list(map(Corpus(flipped).count, asked))


@given(st.lists(st.tuples(st.integers(8, 123), st.integers(0, 255)), min_size=1, max_size=6))
def test_a_header_that_somebody_made_up_is_refused(changes: list[tuple[int, int]]) -> None:
    """Also with the checksum that belongs to it."""
    good = Layout("sha1", folded=False, bits=8, entries=3, seen=4)
    header = bytearray(good.header(7))
    for at, value in changes:
        header[at] = value
    header[-4:] = zlib.crc32(header[:-4]).to_bytes(4, "little")
    try:
        found, _ = layout_of(bytes(header), good.file_bytes)
    except CorpusError:
        return
    assert found.file_bytes == good.file_bytes
    assert found.record_bytes == good.record_bytes


@pytest.mark.usefixtures("corpus_file")
def test_corpora_of_different_kinds_are_not_merged(tmp_path: Path) -> None:
    build(tmp_path / "w.hfc", "plain", [write(tmp_path / "w", b"orbit\n")])
    build(tmp_path / "f.hfc", "plain", [tmp_path / "w"], look_alike=True)
    for other in ("c.hfc", "f.hfc"):
        with pytest.raises(CorpusError, match="only corpora of one kind"):
            merge(tmp_path / "m.hfc", [tmp_path / "w.hfc", tmp_path / other])
    with pytest.raises(CorpusError, match="only plain words can be folded"):
        build(tmp_path / "m.hfc", "nt", [tmp_path / "w"], look_alike=True)
    assert not (tmp_path / "m.hfc").exists()


class KilledError(BaseException):
    """Stands for the end of the process."""


def test_a_compilation_goes_on_where_it_was_ended(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Ended after every one of its runs and in the midst of writing them, in bounded memory."""
    monkeypatch.setattr(sources, "_BLOCK", 4096)
    monkeypatch.setattr(runs, "_MOST_AT_ONCE", 512)
    monkeypatch.setattr(runs, "_STEP", 16)
    random = Random(8)
    whole = [(digest, random.randint(1, 9)) for digest in digests("nt", random, 4_000)]
    files = [
        write(tmp_path / "one", lines(whole[:2_500])),
        write(tmp_path / "two", lines(whole[1_000:])),
    ]
    wanted: Counter[bytes] = Counter()
    for digest, seen in whole[:2_500] + whole[1_000:]:
        wanted[digest] += seen
    path = tmp_path / "c.hfc"
    parsed = 0

    def counted(block: bytes, kind: Kind) -> object:
        nonlocal parsed
        parsed += 1
        return parse_hashes(block, kind)

    monkeypatch.setattr(building, "parse_hashes", counted)
    build(path, "nt", files, memory=10**9)
    at_once, parsed = parsed, 0
    plain = path.read_bytes()
    ended = 0
    while True:
        done = 0

        def run(to: Path, pieces: Iterable[Entries]) -> None:
            nonlocal done
            done += 1
            if done == 2:
                to.with_suffix(".part").write_bytes(b"half a run")
                raise KilledError
            write_run(to, pieces)

        monkeypatch.setattr(building, "write_run", run)
        try:
            build(path, "nt", files, memory=24_000)
        except KilledError:
            ended += 1
            continue
        break
    assert ended > 5
    # What was read ahead of the end is all that is read twice.
    assert parsed < at_once + ended * 12
    assert path.read_bytes() == plain
    with Corpus(path) as corpus:
        assert_holds(corpus, wanted, digests("nt", Random(9), 20))
    assert not path.with_name("c.hfc.work").exists()


def test_other_sources_are_not_mixed_with_what_an_ended_compilation_left(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(sources, "_BLOCK", 256)
    first, second = digests("nt", Random(1), 300), digests("nt", Random(2), 300)[2:]
    source = write(tmp_path / "list", lines((digest, 1) for digest in first))

    def killed(_to: Path, _pieces: object) -> None:
        raise KilledError

    with monkeypatch.context() as patched:
        patched.setattr(building, "write_corpus", lambda *_, **__: killed(source, None))
        with pytest.raises(KilledError):
            build(tmp_path / "c.hfc", "nt", [source], memory=10_000)
    assert list((tmp_path / "c.hfc.work").glob("*.run"))
    write(source, lines((digest, 1) for digest in second))
    build(tmp_path / "c.hfc", "nt", [source], memory=10_000)
    with Corpus(tmp_path / "c.hfc") as corpus:
        assert_holds(corpus, Counter(second), first[2:])


def test_two_compilations_of_one_corpus_do_not_mix(tmp_path: Path) -> None:
    source = write(tmp_path / "list", GOOD)
    folder = tmp_path / "c.hfc.work"
    folder.mkdir()
    handle = os.open(folder, os.O_RDONLY)
    fcntl.flock(handle, fcntl.LOCK_EX)
    with pytest.raises(CorpusError, match="another compilation works at it"):
        build(tmp_path / "c.hfc", "sha1", [source])
    assert folder.exists()
    os.close(handle)
    build(tmp_path / "c.hfc", "sha1", [source])
    assert Corpus(tmp_path / "c.hfc").entries == 1


def test_what_is_open_goes_on_when_a_new_version_comes(corpus_file: Path, tmp_path: Path) -> None:
    old = Corpus(corpus_file)
    build(corpus_file, "sha1", [write(tmp_path / "list", GOOD)])
    new = Corpus(corpus_file)
    assert (old.count(sha1("orbit")), new.count(sha1("orbit"))) == (0, 7)
    assert old.count(b"\xff" * 20) == 3
    assert old.identity != new.identity
