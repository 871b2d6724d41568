"""What a reading has brought: said of what is otherwise, and of nothing else."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from drafting import drawn
from hornfels.core.domain.estate import Control, Estate
from hornfels.core.drafts.news import MOST_NAMED, news
from hornfels.core.resolution.agreement import Word, disagreements
from hornfels.core.resolution.engine import DOMAIN_POLICY, resolve
from hornfels.core.resolution.roster import Roster
from hornfels.core.values.text import TextColumn
from hornfels.formats.dump import Dump
from worlds import World, read, worlds


def said(before: Estate, after: Estate) -> list[str]:
    return [one.text for one in news(before, after)]


@given(world=worlds())
def test_nothing_is_said_of_what_is_as_it_was(world: World) -> None:
    assert news(read(world).estate, read(world).estate) == ()


@given(data=st.data(), world=worlds())
def test_something_is_said_of_whatever_is_otherwise(data: st.DataObject, world: World) -> None:
    before, after, operations, _ = drawn(data, world)
    assert bool(news(before, after)) == bool(said(after, before))
    if operations and {p.guid for p in before.policies} != {p.guid for p in after.policies}:
        assert news(before, after)


def without(estate: Estate, rows: list[int]) -> Estate:
    """The estate without some accounts, and without anybody's memberships."""
    keep = np.setdiff1d(np.arange(len(estate.accounts)), rows)
    columns: dict[str, Any] = {}
    for name in estate.accounts.__slots__:
        column = getattr(estate.accounts, name)
        text = isinstance(column, TextColumn)
        columns[name] = TextColumn.of(column[int(row)] for row in keep) if text else column[keep]
    accounts = replace(estate.accounts, **columns)
    none = np.zeros(0, dtype=np.int32)
    m = estate.memberships
    memberships = replace(m, account=none, account_group=none, accounts=accounts)
    return replace(estate, accounts=accounts, memberships=memberships, links=())


def test_accounts_are_counted_and_the_first_are_named(demo: Dump) -> None:
    whole = without(demo.estate, [])
    fewer = without(demo.estate, list(range(7)))
    (gone,) = news(whole, fewer)
    assert gone.text == "7 accounts are gone"
    assert gone.names == tuple(demo.estate.accounts.name[row] for row in range(MOST_NAMED))
    assert said(fewer, whole) == ["7 accounts are new"]
    assert said(without(demo.estate, [3]), whole) == ["1 account is new"]


def changed(estate: Estate, **columns: Any) -> Estate:
    accounts = replace(estate.accounts, **columns)
    return replace(
        estate, accounts=accounts, memberships=replace(estate.memberships, accounts=accounts)
    )


def test_flags_locks_passwords_and_names_are_told_apart(demo: Dump) -> None:
    before, accounts = demo.estate, demo.estate.accounts
    control, lock, when = (
        column.copy() for column in (accounts.control, accounts.lockout_time, accounts.password_set)
    )
    control[:2] |= np.uint32(Control.DISABLED)
    control[5] ^= np.uint32(Control.NEVER_EXPIRES)
    free = int(np.flatnonzero(lock == 0)[0])
    lock[free] = 134_000_000_000_000_000
    when[9] += 1
    names = list(accounts.name)
    names[11] = "quite.another"
    after = changed(
        before,
        control=control,
        lockout_time=lock,
        password_set=when,
        name=TextColumn.of(names),
    )
    assert said(before, after) == [
        "1 account has another name",
        "1 account has another password",
        "1 account was locked",
        "2 accounts were disabled",
        "1 account has other flags",
    ]
    assert "1 account was unlocked" in said(after, before)
    assert "2 accounts were enabled" in said(after, before)


def test_memberships_are_counted_from_both_sides(demo: Dump) -> None:
    before = demo.estate
    m = before.memberships
    fewer = replace(m, account=m.account[3:], account_group=m.account_group[3:])
    after = replace(before, memberships=fewer)
    assert [text for text in said(before, after) if "membership" in text] == ["3 memberships ended"]
    assert [text for text in said(after, before) if "membership" in text] == ["3 memberships began"]


def test_a_directory_agrees_where_it_says_the_same_and_only_there(demo: Dump) -> None:
    estate = demo.estate
    roster = Roster(estate, resolve(estate))
    words = {
        row: Word(
            "" if winner == DOMAIN_POLICY else estate.policies[winner].dn.upper(),
            int(roster.expires[row]),
        )
        for row, winner in enumerate(roster.resolution.winner_of_account.tolist())
    }
    assert disagreements(roster, words) == []
    unknown = {row: word._replace(expires=None) for row, word in words.items()}
    assert disagreements(roster, unknown) == []
    governed = next(row for row, word in words.items() if word.policy)
    aged = next(
        row
        for row, word in words.items()
        if word.expires and word.expires < 2**62 and not word.policy
    )
    words[governed] = Word("", 0)
    words[aged] = words[aged]._replace(expires=0)
    found = {one.account: one for one in disagreements(roster, words)}
    first, second = (found.pop(estate.accounts.name[row]) for row in (governed, aged))
    assert not found
    assert (first.about, first.theirs) == ("policy", "Domain policy")
    assert first.reason
    assert (second.about, second.theirs) == ("expiry", "must change now")
