"""What is to come, for a report: when passwords end, and what guessing and people's time cost."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from hornfels.core.domain.account_state import settings_of
from hornfels.core.lockout.burden import Habits, stand
from hornfels.core.lockout.guessing import Assumptions, number, share
from hornfels.core.reports.report import BunchLine, ForecastPart, GuessLine, Mark, WeekLine
from hornfels.core.resolution.engine import DOMAIN_POLICY
from hornfels.core.resolution.expiries import Expiries, bunch_sentence, expiries
from hornfels.core.resolution.roster import Roster
from hornfels.core.values.time import DAY, datetime_from_moment

WEEKS = 13
"""A quarter of a year."""


def forecast_part(roster: Roster, now: int, mark: Mark, name: Callable[[int], str]) -> ForecastPart:
    """What is to come from a moment (ticks) on; `name` gives a policy's by its number. Guessers are
    those who let accounts lock and come back, people sign in as is usually assumed.
    """
    found = expiries(roster, now, 7 * WEEKS)
    return ForecastPart(
        weeks=tuple(_weeks(found)),
        bunches=tuple(
            BunchLine(at.date(), one.many, bunch_sentence(one, name(one.policy)))
            for one in found.bunches
            if (at := datetime_from_moment(found.begins + one.day * DAY))
        ),
        ended=found.ended,
        to_change=found.to_change,
        never=found.never,
        unknown=found.unknown,
        guesses=tuple(_guesses(roster, mark, name)),
    )


def _weeks(found: Expiries) -> Iterator[WeekLine]:
    for week in range(WEEKS):
        begins = datetime_from_moment(found.begins + 7 * week * DAY)
        if begins:
            yield WeekLine(begins.date(), int(found.by_day[7 * week : 7 * week + 7].sum()))


def _guesses(roster: Roster, mark: Mark, name: Callable[[int], str]) -> Iterator[GuessLine]:
    for policy in (*roster.resolution.order, DOMAIN_POLICY):
        at = stand(settings_of(roster.estate, policy), Assumptions(), Habits(), "duration")
        yield GuessLine(
            name=name(policy),
            mark=mark(policy),
            tries="no limit" if at.tries is None else number(at.tries),
            chance="no limit" if at.chance is None else share(at.chance),
            minutes=number(at.burden.minutes),
        )
