"""Hours in which nobody is written to."""

from __future__ import annotations

from datetime import datetime, time
from zoneinfo import ZoneInfo


def is_quiet(now: datetime, begins: time, ends: time, zone: ZoneInfo) -> bool:
    """Whether a moment lies in the quiet hours of a zone, which may go over midnight; hours that
    end as they begin are none.
    """
    at = now.astimezone(zone).time()
    if begins <= ends:
        return begins <= at < ends
    return at >= begins or at < ends
