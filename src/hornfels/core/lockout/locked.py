"""Who is locked or close to it, and what the locks of the last days have in common (domain rules
§6).
"""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Iterable
from dataclasses import dataclass
from itertools import pairwise
from typing import Literal

import numpy as np

from hornfels.core.domain.account_state import lock_state, settings_of
from hornfels.core.domain.estate import Estate, Int64
from hornfels.core.resolution.engine import DOMAIN_POLICY
from hornfels.core.resolution.roster import Roster
from hornfels.core.values.text import visible
from hornfels.core.values.time import DAY, HOUR, describe_span

CLOSE = 2
"""So many more bad tries, or fewer, and the account is locked."""
LATELY = 7 * DAY
AGAIN = 3
"""Locks of one account in `LATELY` that somebody should look into."""
TOGETHER = 5
"""Accounts locked within one hour that are no accident any more."""


@dataclass(frozen=True, slots=True)
class Locked:
    """An account that is locked: since when, after how many bad tries and until when (None: until
    an operator unlocks it), under which policy. Moments in ticks.
    """

    row: int
    policy: int
    since: int
    tries: int
    until: int | None


@dataclass(frozen=True, slots=True)
class Close:
    """An account that `left` more bad tries would lock, and when its count is forgotten."""

    row: int
    policy: int
    tries: int
    left: int
    forgotten_at: int


@dataclass(frozen=True, slots=True)
class Sighting:
    """A lock that was seen in the directory at some time: whose, by its RID, and when it began."""

    rid: int
    name: str
    at: int


@dataclass(frozen=True, slots=True)
class Pattern:
    """What several locks have in common, in a sentence or two, and whom it is about."""

    kind: Literal["again", "together"]
    sentence: str
    names: tuple[str, ...]
    locks: int


def locked_accounts(roster: Roster, now: int, most: int) -> tuple[int, list[Locked]]:
    """How many are locked at a moment, and the latest `most` of them."""
    since = roster.estate.accounts.lockout_time
    rows = np.flatnonzero(roster.locked(now))
    latest = rows[np.argsort(-since[rows], kind="stable")][:most]
    return len(rows), [_locked(roster, row, now) for row in latest.tolist()]


def locked_account(roster: Roster, row: int, now: int) -> Locked | None:
    """One account that is locked at a moment; None if it is not."""
    return _locked(roster, row, now) if roster.locked(now)[row] else None


def _locked(roster: Roster, row: int, now: int) -> Locked:
    accounts = roster.estate.accounts
    policy = int(roster.resolution.winner_of_account[row])
    settings = settings_of(roster.estate, policy)
    lock = lock_state(settings, int(accounts.lockout_time[row]), now)
    return Locked(row, policy, lock.since, int(accounts.bad_count[row]), lock.until)


def close_accounts(roster: Roster, now: int, most: int) -> tuple[int, list[Close]]:
    """How many `CLOSE` or fewer more bad tries would lock, and the closest `most` of them. Who has
    not tried at all, or so long ago that it is forgotten, is not close.
    """
    estate, accounts = roster.estate, roster.estate.accounts
    thresholds, windows = _lockout_columns(estate)
    winner = roster.resolution.winner_of_account
    threshold, window = thresholds[winner], windows[winner]
    left = threshold - accounts.bad_count
    counts = (accounts.bad_count > 0) & (now - accounts.bad_time < window)
    close = counts & (threshold > 0) & (left <= CLOSE) & ~roster.locked(now)
    rows = np.flatnonzero(close)
    closest = rows[np.lexsort((-accounts.bad_time[rows], left[rows]))][:most]
    return len(rows), [
        Close(
            row,
            int(winner[row]),
            int(accounts.bad_count[row]),
            max(1, int(left[row])),
            int(accounts.bad_time[row] + window[row]),
        )
        for row in closest.tolist()
    ]


def _lockout_columns(estate: Estate) -> tuple[Int64, Int64]:
    """Threshold and window of every policy, the domain policy's last."""
    settings = [settings_of(estate, p) for p in (*range(len(estate.policies)), DOMAIN_POLICY)]
    return (
        np.array([s.lockout_threshold for s in settings], dtype=np.int64),
        np.array([s.lockout_window for s in settings], dtype=np.int64),
    )


def patterns(sightings: Iterable[Sighting], now: int) -> list[Pattern]:
    """What the locks of the last days have in common: one account again and again, and many
    accounts within an hour.
    """
    lately = sorted({s for s in sightings if now - LATELY < s.at <= now}, key=lambda s: s.at)
    return [*_together(lately), *_again(lately)]


def _again(lately: list[Sighting]) -> list[Pattern]:
    by_account: defaultdict[int, list[Sighting]] = defaultdict(list)
    for sighting in lately:
        by_account[sighting.rid].append(sighting)
    found = []
    for seen in by_account.values():
        if len(seen) < AGAIN:
            continue
        gaps = sorted(after.at - before.at for before, after in pairwise(seen))
        apart = describe_span(gaps[len(gaps) // 2], parts=1)
        name = visible(seen[-1].name)
        found.append(
            Pattern(
                "again",
                f"{name} was locked {len(seen):,} times in 7 days, {apart} apart or so: most "
                "likely a device or a service that keeps trying an old password. Find it before "
                "you unlock the account again.",
                (name,),
                len(seen),
            )
        )
    return sorted(found, key=lambda pattern: -pattern.locks)


def _together(lately: list[Sighting]) -> list[Pattern]:
    """The hour in which most accounts were locked, if they are many."""
    best, first = (0, 0), 0
    inside: Counter[int] = Counter()
    for end, sighting in enumerate(lately):
        inside[sighting.rid] += 1
        while sighting.at - lately[first].at > HOUR:
            inside[lately[first].rid] -= 1
            if not inside[lately[first].rid]:
                del inside[lately[first].rid]
            first += 1
        if len(inside) >= TOGETHER and end + 1 - first > best[1] - best[0]:
            best = first, end + 1
    most = lately[slice(*best)]
    if not most:
        return []
    names = tuple(dict.fromkeys(visible(s.name) for s in most))
    span = describe_span(most[-1].at - most[0].at, parts=1)
    return [
        Pattern(
            "together",
            f"{len(names):,} accounts were locked within {span}: somebody is trying passwords on "
            "one name after the other. Look where the tries come from; unlocking helps them on.",
            names,
            len(most),
        )
    ]
