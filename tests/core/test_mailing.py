"""Whom to write to about what: once each, the nearest of the days, never by night."""

from __future__ import annotations

from dataclasses import replace
from datetime import UTC, datetime, time
from zoneinfo import ZoneInfo

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from hornfels.core.mailing.due import KINDS, Kind, Notice, Wanted, due, long_so
from hornfels.core.mailing.quiet import is_quiet
from hornfels.core.resolution.engine import resolve
from hornfels.core.resolution.roster import Roster
from hornfels.core.values.time import DAY, HOUR, moment_from_datetime
from hornfels.formats.dump import Dump

from conftest import DEMO_NOW  # isort: skip

NOW = moment_from_datetime(DEMO_NOW)
MOMENTS = st.integers(-400, 400).map(lambda halves: NOW + halves * 12 * HOUR)
SEEDS = st.integers(0, 2**32 - 1)
DAYS = st.lists(st.integers(1, 90), max_size=4, unique=True).map(tuple)


@pytest.fixture(scope="module")
def demo_roster(demo: Dump) -> Roster:
    return Roster(demo.estate, resolve(demo.estate))


def mixed(roster: Roster, seed: int) -> Roster:
    """The same accounts with other passwords and locks: set just now, long ago, never, unknown, or
    to be changed.
    """
    rng = np.random.default_rng(seed)
    held = roster.estate.accounts
    many = len(held)
    ago = rng.integers(0, 200, many) * DAY
    set_at = np.where(rng.random(many) < 0.2, rng.choice([0, -1], many), NOW - ago)
    locked = np.where(rng.random(many) < 0.1, NOW - rng.integers(0, 3, many) * HOUR, 0)
    accounts = replace(held, password_set=set_at, lockout_time=locked)
    return Roster(replace(roster.estate, accounts=accounts), roster.resolution)


def keys(roster: Roster, notices: list[Notice]) -> list[tuple[int, Kind, str]]:
    rid = roster.estate.accounts.rid
    return [(int(rid[one.row]), one.kind, one.key) for one in notices]


@given(SEEDS, DAYS, st.lists(MOMENTS, min_size=1, max_size=4).map(sorted))
def test_nothing_is_written_about_twice(
    demo_roster: Roster, seed: int, days: tuple[int, ...], moments: list[int]
) -> None:
    roster = mixed(demo_roster, seed)
    wanted = Wanted(days=days)
    told: set[tuple[int, Kind, str]] = set()
    for now in moments:
        found = keys(roster, list(due(roster, wanted, now, {}, told)))
        assert len(found) == len(set(found))
        assert not set(found) & told
        told |= set(found)
        assert list(due(roster, wanted, now, {}, told)) == []


@given(SEEDS, DAYS, MOMENTS)
def test_who_is_written_to_before_the_end_hears_of_the_nearest_day(
    demo_roster: Roster, seed: int, days: tuple[int, ...], now: int
) -> None:
    roster = mixed(demo_roster, seed)
    ends = roster.expires
    found = {one.row: one for one in due(roster, Wanted(frozenset({"expiring"}), days), now, {})}
    accounts, there = roster.estate.accounts, roster.people
    for row in range(len(accounts)):
        left = int(ends[row]) - now
        off = not there[row]
        soon = [day for day in sorted(days) if 0 < left <= day * DAY]
        if off or not soon or accounts.password_set[row] <= 0:
            assert row not in found
            continue
        assert found[row].key.endswith(f":{soon[0]}")
        assert found[row].at == int(ends[row])


@given(SEEDS, MOMENTS)
def test_what_was_so_for_long_is_no_news(demo_roster: Roster, seed: int, now: int) -> None:
    roster = mixed(demo_roster, seed)
    begun = set(keys(roster, list(long_so(roster, now))))
    first = keys(roster, list(due(roster, Wanted(), now, {}, first=True)))
    later = keys(roster, list(due(roster, Wanted(), now, {}, begun)))
    assert sorted(first) == sorted(later)
    assert {kind for _, kind, _ in begun} <= {"expired", "must change", "locked"}


@given(SEEDS, MOMENTS, st.data())
def test_an_exposed_password_is_told_of_until_it_is_another(
    demo_roster: Roster, seed: int, now: int, data: st.DataObject
) -> None:
    roster = mixed(demo_roster, seed)
    accounts = roster.estate.accounts
    row = data.draw(st.integers(0, len(accounts) - 1))
    set_at, rid = int(accounts.password_set[row]), int(accounts.rid[row])
    wanted = Wanted(frozenset({"exposed"}))
    told = [one.row for one in due(roster, wanted, now, {rid: set_at})]
    assert told == ([row] if roster.people[row] else [])
    if set_at > 0:
        assert list(due(roster, wanted, now, {rid: set_at + 1})) == []


@pytest.mark.parametrize("kind", [one for one in KINDS if one != "policy changed"])
def test_every_kind_can_be_wanted_alone(demo_roster: Roster, kind: Kind) -> None:
    roster = mixed(demo_roster, 7)
    accounts = roster.estate.accounts
    exposed = dict(zip(accounts.rid.tolist(), accounts.password_set.tolist(), strict=True))
    found = [one.kind for one in due(roster, Wanted(frozenset({kind})), NOW, exposed)]
    assert set(found) == {kind}
    everything = [one.kind for one in due(roster, Wanted(), NOW, exposed)]
    assert everything.count(kind) == len(found)


@pytest.mark.parametrize(
    ("begins", "ends", "at", "quiet"),
    [
        ("20:00", "07:00", "23:00", True),
        ("20:00", "07:00", "06:59", True),
        ("20:00", "07:00", "07:00", False),
        ("12:00", "13:00", "12:30", True),
        ("12:00", "13:00", "13:00", False),
        ("00:00", "00:00", "00:00", False),
    ],
)
def test_quiet_hours_go_over_midnight(begins: str, ends: str, at: str, *, quiet: bool) -> None:
    now = datetime.combine(datetime(2026, 1, 5).date(), time.fromisoformat(at), UTC)
    given_hours = time.fromisoformat(begins), time.fromisoformat(ends)
    assert is_quiet(now, *given_hours, ZoneInfo("UTC")) is quiet
    # In January Berlin is an hour ahead.
    later = now.replace(tzinfo=ZoneInfo("Europe/Berlin"))
    assert is_quiet(later, *given_hours, ZoneInfo("Europe/Berlin")) is quiet
