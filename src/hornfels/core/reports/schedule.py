"""When a report is due that comes by itself."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import UTC, date, datetime, time, timedelta
from typing import Literal
from zoneinfo import ZoneInfo

Every = Literal["week", "month"]
LAST_DAY = {"week": 7, "month": 28}
"""Of a month, the last day that each has."""


@dataclass(frozen=True, slots=True)
class Schedule:
    """A time of day, in a zone, on a day of every week (1 is Monday) or of every month."""

    every: Every
    day: int
    at: time
    zone: ZoneInfo

    def last(self, now: datetime) -> datetime:
        """The latest moment at which it was due, at most `now`, in UTC."""
        today = now.astimezone(self.zone).date()
        # An hour that a clock skips or repeats may move it past now on its own day.
        for day in (self._on_or_before(today), self._before(self._on_or_before(today))):
            if (moment := self._moment(day)) <= now:
                return moment
        raise AssertionError("the one before the last is in the past")

    def previous(self, due: datetime) -> datetime:
        """When it was due before that, in UTC."""
        return self.last(due - timedelta(seconds=1))

    def next(self, now: datetime) -> datetime:
        """When it is due next, after `now`, in UTC."""
        day = self.last(now).astimezone(self.zone).date()
        # Two of the shortest periods later at most there is another one.
        later = self._on_or_before(day + timedelta(days=7 if self.every == "week" else 31))
        return self._moment(later)

    def _on_or_before(self, day: date) -> date:
        if self.every == "week":
            return day - timedelta(days=(day.isoweekday() - self.day) % 7)
        if day.day >= self.day:
            return day.replace(day=self.day)
        return (day.replace(day=1) - timedelta(days=1)).replace(day=self.day)

    def _before(self, day: date) -> date:
        return self._on_or_before(day - timedelta(days=1))

    def _moment(self, day: date) -> datetime:
        return datetime.combine(day, self.at, self.zone).astimezone(UTC)
