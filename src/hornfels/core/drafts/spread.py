"""A shorter maximum age brought in over weeks: who is told to choose another password when, so that
hardly any is left that ends at once when the age is published (domain rules §3).
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Literal, get_args

import numpy as np

from hornfels.core.domain.account_state import EXPIRES_NEVER
from hornfels.core.domain.estate import UNKNOWN_TIME, Bools, Int64
from hornfels.core.domain.must_change import may_be_told
from hornfels.core.domain.privileged import privileged
from hornfels.core.resolution.roster import Roster
from hornfels.core.values.time import DAY, describe_span

Risk = Literal["exposed", "shared", "privileged", "none"]
"""Others know the password; accounts share it; the account administers the domain; none of that."""
RISKS: tuple[Risk, ...] = get_args(Risk)
"""The gravest first."""
WEEK = 7 * DAY


@dataclass(frozen=True, eq=False)
class Spread:
    """Accounts (``rows``) in the order in which they are told, the wave of each from 0, its risk by
    its number in `RISKS`. ``by_themselves`` counts the passwords of everybody that end in each week
    without anybody's doing, ``spared`` those that end at once when the age is published all the
    same: their accounts are never told to choose another. ``at_once`` would end now if it were
    published now, and did not end yet. ``shortest`` is the shortest new maximum age of those
    concerned, in ticks, 0 where nobody is: over a longer time, those who are told first end once
    more at its end.
    """

    begins: int
    rows: Int64
    wave: Int64
    risk: Int64
    by_themselves: Int64
    spared: int
    at_once: int
    shortest: int

    @property
    def weeks(self) -> int:
        return len(self.by_themselves)

    @property
    def warning(self) -> str:
        """Where those who are told first would have to change once more at the end."""
        if not self.shortest or self.weeks * WEEK <= self.shortest:
            return ""
        weeks = max(1, self.shortest // WEEK)
        return (
            f"The new maximum age is {describe_span(self.shortest // DAY * DAY)} for some. Over "
            f"more than {weeks} {'week' if weeks == 1 else 'weeks'}, those who are told first have "
            "to change once more when the draft is published."
        )

    def begin_of(self, wave: int) -> int:
        """When a wave begins, in ticks."""
        return self.begins + wave * WEEK

    def counts(self, wave: int) -> dict[Risk, int]:
        """How many accounts are told in a wave, by their risk."""
        found = np.bincount(self.risk[self.wave == wave], minlength=len(RISKS))
        return dict(zip(RISKS, found.tolist(), strict=True))


def spread(
    live: Roster,
    draft: Roster,
    now: int,
    begins: int,
    weeks: int,
    exposed: Int64,
    shared: Int64,
    spared: Iterable[str] = (),
) -> Spread:
    """Spread over weeks from a day on (moments in ticks) what ends sooner by the draft, and by the
    end of them. `exposed` and `shared` are rows of accounts whose passwords others know or share.

    The gravest risk comes first, then the oldest password. Whose password ends by itself meanwhile
    is left to that, unless there is a risk. So many are told in each week that it comes, with those
    that end by themselves, as near as can be to all the others.
    """
    estate = live.estate
    set_at, until = estate.accounts.password_set, begins + weeks * WEEK
    there = live.people & ~(_dated(live) & (live.expires <= now))
    sooner = there & _dated(draft) & (set_at > 0) & (draft.expires < live.expires)
    concerned = np.flatnonzero(sooner & (draft.expires <= until))
    risk = _risks(live, concerned, exposed, shared)
    alone = there & _dated(live) & (live.expires <= until)
    may = may_be_told(estate, concerned, spared)
    left = alone[concerned] & (risk == RISKS.index("none"))
    told = ~left & may
    alone[concerned[told]] = False
    week = np.maximum(live.expires[alone] - begins, 0) // WEEK
    by_themselves = np.bincount(np.minimum(week, weeks - 1), minlength=weeks)
    rows, risk = concerned[told], risk[told]
    order = np.lexsort((rows, set_at[rows], risk))
    sizes = levelled(by_themselves, len(rows))
    return Spread(
        begins,
        rows[order],
        np.repeat(np.arange(weeks), sizes),
        risk[order],
        by_themselves.astype(np.int64),
        int((~alone[concerned] & ~told).sum()),
        int((sooner & (draft.expires <= now)).sum()),
        int((draft.expires - set_at)[concerned].min()) if len(concerned) else 0,
    )


def levelled(there: Int64, more: int) -> Int64:
    """How many of so many `more` come to each of what is `there`, so that the sums are as near to
    each other as can be: nothing is added above the level at which they meet, and what is left over
    of a whole level comes first.
    """
    order = np.argsort(there, kind="stable")
    heights = there[order].astype(np.int64)
    # How much it takes to raise the lowest n to the height of the next.
    needed = heights * np.arange(len(heights)) - np.concatenate(([0], np.cumsum(heights)[:-1]))
    lowest = int(np.searchsorted(needed, more, side="right"))
    level, over = divmod(more + int(heights[:lowest].sum()), max(lowest, 1))
    added = np.zeros(len(there), dtype=np.int64)
    raised = np.sort(order[:lowest])
    added[raised] = level - there[raised]
    added[raised[:over]] += 1
    return added


def _dated(roster: Roster) -> Bools:
    ends = roster.expires
    found: Bools = (ends != UNKNOWN_TIME) & (ends != 0) & (ends < EXPIRES_NEVER)
    return found


def _risks(roster: Roster, rows: Int64, exposed: Int64, shared: Int64) -> Int64:
    found = np.full(len(rows), RISKS.index("none"), dtype=np.int64)
    found[privileged(roster.estate)[rows]] = RISKS.index("privileged")
    found[np.isin(rows, shared)] = RISKS.index("shared")
    found[np.isin(rows, exposed)] = RISKS.index("exposed")
    return found
