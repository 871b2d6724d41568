"""Why an account gets the policy it gets: every policy that reaches it, by which groups, who wins
and why the others lose.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from itertools import islice
from typing import Literal

from hornfels.core.domain.estate import FINE_GRAINED_LEVEL, KERBEROS_SERVICE_RID, TRUST_BITS, Estate
from hornfels.core.resolution.engine import DOMAIN_POLICY, Resolution, Source, Stack

MOST_PATHS = 12

Result = Literal["wins", "loses", "does not count"]


@dataclass(frozen=True, slots=True)
class Path:
    """How a linked group holds an account: group rows from the one that has the account up to the
    linked one.
    """

    groups: tuple[int, ...]
    by_primary_group: bool
    alternatives: int
    """How many equally short paths there are, this one included."""
    others: tuple[tuple[int, ...], ...] = ()
    """The other equally short paths, `MOST_PATHS` altogether at most."""


@dataclass(frozen=True, slots=True)
class Contender:
    """One policy and what it has to do with the account. ``path`` is None for a direct link."""

    policy: int
    outcome: Result
    reason: str
    path: Path | None
    linked_dn: str


@dataclass(frozen=True, slots=True)
class Explanation:
    """The stack of one account from the winner down, the domain policy left out unless it wins."""

    account: int
    source: Source
    winner: int
    reason: str
    via: int
    """Row of the linked group that brings the winner, −1 where none does."""
    layers: tuple[Contender, ...]


def explain(estate: Estate, resolution: Resolution, account: int) -> Explanation:
    """The whole case of one account (domain rules §3)."""
    population = int(resolution.population[account])
    stack, winner = resolution.stack(population), int(resolution.winners[population])
    paths, broken = _paths(estate, account)
    counts = estate.groups.counts_when_linked(estate.linked_groups)
    place = {policy: position for position, policy in enumerate(resolution.order)}

    near = [
        link
        for link in estate.links
        if (link.kind == "account" and link.target == account)
        or (link.kind == "group" and (link.target in paths or link.target in broken))
    ]
    layers: list[Contender] = []
    for link in sorted(
        near, key=lambda ln: (place[ln.policy], ln.kind != "account", ln.dn.upper())
    ):
        if link.kind == "account":
            outcome, reason = _contest(estate, stack, link.policy, winner, direct=True)
            layers.append(Contender(link.policy, outcome, reason, None, link.dn))
        elif link.target in paths:
            if counts[link.target]:
                outcome, reason = _contest(estate, stack, link.policy, winner, direct=False)
            else:
                outcome, reason = "does not count", _why_not_counting(estate, link.target)
            layers.append(Contender(link.policy, outcome, reason, paths[link.target], link.dn))
        else:
            stop = next(g for g in broken[link.target].groups if estate.groups.stops(g))
            what = estate.groups.stops(stop)
            reason = (
                f"The chain breaks at {estate.groups.name[stop]}, {what}: policies do not pass "
                "through it."
            )
            layers.append(
                Contender(link.policy, "does not count", reason, broken[link.target], link.dn)
            )
    layers.sort(
        key=lambda r: (r.outcome != "wins", r.outcome == "does not count", r.path is not None)
    )
    layers = _nearest_first(layers)
    via = -1
    if layers and layers[0].outcome == "wins" and layers[0].path:
        via = layers[0].path.groups[-1]
    return Explanation(
        account,
        stack.source,
        winner,
        _headline(estate, account, stack.source, winner, layers),
        via,
        tuple(layers),
    )


def _nearest_first(layers: list[Contender]) -> list[Contender]:
    """Keep one winning entry, the shortest way; further links of the winner follow as further ways
    of the same policy.
    """
    wins = [r for r in layers if r.outcome == "wins"]
    wins.sort(
        key=lambda r: (r.path is not None, len(r.path.groups) if r.path else 0, r.linked_dn.upper())
    )
    return wins + [r for r in layers if r.outcome != "wins"]


def _contest(
    estate: Estate, stack: Stack, policy: int, winner: int, *, direct: bool
) -> tuple[Result, str]:
    if stack.exempt:
        return "loses", "The account is exempt from fine-grained policies."
    mine, best = estate.policies[policy], estate.policies[winner]
    if not direct and stack.direct:
        return (
            "loses",
            f"A direct link wins whatever its number: {best.name} is linked to the account itself.",
        )
    if policy == winner:
        if direct:
            return "wins", "Linked to the account itself."
        alone = stack.group.bit_count() == 1
        return (
            "wins",
            "The only policy that reaches it."
            if alone
            else "Lowest precedence number among the policies that reach it.",
        )
    if mine.precedence == best.precedence:
        return "loses", f"Tie at {mine.precedence}: {best.name} has the smaller object GUID."
    return "loses", f"{best.name} has the lower number: {best.precedence} before {mine.precedence}."


def _why_not_counting(estate: Estate, group: int) -> str:
    name = estate.groups.name[group]
    if estate.groups.stops(group):
        return f"{name} is {estate.groups.stops(group)}; links to it reach nobody."
    return f"{name} is {estate.groups.scope(group)}; only links to global security groups count."


def _headline(
    estate: Estate, account: int, source: Source, winner: int, layers: list[Contender]
) -> str:
    if source == "exempt":
        if not estate.fine_grained_possible:
            level = estate.domain.functional_level
            return (
                f"The functional level of the domain is {level}; fine-grained policies need "
                f"{FINE_GRAINED_LEVEL} or more."
            )
        if int(estate.accounts.control[account]) & TRUST_BITS:
            return "A computer or trust account always gets the domain policy."
        return (
            f"The Kerberos service account (RID {KERBEROS_SERVICE_RID}) always gets the domain "
            "policy."
        )
    if winner == DOMAIN_POLICY:
        if layers:
            return "Every link that points its way does not count, so the domain policy holds."
        return "No policy is linked to it or to a group it is in, so the domain policy holds."
    name = estate.policies[winner].name
    path = layers[0].path
    if path is None:
        return f"{name} is linked to the account itself, which wins over any group link."
    group = estate.groups.name[path.groups[-1]]
    how = (
        "as its primary group"
        if path.by_primary_group and len(path.groups) == 1
        else (
            "as a direct member"
            if len(path.groups) == 1
            else f"through {estate.groups.name[path.groups[0]]}"
        )
    )
    return f"{name} is linked to {group}, which holds this account {how}."


def _paths(estate: Estate, account: int) -> tuple[dict[int, Path], dict[int, Path]]:
    """Shortest paths from an account to every group above it: through groups that carry policies,
    and those that are broken.
    """
    sound = _climb(estate, account, through_all=False)
    everything = _climb(estate, account, through_all=True)
    return sound, {group: path for group, path in everything.items() if group not in sound}


def _climb(estate: Estate, account: int, *, through_all: bool) -> dict[int, Path]:
    carries = estate.groups.carries
    primary = int(estate.accounts.primary_group[account])
    first = estate.memberships.groups_of_account.of(account).tolist()
    start = sorted({*first, *([primary] if primary >= 0 else [])})
    distance: dict[int, int] = {}
    ways: dict[int, int] = {}
    below: dict[int, list[int]] = {}
    frontier = [g for g in start if through_all or carries[g]]
    for group in frontier:
        distance[group], ways[group] = 1, 1
    step = 1
    while frontier:
        step += 1
        found: list[int] = []
        for group in frontier:
            for parent in estate.memberships.groups_of_group.of(group).tolist():
                if not through_all and not carries[parent]:
                    continue
                if parent not in distance:
                    distance[parent], ways[parent], below[parent] = step, 0, []
                    found.append(parent)
                if distance[parent] == step:
                    ways[parent] += ways[group]
                    below[parent].append(group)
        frontier = found

    paths = {}
    for group in distance:
        chain, *others = islice(_chains(group, below), MOST_PATHS)
        by_primary = chain[0] == primary and primary not in first
        paths[group] = Path(chain, by_primary, ways[group], tuple(others))
    return paths


def _chains(group: int, below: dict[int, list[int]]) -> Iterator[tuple[int, ...]]:
    """Every way down from a group to one that has the account, written from the account up."""
    if group not in below:
        yield (group,)
        return
    for under in below[group]:
        for chain in _chains(under, below):
            yield (*chain, group)
