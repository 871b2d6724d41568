"""Everyone of an estate as columns, filtered and put in order: a million accounts take a fraction
of a second.
"""

from __future__ import annotations

from collections.abc import Callable, Hashable
from dataclasses import dataclass, field
from functools import cached_property, partial
from threading import Lock
from typing import Literal, NamedTuple, TypeVar

import numpy as np

from hornfels.core.domain.account_state import EXPIRES_NEVER, expiry_moments, locked, settings_of
from hornfels.core.domain.estate import TRUST_BITS, Bools, Control, Estate, Int32, Int64
from hornfels.core.domain.privileged import privileged
from hornfels.core.policy.model import expires, until_unlocked
from hornfels.core.resolution.engine import (
    DOMAIN_POLICY,
    Resolution,
    Source,
    bringing_groups,
    not_empty,
)
from hornfels.core.values.dn import parent_of
from hornfels.core.values.text import TextColumn
from hornfels.core.values.time import DAY, TICKS_PER_SECOND

ExpiryFilter = Literal["must_change", "expired", "never", "unknown"]
Order = Literal["name", "display_name", "policy", "why", "expires", "set", "bad_tries", "container"]

FLAGS: dict[str, int] = {
    "disabled": Control.DISABLED,
    "no_password_required": Control.NO_PASSWORD_REQUIRED,
    "reversible_encryption": Control.REVERSIBLE_ENCRYPTION,
    "never_expires": Control.NEVER_EXPIRES,
    "smart_card_required": Control.SMART_CARD_REQUIRED,
}
"""Flags of an account that can be asked for, by the word for each."""


REMEMBERED = 10 * TICKS_PER_SECOND
_MOST_REMEMBERED = 6


@dataclass(frozen=True, slots=True)
class Filter:
    """What accounts are asked for. Every part that is given narrows further; moments in ticks.

    ``populations`` are numbers in the resolution, ``group`` a row, ``container`` a distinguished
    name below which they lie. ``within_days`` takes passwords that expire in that many days from
    the moment asked at.
    """

    words: str = ""
    policy: int | None = None
    populations: tuple[int, ...] | None = None
    group: int | None = None
    way: Source | None = None
    tie: bool | None = None
    locked: bool | None = None
    expiry: ExpiryFilter | None = None
    within_days: int | None = None
    enabled: bool | None = None
    privileged: bool | None = None
    flags: tuple[str, ...] = ()
    container: str | None = None
    set_before: int | None = None


class Container(NamedTuple):
    """An organisational unit or other object that accounts lie directly in."""

    dn: str
    accounts: int


@dataclass(frozen=True, eq=False)
class Roster:
    """What can be asked about the accounts of one resolved estate; each column is made when it is
    first needed.
    """

    estate: Estate
    resolution: Resolution
    live: Roster | None = None
    """That of the same accounts under other policies, whose containers are the same."""
    _turn: Lock = field(default_factory=Lock, init=False, repr=False)

    def prime(self) -> None:
        """Make what takes longest now, so that nobody waits for it later."""
        for column in (
            self.estate.accounts.name,
            self.estate.accounts.display_name,
            self.estate.groups.name,
        ):
            _ = column.order
        _ = self.containers, self.expires, self.brought_by

    def rows(
        self, wanted: Filter, now: int, order: Order = "name", descending: bool = False
    ) -> Int64:
        """Rows of the accounts that fit, in order; those that are equal by name. ``now`` in ticks.

        The same asked again within seconds, for the next page of it, is answered from memory.
        """
        key = wanted, now // REMEMBERED, order, descending
        # One at a time: two at once take as long as both, and the second is often the first's next
        # page.
        with self._turn:
            return _remembered(
                self._lately, key, lambda: self._rows(wanted, now, order, descending)
            )

    @cached_property
    def _lately(self) -> dict[tuple[Filter, int, Order, bool], Int64]:
        return {}

    def _rows(self, wanted: Filter, now: int, order: Order, descending: bool) -> Int64:
        keep = self._fitting(wanted, now)
        by_name = self.estate.accounts.name.order
        found = by_name[keep[by_name]].astype(np.int64)
        if order == "name":
            return found[::-1] if descending else found
        key = self._key(order)[found]
        return found[np.argsort(-key if descending else key, kind="stable")]

    def _fitting(self, wanted: Filter, now: int) -> Bools:
        estate, resolution = self.estate, self.resolution
        accounts = estate.accounts
        keep = np.ones(len(accounts), dtype=np.bool_)
        for word in wanted.words.split():
            keep &= _remembered(self._named, word, partial(self._named_like, word))
        if wanted.policy is not None:
            keep &= resolution.winner_of_account == wanted.policy
        if wanted.populations is not None:
            keep &= np.isin(resolution.population, wanted.populations)
        if wanted.group is not None:
            inside = np.zeros(len(keep), dtype=np.bool_)
            inside[estate.memberships.accounts_below(wanted.group)] = True
            keep &= inside
        if wanted.way is not None:
            keep &= self._ways[wanted.way][resolution.population]
        if wanted.tie is not None:
            keep &= self.decided_by_tie[resolution.population] == wanted.tie
        if wanted.locked is not None:
            keep &= self.locked(now) == wanted.locked
        keep &= self._expiring(wanted, now)
        if wanted.enabled is not None:
            keep &= ((accounts.control & np.uint32(Control.DISABLED)) == 0) == wanted.enabled
        if wanted.privileged is not None:
            keep &= self.privileged == wanted.privileged
        for flag in wanted.flags:
            keep &= (accounts.control & np.uint32(FLAGS[flag])) != 0
        if wanted.container is not None:
            top = wanted.container.upper()
            below = [
                dn.upper() == top or dn.upper().endswith("," + top) for dn in self._containers[0]
            ]
            keep &= np.array(below, dtype=np.bool_)[self._containers[1]]
        if wanted.set_before is not None:
            keep &= (accounts.password_set > 0) & (accounts.password_set < wanted.set_before)
        return keep

    @cached_property
    def _named(self) -> dict[str, Bools]:
        """Who has a word in a name, by the words asked for last: people type on."""
        return {}

    def _named_like(self, word: str) -> Bools:
        accounts = self.estate.accounts
        hit = np.zeros(len(accounts), dtype=np.bool_)
        hit[accounts.name.containing(word)] = True
        hit[accounts.display_name.containing(word)] = True
        return hit

    def _expiring(self, wanted: Filter, now: int) -> Bools:
        ends = self.expires
        keep = np.ones(len(ends), dtype=np.bool_)
        if wanted.within_days is not None:
            keep &= (ends > now) & (ends <= now + wanted.within_days * DAY)
        match wanted.expiry:
            case "must_change":
                keep &= ends == 0
            case "expired":
                keep &= (ends > 0) & (ends <= now)
            case "never":
                keep &= ends == EXPIRES_NEVER
            case "unknown":
                keep &= ends < 0
        return keep

    def _key(self, order: Order) -> Int64:
        accounts, resolution = self.estate.accounts, self.resolution
        match order:
            case "display_name":
                return _ranks(accounts.display_name)
            case "policy":
                place = np.empty(len(resolution.order) + 1, dtype=np.int64)
                place[[*resolution.order, DOMAIN_POLICY]] = np.arange(len(place))
                places: Int64 = place[resolution.winner_of_account]
                return places
            case "why":
                ways = {"account": 0, "group": 1, "domain": 2, "exempt": 3}
                number = np.array(
                    [ways[stack.source] for stack in resolution.stacks], dtype=np.int64
                )[resolution.population]
                groups = np.append(_ranks(self.estate.groups.name), -1)
                both: Int64 = number * (len(groups) + 1) + groups[self.brought_by]
                return both
            case "expires":
                return self.expires
            case "set":
                return accounts.password_set
            case "bad_tries":
                return accounts.bad_count.astype(np.int64)
            case "container":
                return self._container_of
        return _ranks(accounts.name)

    @cached_property
    def expires(self) -> Int64:
        """When each password expires, as `expiry_moments` has it."""
        ages = [
            settings_of(self.estate, p).max_age
            for p in (*range(len(self.estate.policies)), DOMAIN_POLICY)
        ]
        spans = np.array([age if expires(age) else EXPIRES_NEVER for age in ages], dtype=np.int64)
        return expiry_moments(self.estate.accounts, spans[self.resolution.winner_of_account])

    def locked(self, now: int) -> Bools:
        """Which accounts are locked at a moment."""
        settings = [
            settings_of(self.estate, p) for p in (*range(len(self.estate.policies)), DOMAIN_POLICY)
        ]
        counts = np.array([s.lockout_threshold > 0 for s in settings], dtype=np.bool_)
        spans = [
            EXPIRES_NEVER if until_unlocked(s.lockout_duration) else s.lockout_duration
            for s in settings
        ]
        winner = self.resolution.winner_of_account
        return locked(
            self.estate.accounts, counts[winner], np.array(spans, dtype=np.int64)[winner], now
        )

    @cached_property
    def people(self) -> Bools:
        """The accounts that somebody uses: not disabled, and no machine's or domain's."""
        off = np.uint32(Control.DISABLED | TRUST_BITS)
        found: Bools = (self.estate.accounts.control & off) == 0
        return found

    @cached_property
    def privileged(self) -> Bools:
        """Which accounts are in the administrators' groups."""
        return privileged(self.estate)

    @cached_property
    def brought_by(self) -> Int32:
        """For each account that gets its policy through a group the row of that group, else −1."""
        return bringing_groups(self.estate, self.resolution)

    @cached_property
    def _ways(self) -> dict[Source, Bools]:
        direct, group, exempt = (
            not_empty(self.resolution.direct),
            not_empty(self.resolution.group),
            self.resolution.exempt,
        )
        return {
            "exempt": exempt,
            "account": direct & ~exempt,
            "group": group & ~direct & ~exempt,
            "domain": ~group & ~direct & ~exempt,
        }

    @cached_property
    def decided_by_tie(self) -> Bools:
        """Which populations two policies of one precedence number compete for, and the smaller GUID
        decides (domain rules §3).
        """
        resolution, policies = self.resolution, self.estate.policies
        equals: dict[int, list[int]] = {}
        for number, policy in enumerate(policies):
            equals.setdefault(policy.precedence, []).append(number)
        decided = np.zeros(len(resolution), dtype=np.bool_)
        for tied in (numbers for numbers in equals.values() if len(numbers) > 1):
            contested = sum(resolution.contests(p).astype(np.int64) for p in tied) > 1
            decided |= contested & np.isin(resolution.winners, tied)
        return decided

    @cached_property
    def containers(self) -> tuple[Container, ...]:
        """What accounts lie directly in, by name from the root down."""
        distinct, numbers = self._containers
        counts = np.bincount(numbers, minlength=len(distinct))
        return tuple(Container(dn, int(n)) for dn, n in zip(distinct, counts, strict=True))

    @property
    def _container_of(self) -> Int64:
        return self._containers[1]

    @cached_property
    def _containers(self) -> tuple[list[str], Int64]:
        if self.live is not None:
            return self.live._containers
        parents = [parent_of(dn) for dn in self.estate.accounts.dn]
        distinct = sorted(
            set(parents), key=lambda dn: [part.upper() for part in reversed(dn.split(","))]
        )
        place = {dn: number for number, dn in enumerate(distinct)}
        return distinct, np.fromiter(
            (place[dn] for dn in parents), dtype=np.int64, count=len(parents)
        )


K = TypeVar("K", bound=Hashable)
V = TypeVar("V")


def _remembered(held: dict[K, V], key: K, make: Callable[[], V]) -> V:
    """What is held under a key, made if it is not; the oldest of many is forgotten."""
    value = held.pop(key) if key in held else make()
    held[key] = value
    for old in list(held)[:-_MOST_REMEMBERED]:
        del held[old]
    return value


def _ranks(column: TextColumn) -> Int64:
    ranks = np.empty(len(column), dtype=np.int64)
    ranks[column.order] = np.arange(len(column))
    return ranks
