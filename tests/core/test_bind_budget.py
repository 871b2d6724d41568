"""Hornfels causes fewer failed attempts than lock an account, whatever happens in between."""

from __future__ import annotations

from dataclasses import replace

from hypothesis import given
from hypothesis import strategies as st

from hornfels.core.lockout.bind_budget import (
    BindBudget,
    Binds,
    LockoutRule,
    bind_budget,
    next_bind,
)
from hornfels.core.lockout.machine import Tries, bad_try
from hornfels.core.policy.model import DEFAULTS
from hornfels.core.values.time import DAY, MINUTE

NOW = 134_000_000 * MINUTE
gaps = st.lists(st.integers(0, 90 * MINUTE), min_size=1, max_size=60)


@given(gaps, st.integers(0, 12), st.integers(MINUTE, 60 * MINUTE), st.integers(0, 59))
def test_attempts_within_the_budget_never_lock(
    waits: list[int], threshold: int, window: int, mistyped_at: int
) -> None:
    policy = replace(
        DEFAULTS, lockout_threshold=threshold, lockout_window=window, lockout_duration=window
    )
    budget = bind_budget(LockoutRule(threshold, window))
    now, binds, directory = NOW, Binds(), Tries()
    for number, wait in enumerate(waits):
        now += wait
        if number == mistyped_at and threshold > 1:
            directory = bad_try(directory, policy, now)
        binds, held_back = next_bind(binds, budget, now)
        if not held_back:
            directory = bad_try(directory, policy, now)
    assert directory.lockout_time == 0


@given(st.integers(0, 9), st.integers(0, 9), st.integers(1, DAY), st.integers(1, DAY))
def test_the_stricter_of_two_policies_counts(one: int, other: int, window: int, long: int) -> None:
    both = bind_budget(LockoutRule(one, window), None, LockoutRule(other, long))
    for rule in (LockoutRule(one, window), LockoutRule(other, long)):
        alone = bind_budget(rule)
        if alone.attempts is not None:
            assert both.attempts is not None
            assert both.attempts <= alone.attempts
            assert both.window >= alone.window


def test_no_attempt_is_made_where_one_or_two_lock_and_any_where_none_does() -> None:
    for threshold in (1, 2):
        budget = bind_budget(LockoutRule(threshold, 30 * MINUTE))
        assert next_bind(Binds(), budget, NOW) == (Binds(), 30 * MINUTE)
    assert bind_budget(LockoutRule(0, 0)).attempts is None
    assert bind_budget().attempts == 1, "an unknown policy may lock after three"


def test_a_clock_that_goes_back_a_day_makes_an_account_wait_one_window_at_most() -> None:
    budget = BindBudget(1, 30 * MINUTE)
    used, _ = next_bind(Binds(), budget, NOW)
    _, wait = next_bind(used, budget, NOW - DAY)
    assert wait == 30 * MINUTE
