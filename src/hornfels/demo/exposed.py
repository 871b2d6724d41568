"""What others know of the invented domain's passwords: an invented corpus, and the hashes that its
accounts would have. All of it comes from a fixed seed.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from itertools import islice, product
from pathlib import Path
from random import Random

import numpy as np

from hornfels.core.passwords.digests import nt_hash, nt_hashes
from hornfels.core.passwords.words import WORDS
from hornfels.formats.corpus.entries import Entries, combined
from hornfels.formats.corpus.runs import Held, Sorted, merged
from hornfels.formats.corpus.writing import write_corpus

CORPUS = "known-worldwide"
ENTRIES = 2_000_000
EXPOSED = 31
"""Accounts on the list, one of them with no password at all."""
_SHARED = (7, 3)
_SEED = 1184
_SEASONS = ("Spring", "Summer", "Autumn", "Winter")
_ENDS = ("", "!", "1", "123", "?", "#", "!!", "01")
_AT_ONCE = 50_000


def known_words() -> Iterator[str]:
    """Passwords that everybody knows, none of them twice, the most frequent first. They begin with
    the empty one.
    """
    seen: set[str] = set()
    years = [str(year) for year in range(2029, 1959, -1)]
    everyday = ("", "password", "welcome", "letmein", "secret", "qwerty", "admin", "hello")
    numbers = [str(number) for number in range(100)]
    capitals = [word.capitalize() for word in WORDS]
    parts = (
        (everyday, ("", "1", "123", "1234"), ("",)),
        (_SEASONS, ("", "-", "_"), [year + end for year in years for end in _ENDS]),
        (capitals, years, _ENDS),
        (WORDS, years, _ENDS),
        (capitals, numbers, _ENDS),
        (capitals, capitals, ("", "1")),
    )
    for part in parts:
        for written in map("".join, product(*part)):
            if written not in seen:
                seen.add(written)
                yield written


def make_corpus(folder: Path, entries: int = ENTRIES) -> Path:
    """Write the corpus into a folder, if it is not there: the later a word, the less often seen."""
    path = folder / f"{CORPUS}.hfc"
    if path.exists():
        return path
    folder.mkdir(parents=True, exist_ok=True)
    words, parts, rank = islice(known_words(), entries), list[Sorted](), 1
    while some := list(islice(words, _AT_ONCE)):
        ranks = np.arange(rank, rank + len(some))
        counts = np.maximum(3e6 / ranks**0.85, 1).astype(np.uint32)
        parts.append(Held(combined(*Entries(nt_hashes(some), counts))))
        rank += len(some)
    making = folder / f".{CORPUS}.making"
    write_corpus(making, "nt", merged(parts), most=rank)
    making.replace(path)
    return path


def hash_lines(names: Sequence[str]) -> bytes:
    """The hashes of accounts as a file has them: 31 on the list, one of these blank, two groups
    that share a password, and everybody else with one of their own.
    """
    random = Random(_SEED)
    passwords = {name: _own(random) for name in names}
    known = random.sample(list(islice(known_words(), 1, 20_000)), EXPOSED - 1)
    services = [name for name in names if name.startswith("svc-")]
    for size in _SHARED:
        same = _own(random)
        for name in random.sample(services, min(size, len(services))):
            passwords[name] = same
            services.remove(name)
    people = [name for name in names if "." in name and not name.startswith("k-")]
    kiosks = [name for name in names if name.startswith("kiosk-")]
    chosen = [*random.sample(kiosks, min(5, len(kiosks))), *services[:4]]
    chosen += random.sample(people, min(EXPOSED - len(chosen), len(people)))
    for name, password in zip(chosen, ["", *known], strict=False):
        passwords[name] = password
    return b"".join(
        f"{name},{nt_hash(password).hex()}\n".encode() for name, password in passwords.items()
    )


def _own(random: Random) -> str:
    alphabet = "abcdefghijkmnopqrstuvwxyzABCDEFGHJKLMNPQRSTUVWXYZ23456789-+!?"
    return "".join(random.choices(alphabet, k=18))


def put_hashes(folder: Path, dns_name: str, names: Sequence[str]) -> None:
    """Put the hashes where they are looked for, closed to everybody else, if they are not there."""
    path = folder / f"{dns_name}.hashes"
    if path.exists():
        return
    folder.mkdir(parents=True, exist_ok=True)
    making = folder / f".{dns_name}.making"
    making.touch(0o600)
    making.write_bytes(hash_lines(names))
    making.replace(path)
