"""How the life of a password and of a lock run under a policy."""

from __future__ import annotations

from dataclasses import replace

from hypothesis import given
from hypothesis import strategies as st

from hornfels.core.lockout.machine import Tries, bad_try, locked
from hornfels.core.policy.course import Course, course, summary
from hornfels.core.policy.model import DEFAULTS, Settings
from hornfels.core.values.time import DAY, MINUTE, NEVER


def test_zero_and_never_come_to_the_same() -> None:
    for forever in (0, NEVER):
        settings = replace(DEFAULTS, max_age=forever, lockout_duration=forever)
        assert course(settings) == Course(DAY, NEVER, None, NEVER)
    assert course(replace(DEFAULTS, lockout_threshold=5)) == Course(DAY, 42 * DAY, 5, 30 * MINUTE)


@given(
    st.builds(
        replace,
        st.just(DEFAULTS),
        lockout_threshold=st.integers(0, 4),
        lockout_duration=st.sampled_from([NEVER, 0, 30 * MINUTE, 90 * MINUTE]),
    )
)
def test_the_lock_runs_as_it_is_told(settings: Settings) -> None:
    run, tries = course(settings), Tries()
    for _ in range(run.locks_at or 9):
        assert not locked(tries, settings, DAY)
        tries = bad_try(tries, settings, DAY)
    assert locked(tries, settings, DAY) == (run.locks_at is not None)
    if run.locks_at is not None:
        after = DAY + (900 * DAY if run.lock_lasts is NEVER else run.lock_lasts)
        assert locked(tries, settings, after) == (run.lock_lasts is NEVER)


def test_settings_in_a_few_words() -> None:
    assert summary(replace(DEFAULTS, min_length=14, max_age=NEVER)) == "14 ch · never · no lockout"
    assert summary(replace(DEFAULTS, lockout_threshold=5)) == "7 ch · 42 d · 5 tries"
