"""When a report is due that comes by itself."""

from __future__ import annotations

from datetime import UTC, datetime, time, timedelta
from zoneinfo import ZoneInfo

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hornfels.core.reports.schedule import LAST_DAY, Every, Schedule

BERLIN = ZoneInfo("Europe/Berlin")

moments = st.datetimes(datetime(2020, 1, 1), datetime(2040, 1, 1), timezones=st.just(UTC))
schedules = st.sampled_from(["week", "month"]).flatmap(
    lambda every: st.builds(
        Schedule,
        st.just(every),
        st.integers(1, LAST_DAY[every]),
        st.times(),
        st.sampled_from([ZoneInfo(z) for z in ("UTC", "Europe/Berlin", "Pacific/Apia")]),
    )
)


@given(schedules, moments)
def test_now_lies_between_the_last_time_and_the_next(schedule: Schedule, now: datetime) -> None:
    last, coming = schedule.last(now), schedule.next(now)
    assert schedule.previous(last) < last <= now < coming
    assert schedule.last(coming) == coming
    assert coming - last < timedelta(days=8 if schedule.every == "week" else 32)


@given(schedules, moments)
def test_it_is_due_on_its_day_at_its_hour(schedule: Schedule, now: datetime) -> None:
    due = schedule.last(now).astimezone(schedule.zone)
    assert (due.isoweekday() if schedule.every == "week" else due.day) == schedule.day or (
        due.utcoffset() != (due - timedelta(hours=3)).utcoffset()
    ), "only an hour that a clock skips moves it"
    assert due.time().minute == schedule.at.minute


@pytest.mark.parametrize(
    ("every", "day", "now", "last", "coming"),
    [
        # A Wednesday.
        ("week", 1, "2026-11-25T12:00", "2026-11-23T07:00", "2026-11-30T07:00"),
        ("week", 3, "2026-11-25T06:59", "2026-11-18T07:00", "2026-11-25T07:00"),
        ("week", 3, "2026-11-25T07:00", "2026-11-25T07:00", "2026-12-02T07:00"),
        ("month", 28, "2026-02-28T06:00", "2026-01-28T07:00", "2026-02-28T07:00"),
        ("month", 28, "2026-02-28T08:00", "2026-02-28T07:00", "2026-03-28T07:00"),
        ("month", 1, "2026-12-31T23:00", "2026-12-01T07:00", "2027-01-01T07:00"),
    ],
)
def test_days_by_the_calendar(every: Every, day: int, now: str, last: str, coming: str) -> None:
    schedule = Schedule(every, day, time(7), BERLIN)

    def at(text: str) -> datetime:
        return datetime.fromisoformat(text).replace(tzinfo=BERLIN)

    assert schedule.last(at(now)) == at(last)
    assert schedule.next(at(now)) == at(coming)
