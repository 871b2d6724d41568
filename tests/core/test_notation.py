"""Our notation for stories, read and written."""

from __future__ import annotations

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hornfels.core.lockout.machine import KINDS
from hornfels.core.lockout.notation import (
    LONGEST,
    MOST_EVENTS,
    PAUSE,
    NotationError,
    read_story,
    write_story,
)
from hornfels.core.lockout.ready_made import READY_MADE
from hornfels.core.lockout.story import Event, in_order, play
from hornfels.core.policy.model import DEFAULTS
from hornfels.core.policy.starting_points import STARTING_POINTS
from hornfels.core.values.time import DAY, HOUR, MINUTE, NEVER, TICKS_PER_SECOND, exact_span

SECOND = TICKS_PER_SECOND


def test_a_story_is_read_part_by_part() -> None:
    assert read_story("3 bad in 10 min, good after 2 h, unlock") == (
        Event(0, "bad"),
        Event(5 * MINUTE, "bad"),
        Event(10 * MINUTE, "bad"),
        Event(10 * MINUTE + 2 * HOUR, "good"),
        Event(10 * MINUTE + 2 * HOUR + PAUSE, "unlock"),
    )


@pytest.mark.parametrize(
    ("text", "moments"),
    [
        ("2 bad", [0, PAUSE]),
        ("Bad tries at 1 h 30 min", [90 * MINUTE]),
        ("bad every 5 min for 12 min", [0, 5 * MINUTE, 10 * MINUTE]),
        ("2 bad every 0.5 s after 1 d", [DAY, DAY + SECOND // 2]),
        (
            "good at 1 min; bad\nold after 1 week",
            [MINUTE, MINUTE + PAUSE, MINUTE + PAUSE + 7 * DAY],
        ),
        ("bad at 10 s, good at 5 s", [5 * SECOND, 10 * SECOND]),
        ("bad,, good after 2 minutes,", [0, 2 * MINUTE]),
        ("", []),
    ],
)
def test_when_each_event_comes(text: str, moments: list[int]) -> None:
    assert [event.at for event in read_story(text)] == moments


@pytest.mark.parametrize(
    ("text", "problem"),
    [
        ("bad, 3 bda", "Part 2, “3 bda”: Say what happens"),
        ("bad every 5 min", "Say how many or for how long"),
        ("bad for 2 h", "goes with “every”"),
        ("3 bad every 1 s for 2 h", "goes with “every” and no number"),
        ("bad every 0 s for 2 h", "goes with “every”"),
        ("3 bad in", "Say how long after “in”"),
        ("bad after 2 parsecs", "Say how long after “after”"),
        ("bad at 1 h at 2 h", "stands there twice"),
        ("bad at 1 h after 2 h", "Keep one"),
        ("3 bad in 1 h every 2 h", "already"),
        ("bad in 1 h", "at least 2"),
        ("0 bad", "1 to 2,000 times"),
        ("1.5 bad", "1 to 2,000 times"),
        ("bad once", "“once” has no meaning here"),
        ("bad #3", "“#” has no meaning here"),
        ("bad at 1001 d", "1,000 days at most"),
        ("bad every 1 s for 2 h", "at most 2,000 events"),
        ("2000 bad, bad", "at most 2,000 events"),
        ("bad after 999999999 w", "1,000 days at most"),
    ],
)
def test_what_cannot_be_read_is_named_with_its_part(text: str, problem: str) -> None:
    with pytest.raises(NotationError) as told:
        read_story(text)
    assert problem in str(told.value)


def test_a_part_as_long_as_a_book_is_not_repeated_whole() -> None:
    with pytest.raises(NotationError) as told:
        read_story("x" * 100_000)
    assert len(str(told.value)) < 300


spans = st.integers(0, 10**9) | st.integers(0, 400).map(lambda n: n * MINUTE)


@given(st.lists(st.tuples(spans, st.sampled_from(KINDS)), max_size=30), st.lists(spans, max_size=3))
def test_reading_what_was_written_gives_the_same_story(
    gaps: list[tuple[int, str]], runs: list[int]
) -> None:
    at, events = 0, []
    for gap, kind in gaps:
        at += gap
        events.append(Event(at, kind))  # type: ignore[arg-type]
    for gap in runs:
        events += [Event(gap * n, "bad") for n in range(4)]
    story = in_order(event for event in events if event.at <= LONGEST)
    assert read_story(write_story(story)) == story
    assert len(story) <= MOST_EVENTS


@given(st.integers(0, LONGEST))
def test_a_span_is_written_to_the_tick(span: int) -> None:
    assert read_story(f"bad at {exact_span(span)}")[0].at == span


def test_what_was_written_is_short() -> None:
    assert write_story(read_story("bad, bad, bad, good after 2 h, unlock")) == (
        "3 bad, good after 2 h, unlock"
    )
    assert write_story(read_story("bad every 5 min for 2 h")) == "25 bad every 5 min"


ODD = (
    *(point.settings for point in STARTING_POINTS),
    replace(DEFAULTS, lockout_threshold=1, lockout_duration=NEVER),
    replace(DEFAULTS, lockout_threshold=2, lockout_window=40 * DAY, lockout_duration=DAY),
    replace(DEFAULTS, lockout_threshold=65_535),
    replace(DEFAULTS, lockout_threshold=5, lockout_window=0),
)


def test_a_ready_made_story_can_be_played_under_any_policy_and_says_what_it_shows() -> None:
    for settings in ODD:
        for one in READY_MADE:
            played = play(read_story(one.text(settings)), settings)
            assert one.lesson(played).endswith(".")
            assert one.key != "slow" or settings.lockout_threshold == 1 or not played.locks


def test_the_lessons_tell_what_happened() -> None:
    device = next(one for one in READY_MADE if one.key == "device")
    five = replace(DEFAULTS, lockout_threshold=5)
    played = play(read_story(device.text(five)), five)
    assert len(played.locks) == 3
    assert "It locks 3 times in two hours." in device.lesson(played)
    short = replace(five, lockout_window=4 * MINUTE)
    assert "does not lock" in device.lesson(play(read_story(device.text(short)), short))
    flood = next(one for one in READY_MADE if one.key == "flood")
    played = play(read_story(flood.text(five)), five)
    assert (played.looked_at, played.turned_away) == (5, 1)
    assert "Of 120 passwords 5 are tried" in flood.lesson(played)
