"""What the accounts of one population have in common: the groups that tell people who they are."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from hornfels.core.domain.estate import Estate, Int64
from hornfels.core.resolution.engine import Resolution, policies_in

_MOST_GROUPS = 60
"""Groups of one account that are looked at, the nearest first."""


@dataclass(frozen=True, eq=False)
class SharedGroups:
    """The groups that populations share; each group's members are counted once."""

    estate: Estate
    resolution: Resolution

    def groups(self, population: int) -> tuple[int, ...]:
        """Rows of one or two groups that every account of a population is in: those that describe
        it best, narrowest first.

        Of the groups that bring it policies one that holds the population and nobody else; else the
        narrowest of them, two where two policies come by different ones; else the narrowest of all.
        Empty where the accounts share no group, or only one that most accounts of the estate are
        in.
        """
        size = int(self.resolution.counts[population])
        held = [
            (int(counts.sum()), group)
            for group, counts in self._around(population)
            if counts[population] == size
        ]
        shared = [group for _, group in sorted(held)]
        sizes = {group: members for members, group in held}
        exact = next(
            (g for g in shared if sizes[g] == size and self.resolution.group_sets[g].any()), None
        )
        if exact is not None:
            return (exact,)
        stack = self.resolution.stack(population)
        bringing: list[int] = []
        for policy in policies_in(stack.group):
            word, bit = policy // 64, np.uint64(1 << (policy % 64))
            group = next((g for g in shared if self.resolution.group_sets[g, word] & bit), None)
            if group is not None and group not in bringing:
                bringing.append(group)
        if bringing:
            return tuple(sorted(bringing, key=lambda g: sizes[g])[:2])
        few = [group for group in shared if sizes[group] * 2 <= len(self.estate.accounts)]
        return tuple(few[:1])

    def _around(self, population: int) -> list[tuple[int, Int64]]:
        """The groups that one account of a population is in, at any depth, each with its members by
        population.
        """
        estate = self.estate
        row = int(self.resolution.samples[population])
        found = dict.fromkeys(estate.memberships.groups_of_account.of(row).tolist())
        primary = int(estate.accounts.primary_group[row])
        if primary >= 0:
            found[primary] = None
        frontier = list(found)
        while frontier and len(found) < _MOST_GROUPS:
            above = [
                g
                for group in frontier
                for g in estate.memberships.groups_of_group.of(group).tolist()
                if g not in found
            ]
            frontier = list(dict.fromkeys(above))
            found.update(dict.fromkeys(frontier))
        return [(group, self._counted(group)) for group in list(found)[:_MOST_GROUPS]]

    def _counted(self, group: int) -> Int64:
        counts = self._counts.get(group)
        if counts is None:
            members = self.estate.memberships.accounts_below(group)
            counts = self._counts[group] = np.bincount(
                self.resolution.population[members], minlength=len(self.resolution)
            )
        return counts

    @cached_property
    def _counts(self) -> dict[int, Int64]:
        return {}
