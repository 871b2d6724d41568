"""Bad tries and the locks they lead to (domain rules §6)."""

from __future__ import annotations

from dataclasses import replace
from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hornfels.core.lockout.machine import KINDS, EventKind, Outcome, Tries, bad_try, locked, step
from hornfels.core.lockout.story import Event, Lock, Story, play, reads, runs, sentence
from hornfels.core.policy.model import DEFAULTS, Settings
from hornfels.core.values.time import DAY, HOUR, LDAP_NEVER, MINUTE, NEVER

WINDOW, DURATION = 4 * MINUTE, 10 * MINUTE
THREE = replace(DEFAULTS, lockout_threshold=3, lockout_window=WINDOW, lockout_duration=DURATION)
START = 100 * MINUTE

policies = st.builds(
    replace,
    st.just(THREE),
    lockout_threshold=st.integers(0, 5),
    lockout_window=st.integers(0, 12),
    lockout_duration=st.none() | st.integers(0, 12),
)
stories = (
    st.lists(st.builds(Event, st.integers(0, 60), st.sampled_from(KINDS)), max_size=40)
    .map(lambda events: sorted(events, key=lambda event: event.at))
    .map(tuple)
)


def after(minutes: list[int], policy: Settings = THREE) -> Tries:
    tries = Tries()
    for minute in minutes:
        tries = bad_try(tries, policy, START + minute * MINUTE)
    return tries


def told(story: str, policy: Settings = THREE) -> list[tuple[Outcome, int, bool]]:
    """What becomes of events written as minute and first letter: "0b 3b 7g"."""
    kinds: dict[str, EventKind] = {kind[0]: kind for kind in KINDS}
    events = tuple(Event(int(word[:-1]) * MINUTE, kinds[word[-1]]) for word in story.split())
    return [(s.outcome, s.bad_count, s.locked) for s in play(events, policy).steps]


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
    assert after([0] * 50, never) == Tries(), "nor is anything counted"


def test_the_last_bad_try_locks_and_the_next_one_shows_it() -> None:
    assert told("0b 1b 2b 3g 4b 12g 13b") == [
        ("refused", 1, False),
        ("refused", 2, False),
        ("refused", 3, True),
        ("locked", 3, True),
        ("locked", 3, True),
        ("accepted", 0, False),
        ("refused", 1, False),
    ]


def test_an_operator_clears_lock_and_count_and_an_older_password_counts_for_nothing() -> None:
    assert told("0b 1b 1o 2b 3u 3b 4o 4u") == [
        ("refused", 1, False),
        ("refused", 2, False),
        ("refused", 2, False),
        ("refused", 3, True),
        ("unlocked", 0, False),
        ("refused", 1, False),
        ("refused", 1, False),
        ("unlocked", 0, False),
    ]


def test_a_window_longer_than_the_lock_lets_the_count_outlive_it() -> None:
    policy = replace(THREE, lockout_window=30 * MINUTE)
    assert told("0b 1b 2b 12b 12g 22g", policy)[3:] == [
        ("refused", 4, True),
        ("locked", 4, True),
        ("accepted", 0, False),
    ]


def test_a_story_at_its_very_first_moment() -> None:
    assert told("0b", replace(THREE, lockout_threshold=1)) == [("refused", 1, True)]


class Naive:
    """The rules as they are written down, with nothing made quick."""

    def __init__(self, settings: Settings) -> None:
        self.settings, self.count = settings, 0
        self.last_bad: int | None = None
        self.since: int | None = None

    def locked(self, now: int) -> bool:
        duration = self.settings.lockout_duration
        return self.since is not None and (duration in (None, 0) or now < self.since + duration)

    def happen(self, kind: str, now: int) -> str:
        if kind == "unlock":
            self.count, self.since = 0, None
            return "unlocked"
        if self.locked(now):
            return "locked"
        if kind == "good":
            self.count, self.since = 0, None
            return "accepted"
        if kind == "bad" and self.settings.lockout_threshold > 0:
            old = self.last_bad is None or now - self.last_bad >= self.settings.lockout_window
            self.count = 1 if old else self.count + 1
            self.last_bad = now
            if self.count >= self.settings.lockout_threshold:
                self.since = now
        return "refused"


@given(stories, policies)
def test_every_story_goes_as_the_rules_are_written(story: Story, policy: Settings) -> None:
    naive = Naive(policy)
    for one in play(story, policy).steps:
        outcome = naive.happen(one.event.kind, one.event.at)
        now = naive.locked(one.event.at)
        assert (one.outcome, one.bad_count, one.locked) == (outcome, naive.count, now)


@given(stories, policies)
def test_never_locked_below_the_threshold_and_unlocking_always_opens(
    story: Story, policy: Settings
) -> None:
    steps = play(story, policy).steps
    for one in steps:
        assert not one.locked or one.bad_count >= policy.lockout_threshold > 0
        assert one.event.kind != "unlock" or not one.locked
    for before, one in pairwise(steps):
        if one.outcome == "locked":
            assert (one.bad_count, one.locked) == (before.bad_count, True)


@given(stories, policies)
def test_a_lock_opens_exactly_after_its_duration(story: Story, policy: Settings) -> None:
    for lock in play(story, policy).locks:
        if lock.by_hand:
            continue
        if not policy.lockout_duration:
            assert lock.end is NEVER
            continue
        assert lock.end == lock.start + policy.lockout_duration
        until = tuple(event for event in story if event.at <= lock.start)
        for moment, outcome in ((lock.end - 1, "locked"), (lock.end, "accepted")):
            assert play((*until, Event(moment, "good")), policy).steps[-1].outcome == outcome


@given(stories, policies, st.integers(1, 10**6))
def test_scaling_all_times_scales_the_answer(story: Story, policy: Settings, by: int) -> None:
    scaled = replace(
        policy,
        lockout_window=policy.lockout_window * by,
        lockout_duration=policy.lockout_duration and policy.lockout_duration * by,
    )
    longer = tuple(Event(event.at * by, event.kind) for event in story)
    small, large = play(story, policy), play(longer, scaled)
    assert [(s.outcome, s.bad_count) for s in small.steps] == [
        (s.outcome, s.bad_count) for s in large.steps
    ]
    assert [
        Lock(k.start * by, k.tries, k.end and k.end * by, k.by_hand) for k in small.locks
    ] == list(large.locks)


@given(policies, st.integers(1, 10**18), st.sampled_from(KINDS))
def test_trying_while_locked_changes_nothing(
    policy: Settings, moment: int, kind: EventKind
) -> None:
    policy = replace(policy, lockout_threshold=3, lockout_duration=NEVER)
    held = Tries(3, moment, moment)
    assert kind == "unlock" or step(held, kind, moment + 5, policy) == (held, "locked")


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


@pytest.mark.parametrize("odd", [-1, LDAP_NEVER, -DAY])
def test_what_no_directory_should_hold_is_played_all_the_same(odd: int) -> None:
    story = tuple(Event(n, "bad") for n in range(9))
    assert not play(story, replace(THREE, lockout_window=odd)).locks, "each starts the count anew"
    for one in play(story, replace(THREE, lockout_duration=odd)).steps:
        assert one.outcome == "refused", "the lock is over before it began"


def test_a_story_in_words() -> None:
    bad = tuple(Event(n * MINUTE, "bad") for n in range(3))
    good = Event(3 * MINUTE, "good")
    assert sentence(play((), THREE)) == "Nothing happens yet."
    assert sentence(play(bad[:2], THREE)) == "Does not lock: 2 of 3 bad tries at most."
    assert sentence(play((*bad, good), THREE)) == (
        "Locks at 2 min after 3 bad tries and opens at 12 min. The right password is turned away "
        "once."
    )
    by_hand = play((*bad, good, Event(HOUR, "unlock")), replace(THREE, lockout_duration=NEVER))
    assert sentence(by_hand).startswith("Locks at 2 min after 3 bad tries and is unlocked at 1 h.")
    assert "until an operator" in sentence(play(bad, replace(THREE, lockout_duration=NEVER)))
    again = tuple(Event(n * MINUTE, "bad") for n in range(30))
    assert "It locks 3 times in all." in sentence(play(again, THREE))
    never = sentence(play(bad, replace(THREE, lockout_threshold=0)))
    assert never.startswith("Never locks")
    assert len({reads("bad", o) for o in ("refused", "locked", "accepted", "unlocked")}) == 4
    assert reads("old", "refused") != reads("bad", "refused")


@given(stories, policies)
def test_runs_hold_every_step_once_and_only_those_that_are_alike(
    story: Story, policy: Settings
) -> None:
    played = play(story, policy)
    found = runs(played)
    assert [step for run in found for step in run.steps] == list(played.steps)
    for run in found:
        assert run.steps[0] == played.steps[run.first]
        assert len({(one.event.kind, one.outcome) for one in run.steps}) == 1
        counts = [one.bad_count for one in run.steps]
        assert counts == sorted(counts)
        assert not any(one.locked and one.outcome == "refused" for one in run.steps[:-1])


def test_a_count_that_begins_anew_begins_a_run() -> None:
    story = tuple(Event(minute * MINUTE, "bad") for minute in (0, 1, 30, 31))
    assert [len(run.steps) for run in runs(play(story, THREE))] == [2, 2]
