"""Accounts held against lists, each other and their names, against a plain form of the same."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from numpy.typing import NDArray

from hornfels.core.domain.estate import Estate, Int64
from hornfels.core.exposure.derived import derived
from hornfels.core.exposure.known import KINDS, MUST_CHANGE, Kind, still_known
from hornfels.core.exposure.watching import Exposures, Hashes, on_lists, watch
from hornfels.core.passwords.digests import nt_hash
from hornfels.core.passwords.rules.blocked import own_names
from hornfels.core.passwords.rules.rule import subject_of
from hornfels.formats.dump import Dump

YEAR = 2031
HOUSE = ("tarnholt", "dome")
LISTS = {"one": {"", "summer", "Tarnholt2031!"}, "two": {"summer", "winter"}}
WORDS = ["", "summer", "winter", "Summer", "Tarnholt2031!", "EMOD1", "xK7-unheard", "xK8-unheard"]


def counts_in(words: set[str]) -> object:
    held = {nt_hash(word) for word in words}

    def counts(digests: NDArray[np.uint8]) -> NDArray[np.uint32]:
        return np.array([row.tobytes() in held for row in digests], np.uint32)

    return counts


def looked(estate: Estate, passwords: dict[int, str]) -> Exposures:
    rows = np.array(list(passwords), np.int64)
    digests = np.frombuffer(b"".join(map(nt_hash, passwords.values())), np.uint8).reshape(-1, 16)
    corpora = {name: [counts_in(words)] for name, words in LISTS.items()}
    told: list[tuple[int, int]] = []
    found = watch(
        estate,
        Hashes(rows, digests),
        corpora,  # type: ignore[arg-type]
        HOUSE,
        YEAR,
        lambda done, whole: told.append((done, whole)),
    )
    assert told[-1:] == [(len(rows), len(rows))][: len(rows)]
    return found


def names_of(estate: Estate, row: int) -> set[str]:
    words = own_names(subject_of(estate, row))
    return {text for word in words for text in derived(word, YEAR)}


def rows(found: Int64) -> list[int]:
    return [int(row) for row in found]


@given(data=st.data())
def test_everything_that_is_known_of_a_password_is_found_and_nothing_else(
    data: st.DataObject, demo: Dump
) -> None:
    estate = demo.estate
    chosen = data.draw(st.lists(st.integers(0, 40), unique=True, max_size=8))
    own = [sorted(names_of(estate, row)) for row in range(41)]
    passwords = {
        row: data.draw(st.one_of(st.sampled_from(WORDS), st.sampled_from(own[row])))
        for row in chosen
    }
    found = looked(estate, passwords)
    house = {text for word in HOUSE for text in derived(word, YEAR)}

    def having(wanted: set[str]) -> list[int]:
        return sorted(row for row, password in passwords.items() if password in wanted)

    assert {name: rows(on) for name, on in found.lists.items()} == {
        name: having(words) for name, words in LISTS.items()
    }
    assert rows(found.blank) == having({""})
    assert rows(found.house) == having(house)
    assert rows(found.own_name) == sorted(
        row for row, password in passwords.items() if password in names_of(estate, row)
    )
    same: dict[str, list[int]] = defaultdict(list)
    for row, password in sorted(passwords.items()):
        if password:
            same[password].append(row)
    groups = [group for group in same.values() if len(group) > 1]
    assert [rows(group) for group in found.shared] == sorted(
        groups, key=lambda group: (-len(group), group[0])
    )


def test_a_list_in_parts_is_one_list() -> None:
    digests = np.frombuffer(nt_hash("summer") + nt_hash("winter"), np.uint8).reshape(-1, 16)
    hashes = Hashes(np.array([7, 3], np.int64), digests)
    parts = [counts_in({"summer"}), counts_in({"winter", "summer"})]
    found = on_lists(hashes, {"both": parts, "none": []})  # type: ignore[dict-item]
    assert {name: rows(on) for name, on in found.items()} == {"both": [3, 7], "none": []}


@pytest.mark.parametrize(
    ("word", "text"),
    [
        ("varga", "Varga2031!"),
        ("varga", "VARGA"),
        ("Varga", "agrav1"),
        ("varga", "varga30"),
        ("i.varga", "I.varga123"),
    ],
)
def test_what_people_make_of_a_name_is_tried(word: str, text: str) -> None:
    assert text in set(derived(word, YEAR))
    assert "varga2011" not in set(derived(word, YEAR))


_THING = st.tuples(
    st.integers(1, 9),
    st.sampled_from([5, 6]),
    st.sampled_from(KINDS),
    st.sampled_from(["", "one", "two"]),
    st.integers(0, 2),
    st.integers(0, 3),
)


@given(things=st.lists(_THING, max_size=12), data=st.data())
def test_what_is_known_in_columns_is_what_it_is_one_by_one(
    things: list[tuple[int, int, Kind, str, int, int]], data: st.DataObject, demo: Dump
) -> None:
    rids = data.draw(st.lists(st.integers(1, 9), unique=True, max_size=6))
    now = [data.draw(st.sampled_from([5, 6, MUST_CHANGE])) for _ in rids]
    policies = np.array([data.draw(st.sampled_from([-1, 0, 3])) for _ in rids], np.int32)
    accounts = replace(
        demo.estate.accounts, rid=np.array(rids, np.int64), password_set=np.array(now, np.int64)
    )

    def column(place: int) -> Int64:
        return np.array([thing[place] for thing in things], np.int64)

    found = still_known(
        accounts,
        column(0),
        column(1),
        np.array([KINDS.index(thing[2]) for thing in things], np.int8),
        [thing[3] for thing in things],
        column(4),
        column(5),
    )
    plain = [
        (rids.index(rid), kind, name, group, since)
        for rid, set_at, kind, name, group, since in things
        if rid in rids and now[rids.index(rid)] in (set_at, MUST_CHANGE)
    ]
    told = [
        (row, KINDS[kind], found.names[name], group, since)
        for row, kind, name, group, since in zip(
            found.rows.tolist(),
            found.kinds.tolist(),
            found.lists.tolist(),
            found.groups.tolist(),
            found.since.tolist(),
            strict=True,
        )
    ]
    assert sorted(told) == sorted(plain)
    assert [(-one[4], one[0]) for one in told] == sorted((-one[4], one[0]) for one in plain)

    exposed: defaultdict[int, list[int]] = defaultdict(list)
    sharing: defaultdict[int, list[int]] = defaultdict(list)
    for row, kind, _, group, since in plain:
        if kind == "shared":
            sharing[group].append(row)
        else:
            exposed[row].append(since)
    counts = {kind: len({one[0] for one in plain if one[1] == kind}) for kind in KINDS}
    assert found.counts() == counts | {"exposed": len(exposed), "groups": len(sharing)}
    whose, first = found.exposed.earliest()
    assert rows(whose) == sorted(exposed)
    assert rows(first) == [min(exposed[row]) for row in sorted(exposed)]
    groups = [(number, rows(members)) for number, members in found.sharing()]
    many = {number: sorted(held) for number, held in sharing.items() if len(held) > 1}
    assert groups == sorted(many.items(), key=lambda one: (-len(one[1]), one[0]))
    parts = found.by(policies)
    assert set(parts) == {int(policies[one[0]]) for one in plain}
    assert all(set(policies[part.rows].tolist()) == {policy} for policy, part in parts.items())
    assert sum(map(len, parts.values())) == len(found)
