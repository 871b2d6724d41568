"""The section through the strata: layers in evaluation order, and the populations they reach as
columns.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace
from typing import NamedTuple

import numpy as np

from hornfels.core.domain.estate import Estate, Int64
from hornfels.core.resolution.engine import DOMAIN_POLICY, Resolution, Source, Stack, policies_in
from hornfels.core.resolution.reach import Reach, cell_reason, reach_of
from hornfels.core.resolution.roster import Roster
from hornfels.core.resolution.shared_groups import SharedGroups

MOST_POPULATIONS = 240
"""Populations that are listed one by one, the largest; the rest is summed up."""


@dataclass(frozen=True, slots=True)
class Cell:
    """What one policy does to one population."""

    policy: int
    direct: bool
    holds: bool
    reason: str


@dataclass(frozen=True, slots=True)
class Population:
    """Accounts with one stack of policies: ``who`` they are by what they share, ``moved`` how many
    have another policy than live, ``winner`` the policy (`DOMAIN_POLICY` if none), ``sample`` the
    row of one of them, its cells in the order of the layers.
    """

    number: int
    stack: Stack
    label: str
    who: str
    count: int
    moved: int
    winner: int
    source: Source
    sample: int
    cells: tuple[Cell, ...]


@dataclass(frozen=True, slots=True)
class Section:
    """Layers from the top with how each stands, populations in the order of the layers that take
    them, and the populations that are too small to be listed: how many, their accounts, and those
    of the accounts under the domain policy.
    """

    layers: tuple[tuple[int, Reach], ...]
    populations: tuple[Population, ...]
    unlisted: int
    unlisted_accounts: int
    unlisted_under_domain_policy: int


class Remainder(NamedTuple):
    """Accounts of populations that are not shown: those that a policy applies to (`governed`), and
    those that the policy reaches.
    """

    governed: int
    reached: int


def remainders(section: Section, shown: Iterable[Population]) -> dict[int, Remainder]:
    """Return, by policy, the accounts that the policy has outside of the populations `shown`."""
    left = {policy: [how.governed, how.reached] for policy, how in section.layers}
    for population in shown:
        for cell in population.cells:
            left[cell.policy][0] -= population.count * cell.holds
            left[cell.policy][1] -= population.count
    return {policy: Remainder(*counts) for policy, counts in left.items()}


def section(
    estate: Estate,
    resolution: Resolution,
    roster: Roster,
    shared_groups: SharedGroups,
    moved: Int64,
    wanted: Callable[[Stack], bool] | None,
) -> Section:
    """The section of an estate. ``moved`` are the rows of accounts with another policy than live.
    Stacks that are `wanted` are listed even where few accounts have them.
    """
    place = {policy: number for number, policy in enumerate(resolution.order)}
    by_size = np.argsort(-resolution.counts, kind="stable")
    chosen = np.zeros(len(by_size), dtype=np.bool_)
    chosen[by_size[:MOST_POPULATIONS]] = True
    if wanted and len(by_size) > MOST_POPULATIONS:
        chosen[[n for n in range(len(resolution)) if wanted(resolution.stack(n))]] = True
    listed, unlisted = by_size[chosen[by_size]], by_size[~chosen[by_size]]
    moves = np.bincount(resolution.population[moved], minlength=len(resolution))
    populations = []
    for number in listed.tolist():
        stack, winner = resolution.stack(number), int(resolution.winners[number])
        count = int(resolution.counts[number])
        populations.append(
            Population(
                number,
                stack,
                _label(estate, resolution, stack, winner),
                who(estate, resolution, roster, shared_groups, number),
                count,
                int(moves[number]),
                winner,
                stack.source,
                int(resolution.samples[number]),
                tuple(
                    Cell(
                        policy,
                        bool(stack.direct >> policy & 1),
                        policy == winner,
                        cell_reason(estate, stack, winner, policy, count),
                    )
                    for policy in sorted(policies_in(stack.reaching), key=place.__getitem__)
                ),
            )
        )
    last = len(place)
    # Bedrock and the exempt come last.
    ordered = sorted(
        _shortened(populations),
        key=lambda p: (
            place.get(p.winner, last + (p.source == "exempt")),
            len(p.cells),
            p.label,
        ),
    )
    return Section(
        tuple((policy, reach_of(estate, resolution, policy)) for policy in resolution.order),
        tuple(ordered),
        len(unlisted),
        int(resolution.counts[unlisted].sum()),
        int(resolution.counts[unlisted][resolution.winners[unlisted] == DOMAIN_POLICY].sum()),
    )


def _label(estate: Estate, resolution: Resolution, stack: Stack, winner: int) -> str:
    if stack.exempt:
        return "Exempt"
    if winner == DOMAIN_POLICY:
        return "All others"
    others = [p for p in resolution.order if stack.reaching >> p & 1 and p != winner]
    first = estate.policies[winner].name
    if not others:
        return first
    second = estate.policies[others[0]].name
    return f"{first} + {second}" if len(others) == 1 else f"{first} + {len(others)} more"


def who(
    estate: Estate,
    resolution: Resolution,
    roster: Roster,
    shared_groups: SharedGroups,
    population: int,
) -> str:
    """Who the accounts of a population are, by what they share."""
    stack = resolution.stack(population)
    if stack.exempt:
        return "Exempt"
    groups = shared_groups.groups(population)
    if groups:
        return " + ".join(estate.groups.name[g] for g in groups)
    if not stack.reaching:
        return "All others"
    brought = roster.brought_by[resolution.population == population]
    linked, counts = np.unique(brought[brought >= 0], return_counts=True)
    names = [estate.groups.name[g] for g in linked[np.argsort(-counts, kind="stable")].tolist()]
    more = f" or {len(names) - 2} more" if len(names) > 2 else ""
    return " or ".join(names[:2]) + more if names else "Linked one by one"


def _shortened(populations: list[Population]) -> list[Population]:
    """The largest population that a policy takes goes by the policy's name alone."""
    largest: dict[int, Population] = {}
    for population in populations:
        held = largest.get(population.winner)
        if population.winner != DOMAIN_POLICY and (held is None or population.count > held.count):
            largest[population.winner] = population
    return [
        replace(p, label=p.label.partition(" + ")[0])
        if largest.get(p.winner) is p and len(p.cells) > 1
        else p
        for p in populations
    ]
