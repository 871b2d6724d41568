"""Moments that are given on the command line."""

from __future__ import annotations

from datetime import datetime

from hornfels.cli.errors import fail
from hornfels.core.values.time import moment_from_datetime


def moment_given(option: str, text: str) -> int:
    """Return a moment in ticks since 1601; end with an error that names the option where the text
    is no date and time.
    """
    try:
        return moment_from_datetime(datetime.fromisoformat(text))
    except ValueError:
        fail(
            f"{option}: '{text}' is not an ISO 8601 date and time, such as "
            "2026-03-01T08:00:00+01:00"
        )
