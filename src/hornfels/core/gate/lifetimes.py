"""How long passwords live by the length bands of additions, account by account (domain rules §9).

How long a password is, only the gate has seen; what it keeps of that is the day on which it ends. A
password that was set anywhere else is taken for one of the shortest band.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np

from hornfels.core.domain.account_state import EXPIRES_NEVER, addition_of
from hornfels.core.domain.estate import Bools, Estate, Int32, Int64
from hornfels.core.domain.must_change import may_be_told
from hornfels.core.policy.addition import Addition
from hornfels.core.resolution.engine import DOMAIN_POLICY, Resolution
from hornfels.core.values.time import DAY, MINUTE

TOLERANCE = 2 * MINUTE
"""By how much the clocks of gate and directory may differ, and how long the directory may take to
set what was accepted.
"""


class Passed(NamedTuple):
    """That a password passed the gate, when, and the beginning of the day on which it ends; both
    moments are ticks since 1601.
    """

    account: str
    at: int
    ends: int


def day_of(moment: int) -> int:
    """The beginning of the day (UTC) that a moment lies in."""
    return moment // DAY * DAY


@dataclass(frozen=True, eq=False)
class Lifetimes:
    """The accounts whose passwords end by a band: their rows, the beginning of the day on which
    each ends, in ticks, and whether that is known from the gate.
    """

    rows: Int64
    ends: Int64
    from_gate: Bools

    def __len__(self) -> int:
        return len(self.rows)

    def due(self, now: int) -> Int64:
        """The rows of the accounts whose day has come, longest ago first."""
        here = np.flatnonzero(self.ends <= now)
        return self.rows[here[np.argsort(self.ends[here], kind="stable")]]


def lifetimes(
    estate: Estate,
    resolution: Resolution,
    passed: Iterable[Passed],
    spared: Iterable[str] = (),
    among: Int64 | None = None,
) -> Lifetimes:
    """Whose passwords end by a band, and when, of all accounts or of those in some rows, given in
    their order; only of those that may be told to choose another (see `may_be_told`).
    """
    accounts = estate.accounts
    rows = np.arange(len(accounts)) if among is None else among
    shortest, longest = _bands(estate, resolution.winner_of_account[rows])
    ends_once = (shortest < EXPIRES_NEVER) & may_be_told(estate, rows, spared)
    rows, shortest, longest = rows[ends_once], shortest[ends_once], longest[ends_once]
    set_at = accounts.password_set[rows]
    # A lifetime may be longer than all the time that there is.
    ends = set_at + np.minimum(shortest, EXPIRES_NEVER - set_at)
    from_gate = np.zeros(len(rows), dtype=np.bool_)
    seen = of_present(estate, rows, passed)
    # By what a stricter policy allows by now, whatever held when it was set.
    since = set_at[seen.places]
    ends[seen.places] = since + np.minimum(longest[seen.places], seen.ends - since)
    from_gate[seen.places] = True
    return Lifetimes(rows, ends // DAY * DAY, from_gate)


def ends_on(addition: Addition, set_at: int, passed: Iterable[Passed]) -> tuple[int, bool]:
    """The beginning of the day on which one password that was set at a moment ends by the bands of
    its policy, and whether that is known from the gate; all in ticks.
    """
    longest = addition.bands[-1].lifetime
    ends, from_gate = set_at + addition.bands[0].lifetime, False
    for one in sorted(passed, key=lambda one: one.at):
        if abs(set_at - one.at) <= TOLERANCE:
            ends, from_gate = min(one.ends, set_at + longest), True
    return day_of(ends), from_gate


@dataclass(frozen=True, eq=False)
class Present:
    """What is kept of passwords that accounts have still, in the order in which it was kept: the
    places of the accounts, of which one may come again, and of each when it passed and the day on
    which it ends, in ticks.
    """

    places: Int64
    at: Int64
    ends: Int64


def of_present(estate: Estate, rows: Int64, passed: Iterable[Passed]) -> Present:
    """What is kept of the present passwords of the accounts in some rows, given in their order;
    the places are among these rows.
    """
    kept = list(passed)
    row = estate.find_accounts([one.account for one in kept])
    at = np.fromiter((one.at for one in kept), np.int64, len(kept))
    ends = np.fromiter((one.ends for one in kept), np.int64, len(kept))
    place = np.searchsorted(rows, row)
    among = np.flatnonzero(np.isin(row, rows))
    same = np.abs(estate.accounts.password_set[row[among]] - at[among]) <= TOLERANCE
    here = among[same]
    here = here[np.argsort(at[here], kind="stable")]
    return Present(place[here], at[here], ends[here])


def _bands(estate: Estate, winners: Int32) -> tuple[Int64, Int64]:
    """The shortest and the longest lifetime that these policies give, in ticks; `EXPIRES_NEVER`
    where one has no bands.
    """
    # The last one stands for the domain policy too, which is −1.
    bands = np.full((2, len(estate.policies) + 1), EXPIRES_NEVER, dtype=np.int64)
    for policy in (*range(len(estate.policies)), DOMAIN_POLICY):
        addition = addition_of(estate, policy)
        if addition and addition.bands:
            bands[:, policy] = addition.bands[0].lifetime, addition.bands[-1].lifetime
    return bands[0][winners], bands[1][winners]
