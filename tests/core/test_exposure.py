"""Accounts held against lists, each other and their names, against a plain form of the same."""

from __future__ import annotations

from collections import defaultdict

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from numpy.typing import NDArray

from hornfels.core.domain.estate import Estate, Int64
from hornfels.core.exposure.derived import derived
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
