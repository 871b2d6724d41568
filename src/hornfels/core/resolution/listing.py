"""What a table says of accounts, row by row (domain rules §3)."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass

from hornfels.core.domain.account_state import (
    ExpiryKind,
    FlagEffect,
    expiry,
    flag_effects,
    lock_state,
    settings_of,
)
from hornfels.core.domain.estate import Estate
from hornfels.core.resolution.engine import Resolution, Source
from hornfels.core.resolution.roster import Roster
from hornfels.core.values.dn import parent_of


@dataclass(frozen=True, slots=True)
class Listed:
    """One account: its policy (`DOMAIN_POLICY` if none), how it comes to it, through which group's
    row (−1 for none), and how its password stands. Moments in ticks.
    """

    row: int
    policy: int
    source: Source
    through: int
    tie: bool
    expiry: ExpiryKind
    expires_at: int
    set_at: int
    bad_tries: int
    locked: bool
    flags: tuple[FlagEffect, ...]
    container: str


def listed(
    estate: Estate, resolution: Resolution, roster: Roster, rows: Iterable[int], now: int
) -> Iterator[Listed]:
    """The accounts in these rows as they stand at a moment in ticks."""
    accounts = estate.accounts
    for row in rows:
        population = int(resolution.population[row])
        policy = int(resolution.winners[population])
        settings = settings_of(estate, policy)
        control, password_set = int(accounts.control[row]), int(accounts.password_set[row])
        end = expiry(control, password_set, settings.max_age)
        yield Listed(
            row,
            policy,
            resolution.stack(population).source,
            int(roster.brought_by[row]),
            bool(roster.decided_by_tie[population]),
            end.at_moment(now),
            end.at,
            password_set,
            int(accounts.bad_count[row]),
            lock_state(settings, int(accounts.lockout_time[row]), now).locked,
            tuple(flag_effects(control, password_set)),
            parent_of(accounts.dn[row]),
        )
