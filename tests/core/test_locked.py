"""Who is locked or close to it, and what locks have in common, against a naive reading."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from hornfels.core.domain.account_state import lock_state, settings_of
from hornfels.core.lockout.locked import (
    AGAIN,
    CLOSE,
    LATELY,
    TOGETHER,
    Sighting,
    close_accounts,
    locked_account,
    locked_accounts,
    patterns,
)
from hornfels.core.resolution.engine import resolve
from hornfels.core.resolution.roster import Roster
from hornfels.core.values.time import DAY, HOUR, MINUTE, NEVER
from worlds import World, read, worlds

NOW = 10**18

moments = st.just(0) | st.integers(0, 3 * HOUR).map(lambda ago: NOW - ago)


@given(worlds(), st.data())
def test_locked_and_close_agree_with_looking_at_every_account(
    world: World, data: st.DataObject
) -> None:
    estate = read(world).estate
    policies = tuple(
        replace(
            policy,
            settings=replace(
                policy.settings,
                lockout_threshold=data.draw(st.integers(0, 6)),
                lockout_window=data.draw(st.integers(0, 90)) * MINUTE,
                lockout_duration=data.draw(st.just(NEVER) | st.integers(0, 90).map(MINUTE.__mul__)),
            ),
        )
        for policy in estate.policies
    )
    estate = estate.with_policies(policies, estate.links)
    many = len(estate.accounts)
    column = st.lists(moments, min_size=many, max_size=many)
    counts = data.draw(st.lists(st.integers(0, 6), min_size=many, max_size=many))
    accounts = replace(
        estate.accounts,
        lockout_time=np.array(data.draw(column), dtype=np.int64),
        bad_time=np.array(data.draw(column), dtype=np.int64),
        bad_count=np.array(counts, dtype=np.int32),
    )
    estate = replace(estate, accounts=accounts)
    roster = Roster(estate, resolve(estate))

    locked, close = {}, {}
    for row in range(many):
        policy = int(roster.resolution.winner_of_account[row])
        settings = settings_of(estate, policy)
        lock = lock_state(settings, int(accounts.lockout_time[row]), NOW)
        bad = int(accounts.bad_time[row])
        left = settings.lockout_threshold - counts[row]
        if lock.locked:
            locked[row] = lock.until
        elif (
            settings.lockout_threshold > 0
            and counts[row] > 0
            and NOW - bad < settings.lockout_window
            and left <= CLOSE
        ):
            close[row] = bad + settings.lockout_window
    total, found = locked_accounts(roster, NOW, 100)
    assert total == len(found) == len(locked)
    assert locked_accounts(roster, NOW, 1) == (total, found[:1])
    for row in range(many):
        one = locked_account(roster, row, NOW)
        assert one == next((other for other in found if other.row == row), None)
    assert {one.row: one.until for one in found} == locked
    assert [one.since for one in found] == sorted((one.since for one in found), reverse=True)
    total, near = close_accounts(roster, NOW, 100)
    assert total == len(near)
    assert {one.row: one.forgotten_at for one in near} == close
    assert all(one.left >= 1 for one in near)
    assert [one.left for one in near] == sorted(one.left for one in near)


def seen(*locks: tuple[int, int]) -> list[Sighting]:
    """Locks as RID and ticks ago."""
    return [Sighting(rid, f"account{rid}", NOW - ago) for rid, ago in locks]


def test_one_account_again_and_again_is_a_device() -> None:
    found = patterns(seen(*((7, n * 35 * MINUTE) for n in range(5)), (8, HOUR)), NOW)
    (device,) = found
    assert (device.kind, device.names, device.locks) == ("again", ("account7",), 5)
    assert "locked 5 times in 7 days, 35 min apart or so" in device.sentence


def test_many_within_an_hour_is_somebody_guessing() -> None:
    found = patterns(seen(*((rid, 2 * DAY + rid * MINUTE) for rid in range(1, 9))), NOW)
    (guesser,) = found
    assert (guesser.kind, guesser.locks) == ("together", 8)
    assert guesser.sentence.startswith("8 accounts were locked within 7 min: somebody is trying")


def test_a_few_locks_far_apart_mean_nothing() -> None:
    assert patterns([], NOW) == []
    assert patterns(seen(*((rid, rid * 2 * HOUR) for rid in range(1, 30))), NOW) == []
    assert patterns(seen(*((7, 8 * DAY + n) for n in range(9))), NOW) == [], "too long ago"
    assert patterns(seen(*((7, -n) for n in range(1, 9))), NOW) == [], "a clock that goes ahead"


@given(st.lists(st.tuples(st.integers(1, 9), st.integers(0, 9 * 24 * 60)), max_size=60))
def test_patterns_agree_with_counting(locks: list[tuple[int, int]]) -> None:
    sightings = seen(*((rid, minutes * MINUTE) for rid, minutes in locks))
    lately = {s for s in sightings if NOW - s.at < LATELY}
    again = {rid for rid in range(1, 10) if len({s.at for s in lately if s.rid == rid}) >= AGAIN}
    together = max(
        (len({s.rid for s in lately if first.at <= s.at <= first.at + HOUR}) for first in lately),
        default=0,
    )
    found = patterns(sightings, NOW)
    assert {p.names[0] for p in found if p.kind == "again"} == {f"account{rid}" for rid in again}
    assert any(p.kind == "together" for p in found) is (together >= TOGETHER)
