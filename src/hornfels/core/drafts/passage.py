"""The way from one estate to another when policies change one after another: in an order in which
nobody passes through a third policy.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace
from uuid import UUID

import numpy as np

from hornfels.core.domain.estate import Bools, Estate, Int32, Int64, Link
from hornfels.core.policy.model import Policy
from hornfels.core.resolution.engine import (
    DOMAIN_POLICY,
    UInt64,
    resolve,
    winners_of,
    words_for,
)
from hornfels.core.values.dn import loose_key


@dataclass(frozen=True, slots=True)
class Passage:
    """Policies in the order they change, each at once in all that it is. ``astray`` accounts are
    for a moment under a policy that is neither the one before nor the one after; 0 wherever an
    order without that was found.
    """

    order: tuple[UUID, ...]
    astray: int


def passage(before: Estate, after: Estate) -> Passage:
    """An order in which the policies that differ can change. Both estates have the same accounts
    and groups.
    """
    old, new = _Side.of(before), _Side.of(after)
    moved = [guid for guid in {**old.policies, **new.policies} if old.pull(guid) != new.pull(guid)]
    others = [
        guid
        for guid, policy in new.policies.items()
        if guid not in moved and guid in old.policies and old.policies[guid] != policy
    ]
    way = _Way(before, old, new, frozenset(moved))
    waiting = sorted(moved, key=lambda guid: _place(old, new, guid))
    order, astray = [], 0
    while waiting:
        best, fewest = waiting[0], way.astray(waiting[0])
        for guid in waiting[1:] if fewest else ():
            found = way.astray(guid)
            if found < fewest:
                best, fewest = guid, found
            if not found:
                break
        way.change(best)
        waiting.remove(best)
        order.append(best)
        astray = max(astray, fewest)
    return Passage((*others, *order), astray)


@dataclass(frozen=True, slots=True)
class _Side:
    """Policies and their links by GUID."""

    policies: dict[UUID, Policy]
    links: dict[UUID, dict[str, Link]]

    @classmethod
    def of(cls, estate: Estate) -> _Side:
        links: dict[UUID, dict[str, Link]] = {p.guid: {} for p in estate.policies}
        for link in estate.links:
            links[estate.policies[link.policy].guid][loose_key(link.dn)] = link
        return cls({p.guid: p for p in estate.policies}, links)

    def pull(self, guid: UUID) -> tuple[int, frozenset[str]] | None:
        """What decides whom a policy gets, None where it is not there."""
        policy = self.policies.get(guid)
        return (policy.precedence, frozenset(self.links[guid])) if policy else None


def _place(old: _Side, new: _Side, guid: UUID) -> tuple[bool, int, bytes]:
    """What comes first as a rule: policies that gain, the strongest before; then those that lose,
    the weakest before.
    """
    was, now = old.pull(guid), new.pull(guid)
    gains = now is not None and (was is None or now[0] < was[0] or bool(now[1] - was[1]))
    if gains:
        return False, new.policies[guid].precedence, guid.bytes_le
    left = new.policies.get(guid) or old.policies[guid]
    return True, -left.precedence, guid.bytes_le


class _Way:
    """An estate that holds changed policies twice, as they were and as they will be, and which of
    the two holds by now.
    """

    def __init__(self, base: Estate, old: _Side, new: _Side, moved: frozenset[UUID]) -> None:
        policies: list[Policy] = []
        links: list[Link] = []
        self._was: dict[UUID, int] = {}
        self._will: dict[UUID, int] = {}
        self._unmoved: list[int] = []
        for side, places in ((old, self._was), (new, self._will)):
            for guid, policy in side.policies.items():
                if guid in moved:
                    places[guid] = len(policies)
                elif side is old:
                    self._unmoved.append(len(policies))
                else:
                    continue
                links += (ln._replace(policy=len(policies)) for ln in side.links[guid].values())
                policies.append(policy)
        both = replace(base, policies=tuple(policies), links=tuple(links))
        self._resolution = resolve(both)
        self._words = words_for(len(policies))
        numbers = {guid: n for n, guid in enumerate({**old.policies, **new.policies})}
        self._identity: Int32 = np.array(
            [*(numbers[p.guid] for p in policies), DOMAIN_POLICY], dtype=np.int32
        )
        self._changed: set[UUID] = set()
        self._ends = self._winners(set()), self._winners(set(moved))

    def astray(self, guid: UUID) -> int:
        """Accounts that have a third policy when this one has changed too."""
        now = self._winners({*self._changed, guid})
        first, last = self._ends
        third: Bools = (now != first) & (now != last)
        counts: Int64 = self._resolution.counts
        return int(counts[third].sum())

    def change(self, guid: UUID) -> None:
        self._changed.add(guid)

    def _winners(self, changed: set[UUID]) -> Int32:
        """The policy of each population while these have changed and the others have not."""
        mask = self._mask(self._holding(changed))
        found = self._resolution
        won = winners_of(found.direct & mask, found.group & mask, found.exempt, found.order)
        return self._identity[won]

    def _holding(self, changed: set[UUID]) -> Iterator[int]:
        yield from self._unmoved
        yield from (n for guid, n in self._was.items() if guid not in changed)
        yield from (n for guid, n in self._will.items() if guid in changed)

    def _mask(self, policies: Iterable[int]) -> UInt64:
        words = np.zeros(self._words, dtype=np.uint64)
        for policy in policies:
            words[policy // 64] |= np.uint64(1 << (policy % 64))
        return words
