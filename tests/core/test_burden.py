"""What policies cost people beside what they leave a guesser, against closed forms and laws."""

from __future__ import annotations

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hornfels.core.lockout.burden import (
    AGES,
    THRESHOLDS,
    WORKING_DAYS,
    Habits,
    burden,
    burden_sheet,
    course,
    stand,
)
from hornfels.core.lockout.guessing import Assumptions
from hornfels.core.lockout.tradeoff import Plane, mark
from hornfels.core.policy.model import DEFAULTS, Settings
from hornfels.core.values.time import DAY, MINUTE, NEVER

HABITS = Habits(sign_ins=5, seconds=0.6, change=3, call=20)
QUARTER = replace(
    DEFAULTS, min_length=10, max_age=73 * DAY, lockout_threshold=2, lockout_duration=8 * MINUTE
)


def test_a_year_of_one_person_by_hand() -> None:
    told = burden(QUARTER, HABITS, 0.1)
    assert told.changes == 5
    assert told.changing == 15
    assert told.characters == pytest.approx(10 * 5 * WORKING_DAYS / 0.9)
    assert told.typing == pytest.approx(told.characters / 100)
    assert told.locks == pytest.approx(5 * WORKING_DAYS * 0.01)
    assert told.locked == pytest.approx(8 * told.locks), "it ends before the help desk is there"
    assert told.minutes == pytest.approx(told.changing + told.typing + told.locked)


@pytest.mark.parametrize("endless", [NEVER, 0])
def test_a_lock_that_lasts_takes_the_help_desk(endless: int | None) -> None:
    told = burden(replace(QUARTER, lockout_duration=endless), HABITS, 0.1)
    assert told.locked == pytest.approx(20 * told.locks)


def test_what_never_ends_or_locks_costs_nothing_for_it() -> None:
    free = replace(QUARTER, max_age=NEVER, lockout_threshold=0)
    told = burden(free, HABITS, 0.1)
    assert (told.changes, told.locks, told.minutes) == (0, 0, told.typing)
    notes = {one.key: one.note for one in burden_sheet(free, HABITS, 0.1)}
    assert notes["changes"] == "The password never expires."
    assert notes["locks"] == "Nothing locks here."


settings = st.builds(
    replace,
    st.just(DEFAULTS),
    min_length=st.integers(0, 255),
    max_age=st.one_of(st.none(), st.integers(DAY, 10_000 * DAY)),
    lockout_threshold=st.integers(0, 999),
    lockout_window=st.integers(0, DAY),
    lockout_duration=st.one_of(st.none(), st.integers(0, 30 * DAY)),
)


@given(settings, st.floats(0, 0.99), st.sampled_from(["duration", "window"]))
def test_more_mistakes_never_cost_less_and_the_stand_is_that_of_the_other_plot(
    held: Settings, mistakes: float, plane: Plane
) -> None:
    assert burden(held, HABITS, mistakes).minutes >= burden(held, HABITS, mistakes / 2).minutes
    assumed = Assumptions(mistakes=mistakes)
    at, there = stand(held, assumed, HABITS, plane), mark(held, assumed, plane)
    assert (at.tries, at.chance) == (there.tries, there.chance)


@given(settings)
def test_a_longer_age_costs_people_less_and_gives_a_guesser_no_less(held: Settings) -> None:
    course_of = course(held, "age", Assumptions(), HABITS, "window")
    found = [at for _, at in course_of]
    assert len(found) == len(AGES)
    minutes = [at.burden.minutes for at in found]
    assert minutes == sorted(minutes, reverse=True)
    tries = [at.tries for at in found if at.tries is not None]
    assert len(tries) in (0, len(AGES)), "either nothing limits a guesser, or always something"
    assert tries == sorted(tries)


def test_a_course_of_thresholds_goes_through_the_policy_itself() -> None:
    held = replace(QUARTER, lockout_threshold=10)
    found = dict(course(held, "threshold", Assumptions(), HABITS, "duration"))
    assert tuple(found) == THRESHOLDS
    assert found[10] == stand(held, Assumptions(), HABITS, "duration")
    never = replace(held, lockout_threshold=0)
    assert not list(course(never, "threshold", Assumptions(), HABITS, "duration"))
