"""`hornfels forecast`: passwords in a dump by the day on which they expire, without a database."""

from __future__ import annotations

import sys
from datetime import UTC, datetime
from pathlib import Path

from hornfels.cli.errors import json_line, say
from hornfels.cli.moments import moment_given
from hornfels.cli.resolve import read_estate
from hornfels.core.domain.estate import LinkedGroups
from hornfels.core.resolution.engine import resolve
from hornfels.core.resolution.expiries import outlook
from hornfels.core.resolution.roster import Roster
from hornfels.core.values.time import DAY, datetime_from_moment, moment_from_datetime


def print_forecast(
    file: Path, days: int, since: str | None, linked_groups: LinkedGroups, *, as_json: bool
) -> None:
    """Print the number of passwords that expire on each UTC day from the day of `since` on, then
    the numbers of the other accounts.
    """
    now = (
        moment_from_datetime(datetime.now(UTC)) if since is None else moment_given("--from", since)
    )
    estate = read_estate(file, linked_groups)
    found = outlook(Roster(estate, resolve(estate)), now, days)
    rest = {key: getattr(found, key) for key in ("already", "never", "must_change", "later")}
    for number, expire in enumerate(found.by_day):
        day = _day(found.begins + number * DAY)
        if as_json:
            sys.stdout.write(json_line({"day": day, "expire": expire}) + "\n")
        elif expire:
            say(f"{day}  {expire:>7,}")
    if as_json:
        sys.stdout.write(json_line(rest) + "\n")
        return
    say(
        f"expired already {found.already:,}, never {found.never:,}, at the next sign-in "
        f"{found.must_change:,}, later {found.later:,}"
    )


def _day(moment: int) -> str:
    at = datetime_from_moment(moment)
    return f"{at:%Y-%m-%d}" if at else "beyond the calendar"
