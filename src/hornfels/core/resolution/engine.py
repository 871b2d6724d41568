"""Which policy every account gets (domain rules §3), computed on populations.

A *stack* is what reaches an account: the policies linked to it, those linked to groups it is in,
and whether it is exempt. Accounts with the same stack form a *population*; only stacks are ever
compared, never single accounts. Policies are numbered by their place in `Estate.policies`; a set of
policies is an integer with one bit for each.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property
from typing import Literal, NamedTuple

import numpy as np
import numpy.typing as npt

from hornfels.core.domain.estate import Adjacency, Bools, Estate, Int32, Int64

UInt64 = npt.NDArray[np.uint64]

Source = Literal["account", "group", "domain", "exempt"]

DOMAIN_POLICY = -1
"""Stands for the domain policy where a policy's number is expected."""


class Stack(NamedTuple):
    """The policies that reach an account: bit *i* stands for policy *i*."""

    direct: int
    group: int
    exempt: bool

    @property
    def reaching(self) -> int:
        return self.direct | self.group

    @property
    def source(self) -> Source:
        if self.exempt:
            return "exempt"
        return "account" if self.direct else "group" if self.group else "domain"


@dataclass(frozen=True, eq=False)
class Resolution:
    """Every account's population, and every population's stack and winner. Bit sets are rows of
    64-bit words, policy 0 in bit 0.
    """

    population: Int32
    """Population number of each account row."""
    direct: UInt64
    """Policies linked to the accounts themselves, one row a population."""
    group: UInt64
    """Policies linked to groups the accounts are in, one row a population."""
    exempt: Bools
    counts: Int64
    """Accounts in each population."""
    winners: Int32
    """Winning policy of each population, or `DOMAIN_POLICY`."""
    order: tuple[int, ...]
    """All policies, best first."""
    group_sets: UInt64
    """Policies that each group brings its members, one row a group."""

    def __len__(self) -> int:
        return len(self.counts)

    def stack(self, population: int) -> Stack:
        """The stack of one population."""
        return Stack(
            _as_int(self.direct[population]),
            _as_int(self.group[population]),
            bool(self.exempt[population]),
        )

    @cached_property
    def stacks(self) -> tuple[Stack, ...]:
        """The stacks of all populations."""
        return tuple(self.stack(n) for n in range(len(self)))

    @cached_property
    def winner_of_account(self) -> Int32:
        """The winning policy of each account row, `DOMAIN_POLICY` where there is none."""
        return self.winners[self.population]

    @cached_property
    def samples(self) -> Int64:
        """One account row of each population, the first."""
        first = np.empty(len(self), dtype=np.int64)
        # Written from the last row to the first, so that the first one stays.
        first[self.population[::-1]] = np.arange(len(self.population) - 1, -1, -1)
        return first

    def reaches(self, policy: int) -> Bools:
        """Which populations a policy reaches, whether or not it wins there."""
        return has_bit(self.direct, policy) | has_bit(self.group, policy)

    def contests(self, policy: int) -> Bools:
        """Which populations a policy competes for: not the exempt, and only where no direct link
        shuts it out.
        """
        through_groups = has_bit(self.group, policy) & ~not_empty(self.direct)
        return (has_bit(self.direct, policy) | through_groups) & ~self.exempt

    def governed(self, policy: int) -> int:
        """Accounts that get this policy (or the domain policy)."""
        return int(self.counts[self.winners == policy].sum())

    def reached(self, policy: int) -> int:
        """Accounts that this policy reaches, whether or not it wins there."""
        return int(self.counts[self.reaches(policy)].sum())

    def taken_by(self, policy: int) -> dict[int, int]:
        """Of the accounts this policy reaches without governing them: how many each winner has."""
        lost = self.reaches(policy) & (self.winners != policy)
        taken: dict[int, int] = defaultdict(int)
        for winner, count in zip(
            self.winners[lost].tolist(), self.counts[lost].tolist(), strict=True
        ):
            taken[winner] += count
        return dict(taken)


def has_bit(sets: UInt64, policy: int) -> Bools:
    """Which rows of bit sets contain a policy."""
    present: Bools = (sets[:, policy // 64] >> np.uint64(policy % 64)) & np.uint64(1) != 0
    return present


def not_empty(sets: UInt64) -> Bools:
    """Which rows of bit sets contain any policy."""
    some: Bools = np.any(sets, axis=1)
    return some


def _as_int(words: UInt64) -> int:
    return int.from_bytes(words.astype("<u8").tobytes(), "little")


def policies_in(bits: int) -> Iterator[int]:
    """The numbers of the policies in a set, ascending."""
    while bits:
        low = bits & -bits
        yield low.bit_length() - 1
        bits ^= low


def evaluation_order(estate: Estate) -> tuple[int, ...]:
    """All policies, best first: lowest precedence number, then smallest GUID by its stored
    bytes.
    """
    return tuple(sorted(range(len(estate.policies)), key=lambda p: estate.policies[p].rank))


def winners_of(direct: UInt64, group: UInt64, exempt: Bools, order: tuple[int, ...]) -> Int32:
    """The winner of each stack, given as rows of bit sets, for policies in this evaluation
    order.
    """
    contest = np.where(not_empty(direct)[:, None], direct, group)
    if len(contest) < len(order) // 2:
        # Few stacks: cheaper one by one than policy by policy.
        place = {policy: n for n, policy in enumerate(order)}
        best = (
            min(policies_in(_as_int(row)), key=place.__getitem__, default=DOMAIN_POLICY)
            for row in contest
        )
        return np.where(
            exempt, DOMAIN_POLICY, np.fromiter(best, dtype=np.int32, count=len(contest))
        ).astype(np.int32)
    won = np.full(len(contest), DOMAIN_POLICY, dtype=np.int32)
    for policy in reversed(order):
        # Written from the worst to the best, so that the best one stays.
        won[has_bit(contest, policy)] = policy
    won[exempt] = DOMAIN_POLICY
    return won


def words_for(policies: int) -> int:
    """64-bit words that a set of so many policies takes."""
    return max(1, -(-policies // 64))


def counting_links(estate: Estate) -> list[tuple[int, int]]:
    """(policy, group row) for every link that acts through a group."""
    counts = estate.groups.counts_when_linked(estate.linked_groups)
    return [
        (link.policy, link.target)
        for link in estate.links
        if link.kind == "group" and counts[link.target]
    ]


def group_sets(estate: Estate) -> UInt64:
    """For every group the set of policies it brings its members, one row of words a group.

    Sets flow from linked groups down to the security groups nested in them, at any depth; cycles
    settle.
    """
    bits = np.zeros((len(estate.groups), words_for(len(estate.policies))), dtype=np.uint64)
    for policy, group in counting_links(estate):
        bits[group, policy // 64] |= np.uint64(1 << (policy % 64))
    frontier = np.flatnonzero(not_empty(bits))
    nested = estate.memberships.nested
    while len(frontier):
        children, sizes = nested.of_many(frontier)
        if not len(children):
            break
        incoming = np.repeat(bits[frontier], sizes, axis=0)
        by_child = np.argsort(children, kind="stable")
        targets, starts = np.unique(children[by_child], return_index=True)
        merged = np.bitwise_or.reduceat(incoming[by_child], starts, axis=0) | bits[targets]
        changed = (merged != bits[targets]).any(axis=1)
        bits[targets[changed]] = merged[changed]
        frontier = targets[changed]
    return bits


def resolve(estate: Estate) -> Resolution:
    """Every account's stack and winner."""
    of_group = group_sets(estate)
    rows, group, direct = _account_sets(estate, of_group)
    population, first = _populations(len(estate.accounts), rows, group, direct, estate.exempt)
    where = np.full(len(estate.accounts), -1, dtype=np.int64)
    where[rows] = np.arange(len(rows))
    held = where[first]
    none = np.zeros(group.shape[1], dtype=np.uint64)
    group_rows = np.where((held >= 0)[:, None], group[held] if len(rows) else none, none)
    direct_rows = np.where((held >= 0)[:, None], direct[held] if len(rows) else none, none)
    exempt = estate.exempt[first]
    order = evaluation_order(estate)
    return Resolution(
        population,
        direct_rows,
        group_rows,
        exempt,
        np.bincount(population, minlength=len(first)),
        winners_of(direct_rows, group_rows, exempt, order),
        order,
        of_group,
    )


def _account_sets(estate: Estate, of_group: UInt64) -> tuple[Int64, UInt64, UInt64]:
    """The accounts that any policy reaches, with the sets that come through groups and the sets
    linked to them.
    """
    members = estate.memberships.members
    reached = np.flatnonzero(not_empty(of_group))
    touched = np.zeros(len(estate.accounts), dtype=np.bool_)
    touched[members.of_many(reached)[0]] = True
    direct_links = [(link.policy, link.target) for link in estate.links if link.kind == "account"]
    touched[[account for _, account in direct_links]] = True
    rows = np.flatnonzero(touched)
    place = np.empty(len(estate.accounts), dtype=np.int64)
    place[rows] = np.arange(len(rows))

    group = np.zeros((len(rows), of_group.shape[1]), dtype=np.uint64)
    for sets, groups in _groups_by_set(of_group, reached):
        accounts = place[members.of_many(groups)[0]]
        # An account in several of these groups gets the same set each time, so the order of writing
        # does not matter.
        for word in np.flatnonzero(sets):
            group[accounts, word] |= sets[word]
    direct = np.zeros_like(group)
    for policy, account in direct_links:
        direct[place[account], policy // 64] |= np.uint64(1 << (policy % 64))
    return rows, group, direct


def _groups_by_set(of_group: UInt64, reached: Int64) -> Iterator[tuple[UInt64, Int64]]:
    """The distinct sets of the reached groups, each with the groups that have it."""
    distinct, inverse = np.unique(of_group[reached], axis=0, return_inverse=True)
    inverse = inverse.reshape(-1)
    by_set = np.argsort(inverse, kind="stable")
    bounds = np.searchsorted(inverse[by_set], np.arange(len(distinct) + 1))
    for number, sets in enumerate(distinct):
        yield sets, reached[by_set[bounds[number] : bounds[number + 1]]]


def _populations(
    accounts: int, rows: Int64, group: UInt64, direct: UInt64, exempt: Bools
) -> tuple[Int32, Int64]:
    """Each account's population number, and one account row of each population. Accounts share one
    if their stacks are equal.
    """
    stack = np.concatenate([group, direct, exempt[rows].astype(np.uint64)[:, None]], axis=1)
    hashes = np.zeros(len(rows), dtype=np.uint64)
    for word in stack.T:
        hashes = (hashes ^ (hashes >> np.uint64(29)) ^ word) * np.uint64(0x9E3779B97F4A7C15)
        hashes ^= hashes >> np.uint64(32)
    _, first, number = np.unique(hashes, return_index=True, return_inverse=True)
    if not np.array_equal(stack[first][number], stack):
        # Two stacks with one hash: compare the stacks themselves.
        _, first, number = np.unique(stack, axis=0, return_index=True, return_inverse=True)
        number = number.reshape(-1)
    # Accounts that nothing reaches are one population, or two with the exempt among them.
    population = np.full(accounts, -1, dtype=np.int32)
    population[rows] = number
    firsts = [rows[first]]
    found = len(first)
    for side in (False, True):
        rest = np.flatnonzero((population < 0) & (exempt == side))
        if len(rest):
            population[rest] = found
            firsts.append(rest[:1])
            found += 1
    return population, np.concatenate(firsts)


def winners(estate: Estate) -> Int32:
    """The winning policy of each account row and nothing else: several times cheaper than
    `resolve`.
    """
    order = evaluation_order(estate)
    place = np.empty(len(order) + 1, dtype=np.int32)
    place[list(order)] = np.arange(len(order), dtype=np.int32)
    nobody = len(order)
    rank = np.full(len(estate.groups), nobody, dtype=np.int32)
    for policy, group in counting_links(estate):
        rank[group] = min(rank[group], place[policy])
    nested, members = estate.memberships.nested, estate.memberships.members
    frontier = np.flatnonzero(rank < nobody)
    while len(frontier):
        children, sizes = nested.of_many(frontier)
        incoming = np.repeat(rank[frontier], sizes)
        better = incoming < rank[children]
        frontier = np.unique(children[better])
        np.minimum.at(rank, children[better], incoming[better])
    # Written from the worst rank to the best, so that the best one stays.
    reached = np.flatnonzero(rank < nobody)
    reached = reached[np.argsort(-rank[reached], kind="stable")]
    rows, sizes = members.of_many(reached)
    best = np.full(len(estate.accounts), nobody, dtype=np.int32)
    best[rows] = np.repeat(rank[reached], sizes)
    direct: dict[int, int] = {}
    for link in estate.links:
        if link.kind == "account":
            direct[link.target] = min(direct.get(link.target, nobody), int(place[link.policy]))
    best[list(direct)] = list(direct.values())
    best[estate.exempt] = nobody
    return np.array([*order, DOMAIN_POLICY], dtype=np.int32)[best]


def bringing_groups(estate: Estate, resolution: Resolution) -> Int32:
    """For each account that gets its policy through a group: the row of the linked group that
    brings it, else −1.

    Where several linked groups do, the one fewest steps away counts, then the one whose name comes
    first.
    """
    brought = np.full(len(estate.accounts), -1, dtype=np.int32)
    roots: dict[int, list[int]] = defaultdict(list)
    for policy, group in counting_links(estate):
        roots[policy].append(group)
    by_group = (~not_empty(resolution.direct))[resolution.population]
    for policy, linked in roots.items():
        wanted = by_group & (resolution.winner_of_account == policy)
        for root, rows in _nearest(
            estate, sorted(set(linked), key=lambda g: estate.groups.dn[g].upper()), wanted
        ):
            brought[rows] = root
    return brought


def _nearest(
    estate: Estate, roots: list[int], wanted: npt.NDArray[np.bool_]
) -> Iterator[tuple[int, Int32]]:
    """Accounts in `wanted` by the nearest of `roots` above them, walking down the nesting step by
    step from all roots at once.
    """
    open_ = wanted.copy()
    owner = {root: root for root in roots}
    frontier = list(owner)
    members: Adjacency = estate.memberships.members
    nested: Adjacency = estate.memberships.nested
    while frontier:
        for group in frontier:
            rows = members.of(group)
            rows = rows[open_[rows]]
            open_[rows] = False
            yield owner[group], rows
        below: list[int] = []
        for group in frontier:
            for child in nested.of(group).tolist():
                if child not in owner:
                    owner[child] = owner[group]
                    below.append(child)
        # Keep the roots' order within a step, so that equal distances go to the first root by name.
        frontier = sorted(below, key=lambda g: roots.index(owner[g]))
