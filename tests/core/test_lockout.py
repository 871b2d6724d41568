"""Bad tries and the lock they lead to (domain rules §6)."""

from __future__ import annotations

from dataclasses import replace

from hypothesis import given
from hypothesis import strategies as st

from hornfels.core.policy.lockout import Tries, bad_try, locked
from hornfels.core.policy.model import DEFAULTS
from hornfels.core.values.time import MINUTE

WINDOW, DURATION = 4 * MINUTE, 10 * MINUTE
THREE = replace(DEFAULTS, lockout_threshold=3, lockout_window=WINDOW, lockout_duration=DURATION)
START = 100 * MINUTE


def after(minutes: list[int], policy: object = THREE) -> Tries:
    tries = Tries()
    for minute in minutes:
        tries = bad_try(tries, policy, START + minute * MINUTE)  # type: ignore[arg-type]
    return tries


def test_the_window_slides_with_each_bad_try() -> None:
    assert locked(after([0, 3, 6]), THREE, START + 6 * MINUTE)
    assert after([0, 3, 7]) == Tries(1, START + 7 * MINUTE, 0), (
        "as long as the window after the last one, the count starts anew"
    )


def test_a_lock_ends_by_itself_and_trying_does_not_extend_it() -> None:
    tries = after([0, 1, 2, 5, 11])
    assert tries == Tries(3, START + 2 * MINUTE, START + 2 * MINUTE)
    assert locked(tries, THREE, START + 12 * MINUTE - 1)
    assert not locked(tries, THREE, START + 12 * MINUTE)
    assert bad_try(tries, THREE, START + 12 * MINUTE).bad_count == 1


def test_without_a_duration_a_lock_stays_and_without_a_threshold_there_is_none() -> None:
    for duration in (None, 0):
        policy = replace(THREE, lockout_duration=duration)
        assert locked(after([0, 1, 2], policy), policy, START + 10**9 * MINUTE)
    never = replace(THREE, lockout_threshold=0)
    assert after([0] * 50, never) == Tries()


@given(st.lists(st.integers(0, 400), max_size=60).map(sorted), st.integers(1, 8))
def test_nobody_gets_more_tries_than_the_threshold_in_a_duration(
    minutes: list[int], threshold: int
) -> None:
    policy = replace(THREE, lockout_threshold=threshold)
    tries, taken = Tries(), []
    for minute in minutes:
        now = START + minute * MINUTE
        if not locked(tries, policy, now):
            taken.append(now)
            tries = bad_try(tries, policy, now)
    assert all(
        later - first >= min(WINDOW, DURATION)
        for first, later in zip(taken, taken[threshold:], strict=False)
    )
