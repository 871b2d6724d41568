"""Everyone, filtered and ordered: whole columns against one account at a time."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from hornfels.core.domain.account_state import expiry, lock_state, settings_of
from hornfels.core.domain.estate import Control, Estate
from hornfels.core.policy.model import until_unlocked
from hornfels.core.resolution.engine import resolve
from hornfels.core.resolution.explanation import explain
from hornfels.core.resolution.roster import FLAGS, Filter, Roster
from hornfels.core.values.dn import parent_of
from hornfels.core.values.time import DAY, moment_from_datetime
from hornfels.formats.dump import Dump
from worlds import World, read, worlds

from conftest import DEMO_NOW  # isort: skip

NOW = moment_from_datetime(DEMO_NOW)


@pytest.fixture(scope="module")
def roster(demo: Dump) -> Roster:
    return Roster(demo.estate, resolve(demo.estate))


def fits(roster: Roster, row: int, wanted: Filter) -> bool:
    """A filter read word by word, for one account."""
    estate, resolution = roster.estate, roster.resolution
    accounts = estate.accounts
    winner = int(resolution.winner_of_account[row])
    held = settings_of(estate, winner)
    control, password_set = int(accounts.control[row]), int(accounts.password_set[row])
    end = expiry(control, password_set, held.max_age)
    names = accounts.name[row].lower(), accounts.display_name[row].lower()
    kinds = {
        "must_change": end.kind == "now",
        "expired": end.kind == "at" and end.at <= NOW,
        "never": end.kind == "never",
        "unknown": end.kind == "unknown",
    }
    checks = [
        all(any(word.lower() in name for name in names) for word in wanted.words.split()),
        wanted.policy is None or winner == wanted.policy,
        wanted.way is None or explain(estate, resolution, row).source == wanted.way,
        wanted.locked is None
        or lock_state(held, int(accounts.lockout_time[row]), NOW).locked == wanted.locked,
        wanted.expiry is None or kinds[wanted.expiry],
        wanted.within_days is None
        or (end.kind == "at" and NOW < end.at <= NOW + wanted.within_days * DAY),
        wanted.enabled is None or bool(control & Control.DISABLED) != wanted.enabled,
        all(control & FLAGS[flag] for flag in wanted.flags),
        wanted.container is None
        or accounts.dn[row].lower().endswith(f",{wanted.container}".lower()),
        wanted.set_before is None or 0 < password_set < wanted.set_before,
    ]
    return all(checks)


FILTERS = st.builds(
    Filter,
    words=st.sampled_from(["", "a", "svc", "an er", "zz"]),
    policy=st.sampled_from([None, -1, 0, 4, 6]),
    way=st.sampled_from([None, "account", "group", "domain", "exempt"]),
    locked=st.sampled_from([None, None, True, False]),
    expiry=st.sampled_from([None, None, "must_change", "expired", "never", "unknown"]),
    within_days=st.sampled_from([None, None, 1, 30]),
    enabled=st.sampled_from([None, True, False]),
    flags=st.sampled_from(
        [(), (), ("disabled",), ("never_expires",), ("smart_card_required", "never_expires")]
    ),
    container=st.sampled_from(
        [None, None, "DC=sky,DC=tarnholt,DC=example", "ou=people,dc=sky,DC=tarnholt,DC=example"]
    ),
    set_before=st.sampled_from([None, NOW - 100 * DAY]),
)


@settings(max_examples=30)
@given(FILTERS)
def test_a_filter_takes_exactly_those_it_describes(roster: Roster, wanted: Filter) -> None:
    found = roster.rows(wanted, NOW)
    assert sorted(found.tolist()) == [
        row for row in range(len(roster.estate.accounts)) if fits(roster, row, wanted)
    ]
    names = [roster.estate.accounts.name[row].upper() for row in found.tolist()]
    assert names == sorted(names)


def test_every_filter_takes_somebody_and_not_everybody(roster: Roster) -> None:
    """So that the comparison above is about something."""
    estate = roster.estate
    some: list[dict[str, Any]] = [
        {"words": "svc"},
        {"policy": 4},
        {"way": "account"},
        {"way": "group"},
        {"way": "domain"},
        {"way": "exempt"},
        {"locked": True},
        {"expiry": "must_change"},
        {"expiry": "expired"},
        {"expiry": "never"},
        {"within_days": 30},
        {"enabled": False},
        {"tie": True},
        {"privileged": True},
        {"flags": ("never_expires",)},
        {"set_before": NOW - 100 * DAY},
        {"group": 0},
        {"container": parent_of(estate.accounts.dn[5])},
    ]
    for one in some:
        assert 0 < len(roster.rows(Filter(**one), NOW)) < len(estate.accounts), one


@pytest.mark.parametrize(
    "order", ["display_name", "policy", "why", "expires", "set", "bad_tries", "container"]
)
def test_an_order_puts_equals_by_name_and_turns_round(roster: Roster, order: Any) -> None:
    rows, turned = (
        roster.rows(Filter(), NOW, order, descending).tolist() for descending in (False, True)
    )
    assert sorted(rows) == sorted(turned) == list(range(len(roster.estate.accounts)))
    key = dict(zip(range(len(rows)), roster._key(order).tolist(), strict=True))
    names = {row: roster.estate.accounts.name[row].upper() for row in rows}
    assert rows == sorted(rows, key=lambda row: (key[row], names[row]))
    assert [key[row] for row in turned] == sorted(key.values(), reverse=True)
    assert len(set(key.values())) > 1


def test_the_order_by_expiry_is_that_of_the_moments(roster: Roster) -> None:
    estate = roster.estate
    known = []
    for row in roster.rows(Filter(), NOW, "expires").tolist():
        policy = int(roster.resolution.winner_of_account[row])
        max_age = settings_of(estate, policy).max_age
        end = expiry(
            int(estate.accounts.control[row]), int(estate.accounts.password_set[row]), max_age
        )
        known.append({"now": 0, "at": end.at, "never": 2**63, "unknown": -1}[end.kind])
    assert known == sorted(known)


@given(worlds())
def test_ties_are_those_that_two_of_one_number_compete_for(world: World) -> None:
    estate: Estate = read(world).estate
    resolution = resolve(estate)
    roster = Roster(estate, resolution)
    for population, stack in enumerate(resolution.stacks):
        contest = stack.direct or stack.group
        numbers = [p.precedence for n, p in enumerate(estate.policies) if contest >> n & 1]
        expected = not stack.exempt and numbers.count(min(numbers, default=0)) > 1
        assert bool(roster.decided_by_tie[population]) == expected


def test_containers_hold_everybody_once(roster: Roster) -> None:
    found = roster.containers
    assert sum(c.accounts for c in found) == len(roster.estate.accounts)
    assert len({c.dn for c in found}) == len(found) > 3
    depths = [c.dn.count(",") for c in found]
    assert depths[0] == min(depths)


@pytest.mark.parametrize(
    ("dn", "parent"),
    [
        ("CN=a,DC=b", "DC=b"),
        ("CN=a\\, b,DC=c", "DC=c"),
        ("CN=a\\\\,DC=b", "DC=b"),
        ("CN=a\\\\\\,b,OU=c,DC=d", "OU=c,DC=d"),
        ("DC=a", ""),
    ],
)
def test_a_parent_is_what_follows_the_first_comma_that_counts(dn: str, parent: str) -> None:
    assert parent_of(dn) == parent


def test_a_lock_without_end_counts_until_it_is_lifted(demo: Dump) -> None:
    estate = demo.estate
    accounts = replace(
        estate.accounts,
        lockout_time=np.full(len(estate.accounts), NOW - 5000 * DAY, dtype=np.int64),
    )
    domain = replace(
        estate.domain,
        settings=replace(estate.domain.settings, lockout_duration=None, lockout_threshold=5),
    )
    changed = replace(estate, accounts=accounts, domain=domain)
    roster = Roster(changed, resolve(changed))
    held = roster.rows(Filter(locked=True), NOW)
    winners = roster.resolution.winner_of_account
    found = {p: settings_of(changed, p) for p in set(winners.tolist())}
    endless = {
        p for p, s in found.items() if s.lockout_threshold and until_unlocked(s.lockout_duration)
    }
    assert -1 in endless
    assert set(held.tolist()) == set(np.flatnonzero(np.isin(winners, list(endless))).tolist())
