"""Accounts held against corpora, against each other, and against what they are called, by the NT
hashes of their passwords.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hornfels.core.domain.estate import Bools, Estate, Int64
from hornfels.core.exposure.derived import derived_of
from hornfels.core.passwords.digests import nt_hash, nt_hashes
from hornfels.core.passwords.rules.blocked import own_names
from hornfels.core.passwords.rules.rule import subject_of

Digests = NDArray[np.uint8]
CountsOf = Callable[[Digests], NDArray[np.uint32]]
"""Tells of many digests how often each was seen."""
Told = Callable[[int, int], None]
"""Hears how many accounts are done, and of how many."""

_AT_ONCE = 500
"""Accounts whose names are tried at a time."""


@dataclass(frozen=True, slots=True, eq=False)
class Hashes:
    """The NT hashes of accounts by their rows, each row once; ``digests`` has the shape
    (rows, 16).
    """

    rows: Int64
    digests: Digests


@dataclass(frozen=True, slots=True, eq=False)
class Exposures:
    """Rows of accounts by what is known of their passwords: on which lists they stand, that they
    are blank, made of one's own name or of a term of the house, and which accounts have the same
    one, the largest groups first. Blank ones count as nothing else but listed.
    """

    lists: Mapping[str, Int64]
    blank: Int64
    own_name: Int64
    house: Int64
    shared: tuple[Int64, ...]


def on_lists(hashes: Hashes, corpora: Mapping[str, Sequence[CountsOf]]) -> Mapping[str, Int64]:
    """The accounts on each list, which may be kept in several parts."""
    found = {}
    for name, parts in corpora.items():
        on = np.zeros(len(hashes.rows), np.bool_)
        for counts_of in parts:
            on |= counts_of(hashes.digests) > 0
        found[name] = np.sort(hashes.rows[on])
    return found


def watch(
    estate: Estate,
    hashes: Hashes,
    corpora: Mapping[str, Sequence[CountsOf]],
    house: Sequence[str],
    year: int,
    told: Told,
) -> Exposures:
    """What is known of the passwords of accounts. `house` are the terms of the house, `year` is the
    present one, for passwords that end with it.
    """
    keys = _keys(hashes.digests)
    blank = (hashes.digests == np.frombuffer(nt_hash(""), np.uint8)).all(axis=1)
    of_house = np.isin(keys, _keys(nt_hashes(derived_of(house, year)))) & ~blank
    of_name = _of_own_names(estate, hashes, year, told) & ~blank
    return Exposures(
        on_lists(hashes, corpora),
        np.sort(hashes.rows[blank]),
        np.sort(hashes.rows[of_name]),
        np.sort(hashes.rows[of_house]),
        _shared(hashes.rows[~blank], keys[~blank]),
    )


def _keys(digests: Digests) -> NDArray[np.void]:
    """Digests as items that can be sorted and compared as a whole."""
    pairs = np.ascontiguousarray(digests).view("<u8").reshape(-1, 2)
    return pairs.view([("high", "<u8"), ("low", "<u8")])[:, 0]


def _shared(rows: Int64, keys: NDArray[np.void]) -> tuple[Int64, ...]:
    order = np.lexsort((keys["low"], keys["high"]))
    sorted_ = keys[order]
    borders = np.flatnonzero(sorted_[1:] != sorted_[:-1]) + 1
    groups = np.split(order, borders)
    found = [np.sort(rows[group]) for group in groups if len(group) > 1]
    return tuple(sorted(found, key=lambda group: (-len(group), int(group[0]))))


def _of_own_names(estate: Estate, hashes: Hashes, year: int, told: Told) -> Bools:
    found = np.zeros(len(hashes.rows), np.bool_)
    for start in range(0, len(hashes.rows), _AT_ONCE):
        texts: list[str] = []
        whose: list[int] = []
        for number in range(start, min(start + _AT_ONCE, len(hashes.rows))):
            names = own_names(subject_of(estate, int(hashes.rows[number])))
            for text in derived_of(names, year):
                texts.append(text)
                whose.append(number)
        tried = nt_hashes(texts)
        same = (tried == hashes.digests[whose]).all(axis=1)
        found[np.array(whose, np.int64)[same]] = True
        told(min(start + _AT_ONCE, len(hashes.rows)), len(hashes.rows))
    return found
