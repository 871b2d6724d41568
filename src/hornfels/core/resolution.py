"""Which policy every account gets (domain rules §3), computed on populations.

A *stack* is what reaches an account: the policies linked to it, those linked to groups it is in, and whether it is exempt.
Accounts with the same stack form a *population*; only stacks are ever compared, never single accounts.
Policies are numbered by their place in `Estate.policies`; a set of policies is an integer with one bit for each.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import cached_property, partial
from typing import Literal, NamedTuple

import numpy as np
import numpy.typing as npt

from hornfels.core.estate import Adjacency, Estate, Int32, Int64

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
    def contest(self) -> int:
        """The policies that compete: direct links shut out all others, exemption shuts out everything."""
        return 0 if self.exempt else self.direct or self.group

    @property
    def source(self) -> Source:
        if self.exempt:
            return "exempt"
        return "account" if self.direct else "group" if self.group else "domain"


@dataclass(frozen=True, eq=False)
class Resolution:
    """Every account's population, and every population's stack and winner."""

    population: Int32
    """Population number of each account row."""
    stacks: tuple[Stack, ...]
    counts: Int64
    """Accounts in each population."""
    winners: tuple[int, ...]
    """Winning policy of each population, or `DOMAIN_POLICY`."""
    order: tuple[int, ...]
    """All policies, best first."""

    @cached_property
    def winner_of_account(self) -> Int32:
        """The winning policy of each account row, `DOMAIN_POLICY` where there is none."""
        return np.array(self.winners, dtype=np.int32)[self.population]

    @cached_property
    def samples(self) -> Int64:
        """One account row of each population, the first."""
        first = np.empty(len(self.stacks), dtype=np.int64)
        # Written from the last row to the first, so that the first one stays.
        first[self.population[::-1]] = np.arange(len(self.population) - 1, -1, -1)
        return first

    def governed(self, policy: int) -> int:
        """Accounts that get this policy (or the domain policy)."""
        return sum(int(n) for n, winner in zip(self.counts, self.winners, strict=True) if winner == policy)

    def reached(self, policy: int) -> int:
        """Accounts that this policy reaches, whether or not it wins there."""
        return sum(int(n) for n, s in zip(self.counts, self.stacks, strict=True) if s.reaching >> policy & 1)

    def taken_by(self, policy: int) -> dict[int, int]:
        """Of the accounts this policy reaches without governing them: how many each winner has."""
        taken: dict[int, int] = defaultdict(int)
        for count, stack, winner in zip(self.counts, self.stacks, self.winners, strict=True):
            if stack.reaching >> policy & 1 and winner != policy:
                taken[winner] += int(count)
        return dict(taken)


def policies_in(bits: int) -> Iterator[int]:
    """The numbers of the policies in a set, ascending."""
    while bits:
        low = bits & -bits
        yield low.bit_length() - 1
        bits ^= low


def evaluation_order(estate: Estate) -> tuple[int, ...]:
    """All policies, best first: lowest precedence number, then smallest GUID by its stored bytes."""
    return tuple(sorted(range(len(estate.policies)), key=lambda p: estate.policies[p].rank))


def winner(stack: Stack, position: list[int] | tuple[int, ...]) -> int:
    """The policy that wins a stack; `position[p]` is policy *p*'s place in the evaluation order."""
    return min(policies_in(stack.contest), key=position.__getitem__, default=DOMAIN_POLICY)


def group_sets(estate: Estate) -> tuple[Int32, list[int]]:
    """For every group the set of policies it brings its members: an index by group row into a list of distinct sets.

    Set 0 is the empty set. Sets flow from linked groups down to the security groups nested in them, at any depth; cycles settle.
    """
    counts = estate.groups.counts_when_linked(estate.linked_groups)
    words = max(1, -(-len(estate.policies) // 64))
    bits = np.zeros((len(estate.groups), words), dtype=np.uint64)
    for link in estate.links:
        if link.kind == "group" and counts[link.target]:
            bits[link.target, link.policy // 64] |= np.uint64(1 << (link.policy % 64))
    frontier = np.flatnonzero(bits.any(axis=1))
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

    set_of_group = np.zeros(len(estate.groups), dtype=np.int32)
    reached = np.flatnonzero(bits.any(axis=1))
    distinct, inverse = np.unique(bits[reached], axis=0, return_inverse=True)
    set_of_group[reached] = inverse.reshape(-1).astype(np.int32) + 1
    return set_of_group, [0, *(int.from_bytes(row.astype("<u8").tobytes(), "little") for row in distinct)]


class _Populations:
    """Accounts split into populations, one set of accounts at a time.

    Starting from one population of everybody, each step moves a set of accounts to the stack that their present stack becomes.
    """

    def __init__(self, accounts: int) -> None:
        self.population = np.zeros(accounts, dtype=np.int32)
        self.stacks: list[Stack] = [Stack(0, 0, False)]
        self._number = {self.stacks[0]: 0}

    def move(self, rows: npt.NDArray[np.integer], change: Callable[[Stack], Stack]) -> None:
        before = self.population[rows]
        present = np.zeros(len(self.stacks), dtype=np.bool_)
        present[before] = True
        target = np.zeros(len(present), dtype=np.int32)
        for number in np.flatnonzero(present):
            stack = change(self.stacks[number])
            if stack not in self._number:
                self._number[stack] = len(self.stacks)
                self.stacks.append(stack)
            target[number] = self._number[stack]
        self.population[rows] = target[before]

    def settled(self) -> tuple[Int32, tuple[Stack, ...], Int64]:
        """Populations that still hold an account, renumbered without gaps."""
        counts = np.bincount(self.population, minlength=len(self.stacks))
        kept = np.flatnonzero(counts)
        renumber = np.zeros(len(self.stacks), dtype=np.int32)
        renumber[kept] = np.arange(len(kept), dtype=np.int32)
        return renumber[self.population], tuple(self.stacks[k] for k in kept), counts[kept]


def resolve(estate: Estate) -> Resolution:
    """Every account's stack and winner."""
    populations = _Populations(len(estate.accounts))
    members = estate.memberships.members
    set_of_group, sets = group_sets(estate)
    by_set = np.argsort(set_of_group, kind="stable")
    bounds = np.searchsorted(set_of_group[by_set], np.arange(len(sets) + 1))
    for number in range(1, len(sets)):
        rows, _ = members.of_many(by_set[bounds[number] : bounds[number + 1]])
        populations.move(rows, partial(_reached_by_groups, sets[number]))
    for bits, linked in _direct_sets(estate).items():
        populations.move(np.array(linked), partial(_reached_directly, bits))
    populations.move(np.flatnonzero(estate.exempt), _exempted)

    population, stacks, counts = populations.settled()
    order = evaluation_order(estate)
    position = sorted(range(len(order)), key=order.__getitem__)
    return Resolution(population, stacks, counts, tuple(winner(s, position) for s in stacks), order)


def _reached_by_groups(bits: int, stack: Stack) -> Stack:
    return stack._replace(group=stack.group | bits)


def _reached_directly(bits: int, stack: Stack) -> Stack:
    return stack._replace(direct=bits)


def _exempted(stack: Stack) -> Stack:
    return stack._replace(exempt=True)


def _direct_sets(estate: Estate) -> dict[int, list[int]]:
    """Accounts with direct links, by the set of policies linked to them."""
    direct: dict[int, int] = defaultdict(int)
    for link in estate.links:
        if link.kind == "account":
            direct[link.target] |= 1 << link.policy
    rows_by_set: dict[int, list[int]] = defaultdict(list)
    for row, bits in direct.items():
        rows_by_set[bits].append(row)
    return rows_by_set


def bringing_groups(estate: Estate, resolution: Resolution) -> Int32:
    """For each account that gets its policy through a group: the row of the linked group that brings it, else −1.

    Where several linked groups do, the one fewest steps away counts, then the one whose name comes first.
    """
    brought = np.full(len(estate.accounts), -1, dtype=np.int32)
    counts = estate.groups.counts_when_linked(estate.linked_groups)
    roots: dict[int, list[int]] = defaultdict(list)
    for link in estate.links:
        if link.kind == "group" and counts[link.target]:
            roots[link.policy].append(link.target)
    by_group = np.array([s.source == "group" for s in resolution.stacks])[resolution.population]
    winners = resolution.winner_of_account
    for policy, linked in roots.items():
        wanted = by_group & (winners == policy)
        for root, rows in _nearest(estate, sorted(set(linked), key=lambda g: estate.groups.dn[g].upper()), wanted):
            brought[rows] = root
    return brought


def _nearest(estate: Estate, roots: list[int], wanted: npt.NDArray[np.bool_]) -> Iterator[tuple[int, Int32]]:
    """Accounts in `wanted` by the nearest of `roots` above them, walking down the nesting step by step from all roots at once."""
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
