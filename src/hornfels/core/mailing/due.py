"""Which accounts are to be written to, and about what. Each thing is written about once: it has a
key that tells it from the next of its kind.
"""

from __future__ import annotations

from collections.abc import Collection, Iterator, Mapping
from dataclasses import dataclass, field
from typing import Literal, NamedTuple, get_args

import numpy as np

from hornfels.core.domain.account_state import lock_state, settings_of
from hornfels.core.domain.estate import UNKNOWN_TIME, Bools, Control, Int64
from hornfels.core.resolution.engine import DOMAIN_POLICY
from hornfels.core.resolution.roster import Roster
from hornfels.core.values.time import DAY

Kind = Literal["expiring", "expired", "must change", "locked", "exposed", "policy changed"]
"""The password ends soon; has ended; has to be changed at the next sign-in; the account is locked;
others know the password; another policy holds, or it asks something else.
"""
KINDS: tuple[Kind, ...] = get_args(Kind)
KIND_WORDS: dict[Kind, str] = {
    "expiring": "the password ends soon",
    "expired": "the password has ended",
    "must change": "it has to be changed",
    "locked": "the account is locked",
    "exposed": "others know the password",
    "policy changed": "other rules hold",
}
"""What each is about, for those who look after them."""
DAYS = (14, 7, 1)
"""Before a password ends, where nothing else is chosen."""
MUST_CHANGE = 0
"""Stands where a password was set that has to be changed at the next sign-in."""
_STATES: tuple[Kind, ...] = ("expired", "must change", "locked")
"""What may have been so for years when somebody begins to write."""


@dataclass(frozen=True, slots=True)
class Wanted:
    """What is written about, and how many days before a password ends: by policy (its GUID,
    or “domain”) where it is another number there, none for never.
    """

    kinds: frozenset[Kind] = frozenset(KINDS)
    days: tuple[int, ...] = DAYS
    by_policy: Mapping[str, tuple[int, ...]] = field(default_factory=dict)

    def days_for(self, policy: str) -> tuple[int, ...]:
        return self.by_policy.get(policy, self.days)


class Notice(NamedTuple):
    """One thing to write about to the account in a row. ``at`` is the moment it is about, in ticks:
    when the password ends or ended, when the lock ends by itself; 0 for none.
    """

    row: int
    kind: Kind
    key: str
    at: int = 0


Told = Collection[tuple[int, Kind, str]]
"""What was written about already: by RID, kind and key."""


def due(
    roster: Roster,
    wanted: Wanted,
    now: int,
    exposed: Mapping[int, int],
    told: Told = (),
    *,
    first: bool = False,
) -> Iterator[Notice]:
    """What is to be written about at a moment. `exposed` has the RIDs of accounts whose passwords
    others know, with when those were set. With `first`, when somebody begins to write, what may be
    so for long is no news.
    """
    rid = roster.estate.accounts.rid
    for notice in _every(roster, wanted, now, exposed):
        if first and notice.kind in _STATES:
            continue
        if (int(rid[notice.row]), notice.kind, notice.key) not in told:
            yield notice


def long_so(roster: Roster, now: int) -> Iterator[Notice]:
    """What is so already when somebody begins to write, and so is no news."""
    wanted = Wanted(frozenset(_STATES), days=())
    yield from _every(roster, wanted, now, {})


def _every(
    roster: Roster, wanted: Wanted, now: int, exposed: Mapping[int, int]
) -> Iterator[Notice]:
    accounts = roster.estate.accounts
    there = roster.people
    set_at = accounts.password_set
    if "expiring" in wanted.kinds:
        yield from _expiring(roster, wanted, now, there)
    if "expired" in wanted.kinds:
        for row in np.flatnonzero(there & (set_at > 0) & _ended(roster, now)).tolist():
            yield Notice(row, "expired", str(set_at[row]), int(roster.expires[row]))
    if "must change" in wanted.kinds:
        endless = (accounts.control & np.uint32(Control.NEVER_EXPIRES)) != 0
        for row in np.flatnonzero(there & (set_at == MUST_CHANGE) & ~endless).tolist():
            yield Notice(row, "must change", "")
    if "locked" in wanted.kinds:
        for row in np.flatnonzero(there & roster.locked(now)).tolist():
            yield _locked(roster, row, now)
    if "exposed" in wanted.kinds and exposed:
        known = np.array(sorted(exposed), np.int64)
        for row in np.flatnonzero(there & np.isin(accounts.rid, known)).tolist():
            since = exposed[int(accounts.rid[row])]
            # Who was made to choose another one for it hears why all the same.
            if since in (int(set_at[row]), MUST_CHANGE) or set_at[row] == MUST_CHANGE:
                yield Notice(row, "exposed", str(since))


def _ended(roster: Roster, now: int) -> Bools:
    found: Bools = (roster.expires > 0) & (roster.expires != UNKNOWN_TIME) & (roster.expires <= now)
    return found


def _expiring(roster: Roster, wanted: Wanted, now: int, there: Bools) -> Iterator[Notice]:
    set_at, winners = roster.estate.accounts.password_set, roster.resolution.winner_of_account
    policies = roster.estate.policies
    for policy in (*range(len(policies)), DOMAIN_POLICY):
        ref = "domain" if policy == DOMAIN_POLICY else str(policies[policy].guid)
        days = sorted(wanted.days_for(ref))
        if not days:
            continue
        left: Int64 = roster.expires - now
        soon = there & (winners == policy) & (set_at > 0) & (left > 0) & (left <= days[-1] * DAY)
        for row in np.flatnonzero(soon).tolist():
            # The nearest of the days: who is late to hear of it hears it once.
            day = next(one for one in days if left[row] <= one * DAY)
            yield Notice(row, "expiring", f"{set_at[row]}:{day}", int(roster.expires[row]))


def _locked(roster: Roster, row: int, now: int) -> Notice:
    accounts = roster.estate.accounts
    since = int(accounts.lockout_time[row])
    settings = settings_of(roster.estate, int(roster.resolution.winner_of_account[row]))
    until = lock_state(settings, since, now).until
    return Notice(row, "locked", str(since), until or 0)
