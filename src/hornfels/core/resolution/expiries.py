"""On which days passwords end, by policy, and which days stand out (domain rules §3)."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from hornfels.core.domain.account_state import EXPIRES_NEVER
from hornfels.core.domain.estate import UNKNOWN_TIME, Control, Int64
from hornfels.core.resolution.engine import DOMAIN_POLICY
from hornfels.core.resolution.roster import Roster
from hornfels.core.values.time import DAY, datetime_from_moment

FEWEST_IN_BUNCH = 10
OVER_USUAL = 3
"""A day stands out on which so many times as many end as on the median of the days with any."""
MOST_BUNCHES = 5


@dataclass(frozen=True, slots=True)
class Bunch:
    """A day, by its number from the first, on which many passwords end: how many, under which
    policy most of them, and how many of them were set on one and the same day, which began at
    ``set_on`` (ticks).
    """

    day: int
    many: int
    policy: int
    of_policy: int
    set_on: int
    set_together: int


@dataclass(frozen=True, eq=False)
class Expiries:
    """How many passwords of people end on each day from the one on which a moment lies; that day
    begins at ``begins`` (ticks, UTC). ``counts`` has the shape (policies + 1, days), the domain
    policy last. ``ended`` have ended by then, ``unknown`` it is not known of, ``never`` end never,
    ``to_change`` have to be changed at the next sign-in.
    """

    begins: int
    counts: Int64
    bunches: tuple[Bunch, ...]
    ended: int
    unknown: int
    never: int
    to_change: int

    @property
    def by_day(self) -> Int64:
        found: Int64 = self.counts.sum(axis=0)
        return found

    def of_policy(self, policy: int) -> Int64:
        """The days of a policy by its number."""
        found: Int64 = self.counts[policy]
        return found


def expiries(roster: Roster, now: int, days: int) -> Expiries:
    """The days from a moment on. Disabled accounts and those of machines and domains do not
    count.
    """
    accounts, ends = roster.estate.accounts, roster.expires
    begins = now // DAY * DAY
    people = roster.people
    dated = people & (ends != UNKNOWN_TIME) & (ends != 0) & (ends < EXPIRES_NEVER)
    day = np.where(dated & (ends > now), (ends - begins) // DAY, days)
    rows = np.flatnonzero(day < days)
    winners = roster.resolution.winner_of_account[rows]
    policies = len(roster.estate.policies)
    # The domain policy is −1, which is the last.
    flat = (winners.astype(np.int64) % (policies + 1)) * days + day[rows]
    counts = np.bincount(flat, minlength=(policies + 1) * days).reshape(policies + 1, days)
    return Expiries(
        begins,
        counts.astype(np.int64),
        _bunches(counts, day[rows], accounts.password_set[rows]),
        int((dated & (ends <= now)).sum()),
        int((people & (ends == UNKNOWN_TIME)).sum()),
        int((people & (ends == EXPIRES_NEVER)).sum()),
        int((people & (ends == 0)).sum()),
    )


@dataclass(frozen=True, slots=True)
class Outlook:
    """Counts of people's passwords: ``by_day`` those that expire on each UTC day from the day of a
    moment on, shape (days,); ``already`` expired ones; ``never`` those without an end;
    ``must_change`` those to be changed at the next sign-in; ``later`` those that expire after the
    last day. The counts add up to all people. The first day begins at ``begins`` (ticks).
    """

    begins: int
    by_day: list[int]
    already: int
    never: int
    must_change: int
    later: int


def outlook(roster: Roster, now: int, days: int) -> Outlook:
    """Return the counts for `days` days from a moment on (ticks). An account counts once: by its
    flags first, then by a required change, then by its policy.
    """
    found, accounts = expiries(roster, now, days), roster.estate.accounts
    flags = np.uint32(Control.NEVER_EXPIRES | Control.SMART_CARD_REQUIRED)
    endless = (accounts.control & flags) != 0
    must_change = roster.people & ~endless & (accounts.password_set <= 0)
    never = roster.people & (roster.expires == EXPIRES_NEVER) & ~must_change
    by_day: list[int] = found.by_day.tolist()
    beside = found.ended, int(never.sum()), int(must_change.sum())
    later = int(roster.people.sum()) - sum(by_day) - sum(beside)
    return Outlook(found.begins, by_day, *beside, later)


def bunch_sentence(one: Bunch, policy: str) -> str:
    """Why so many passwords end on one day; `policy` is the name of that most of them are under."""
    set_on = datetime_from_moment(one.set_on)
    if one.set_together * 2 > one.many and set_on:
        share = "all" if one.set_together == one.many else f"{one.set_together:,}"
        return f"{share} set on the same day, {set_on:%-d %b %Y}"
    if one.of_policy == one.many:
        return f"all under {policy}"
    return f"{one.of_policy:,} of them under {policy}"


def _bunches(counts: Int64, day: Int64, password_set: Int64) -> tuple[Bunch, ...]:
    by_day = counts.sum(axis=0)
    if not by_day.any():
        return ()
    usual = float(np.median(by_day[by_day > 0]))
    high = np.flatnonzero((by_day >= FEWEST_IN_BUNCH) & (by_day >= OVER_USUAL * usual))
    largest = high[np.argsort(-by_day[high], kind="stable")][:MOST_BUNCHES]
    found = []
    for one in sorted(largest.tolist()):
        here = day == one
        set_on, together = np.unique(password_set[here] // DAY, return_counts=True)
        most = int(together.argmax())
        policy = int(counts[:, one].argmax())
        found.append(
            Bunch(
                one,
                int(by_day[one]),
                DOMAIN_POLICY if policy == len(counts) - 1 else policy,
                int(counts[policy, one]),
                int(set_on[most]) * DAY,
                int(together[most]),
            )
        )
    return tuple(found)
