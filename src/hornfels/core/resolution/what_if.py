"""What a change would do, without making it: the accounts that would change policy, population by
population.

A precedence change looks at populations only. A link or a membership looks only at the groups below
it and their members.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace
from typing import Literal, NamedTuple

import numpy as np

from hornfels.core.domain.estate import Estate, Int32, Int64
from hornfels.core.domain.wording import name_of
from hornfels.core.policy.catalogue import HIGHEST_PRECEDENCE_NUMBER
from hornfels.core.resolution.engine import (
    Resolution,
    UInt64,
    counting_links,
    evaluation_order,
    has_bit,
    not_empty,
    winners_of,
)
from hornfels.refusals import FieldsError


class Move(NamedTuple):
    """Accounts of one population that would change policy; −1 is the domain policy."""

    population: int
    accounts: int
    before: int
    after: int


class Weighed(NamedTuple):
    """What a change would move, the evaluation order it would make, the number it comes to (None
    where no whole number is free), and all of it in a sentence.
    """

    moves: tuple[Move, ...]
    order: tuple[int, ...]
    precedence: int | None
    sentence: str

    @property
    def accounts(self) -> int:
        return sum(move.accounts for move in self.moves)


def weigh_precedence(
    estate: Estate, resolution: Resolution, policy: int, precedence: int
) -> Weighed:
    """Another precedence number for a policy. Raises `FieldsError` for one that is none."""
    if not 1 <= precedence <= HIGHEST_PRECEDENCE_NUMBER:
        raise FieldsError(
            ("", f"Precedence is a whole number from 1 to {HIGHEST_PRECEDENCE_NUMBER:,}.")
        )
    moves, order = precedence_moves(estate, resolution, policy, precedence)
    what = f"{estate.policies[policy].name} at {precedence}"
    return Weighed(tuple(moves), order, precedence, _in_short(estate, what, moves))


def weigh_place(estate: Estate, resolution: Resolution, policy: int, place: int) -> Weighed:
    """Another place (0 first) for a policy among the others."""
    place = min(place, len(resolution.order) - 1)
    if resolution.order.index(policy) == place:
        number: int | None = estate.policies[policy].precedence
    else:
        number = precedence_for_place(estate, policy, place)
    if number is None:
        sentence = (
            f"No whole number is free for {estate.policies[policy].name} there. Give one of its "
            "neighbours another number first."
        )
        return Weighed((), resolution.order, None, sentence)
    return weigh_precedence(estate, resolution, policy, number)


def weigh_link(
    estate: Estate, resolution: Resolution, policy: int, group: int, *, link: bool
) -> Weighed:
    """A link of a policy to a group made, or taken away."""
    moves = (link_moves if link else unlink_moves)(estate, resolution, policy, group)
    what = f"{'Linking' if link else 'Unlinking'} {estate.groups.name[group]}"
    number = estate.policies[policy].precedence
    return Weighed(tuple(moves), resolution.order, number, _in_short(estate, what, moves))


def _in_short(estate: Estate, what: str, moves: list[Move]) -> str:
    accounts = sum(move.accounts for move in moves)
    if not accounts:
        return f"{what}: nobody changes policy."
    routes: dict[tuple[int, int], int] = {}
    for move in moves:
        way = move.before, move.after
        routes[way] = routes.get(way, 0) + move.accounts
    listed = sorted(routes.items(), key=lambda item: -item[1])
    told = "; ".join(
        f"{n:,} from {name_of(estate, a)} to {name_of(estate, b)}" for (a, b), n in listed[:3]
    )
    more = f"; and {len(listed) - 3} more ways" if len(listed) > 3 else ""
    change = "account changes" if accounts == 1 else "accounts change"
    return f"{what}: {accounts:,} {change} policy, {told}{more}."


def with_precedence(estate: Estate, policy: int, precedence: int) -> Estate:
    """The estate with one policy's number changed."""
    policies = list(estate.policies)
    policies[policy] = replace(policies[policy], precedence=precedence)
    return estate.with_policies(tuple(policies), estate.links)


def precedence_moves(
    estate: Estate, resolution: Resolution, policy: int, precedence: int
) -> tuple[list[Move], tuple[int, ...]]:
    """What another precedence number would move, and the evaluation order it would make."""
    order = evaluation_order(with_precedence(estate, policy, precedence))
    after = winners_of(resolution.direct, resolution.group, resolution.exempt, order)
    changed = np.flatnonzero(after != resolution.winners)
    moves = [
        Move(int(n), int(resolution.counts[n]), int(resolution.winners[n]), int(after[n]))
        for n in changed
    ]
    return moves, order


def precedence_for_place(estate: Estate, policy: int, place: int) -> int | None:
    """A number that puts a policy at a place (0 first) among the others; None if no whole number is
    free there.

    Round numbers are preferred, so that gaps stay for later.
    """
    numbers = [estate.policies[p].precedence for p in evaluation_order(estate) if p != policy]
    low = numbers[place - 1] if place > 0 else 0
    if place >= len(numbers):
        return (
            min(low - low % 10 + 10, HIGHEST_PRECEDENCE_NUMBER)
            if low < HIGHEST_PRECEDENCE_NUMBER
            else None
        )
    high = numbers[place]
    for step in (10, 5, 1):
        middle = (low + high) // 2
        for candidate in (middle - middle % step, middle - middle % step + step):
            if low < candidate < high:
                return candidate
    return None


def link_moves(estate: Estate, resolution: Resolution, policy: int, group: int) -> list[Move]:
    """What linking a policy to one more group would move."""
    if not estate.groups.counts_when_linked(estate.linked_groups)[group]:
        return []
    fresh = [g for g in _below(estate, [group]) if not _brings(resolution, g, policy)]
    rows = _distinct(
        estate.memberships.members.of_many(np.array(fresh, dtype=np.int64))[0], len(estate.accounts)
    )
    gains = ~has_bit(resolution.group, policy)
    return _moves(resolution, rows[gains[resolution.population[rows]]], policy, gained=True)


def unlink_moves(estate: Estate, resolution: Resolution, policy: int, group: int) -> list[Move]:
    """What taking a policy's link to a group away would move."""
    counts = estate.groups.counts_when_linked(estate.linked_groups)
    if not counts[group]:
        return []
    others = [
        ln.target
        for ln in estate.links
        if ln.kind == "group" and ln.policy == policy and ln.target != group and counts[ln.target]
    ]
    kept = np.array(sorted(_below(estate, others)), dtype=np.int64)
    lost = np.array(
        [g for g in _below(estate, [group]) if g not in set(kept.tolist())], dtype=np.int64
    )
    members = estate.memberships.members
    rows = _distinct(members.of_many(lost)[0], len(estate.accounts))
    return _moves(resolution, rows[~_inside(estate, rows, kept)], policy, gained=False)


def _below(estate: Estate, roots: Iterable[int]) -> set[int]:
    """Security groups nested in these at any depth, themselves included."""
    nested = estate.memberships.nested
    seen = set(roots)
    frontier = list(seen)
    while frontier:
        found = {child for g in frontier for child in nested.of(g).tolist()} - seen
        seen |= found
        frontier = list(found)
    return seen


def _brings(resolution: Resolution, group: int, policy: int) -> bool:
    return bool(int(resolution.group_sets[group, policy // 64]) >> (policy % 64) & 1)


def _distinct(rows: Int32, size: int) -> Int64:
    """Each row once. Sorting is for few rows, marking for many."""
    if len(rows) * 16 < size:
        return np.unique(rows).astype(np.int64)
    marked = np.zeros(size, dtype=np.bool_)
    marked[rows] = True
    return np.flatnonzero(marked)


def _inside(
    estate: Estate, rows: Int64, groups: Int64
) -> np.ndarray[tuple[int], np.dtype[np.bool_]]:
    """Which of the account rows are in any of the groups; looks from whichever side is smaller."""
    members = estate.memberships.members
    sizes = (
        members.starts[groups + 1] - members.starts[groups]
        if len(groups)
        else np.zeros(0, dtype=np.int64)
    )
    wanted = np.zeros(len(estate.groups), dtype=np.bool_)
    wanted[groups] = True
    if sizes.sum() < len(rows) * 8:
        marked = np.zeros(len(estate.accounts), dtype=np.bool_)
        marked[members.of_many(groups)[0]] = True
        return marked[rows]
    primary = estate.accounts.primary_group[rows]
    inside = (primary >= 0) & wanted[primary]
    listed, counts = estate.memberships.groups_of_account.of_many(rows)
    owner = np.repeat(np.arange(len(rows)), counts)
    inside[owner[wanted[listed]]] = True
    return inside


def _moves(resolution: Resolution, rows: Int64, policy: int, *, gained: bool) -> list[Move]:
    """The moves of these accounts, whose stacks gain or lose a policy through their groups."""
    counts = np.bincount(resolution.population[rows], minlength=len(resolution))
    touched = np.flatnonzero(counts)
    group = resolution.group[touched].copy()
    bit = np.uint64(1 << (policy % 64))
    if gained:
        group[:, policy // 64] |= bit
    else:
        group[:, policy // 64] &= ~bit
    after = winners_of(
        resolution.direct[touched], group, resolution.exempt[touched], resolution.order
    )
    return [
        Move(int(n), int(counts[n]), int(resolution.winners[n]), int(won))
        for n, won in zip(touched, after, strict=True)
        if resolution.winners[n] != won
    ]


def membership_moves(
    estate: Estate,
    resolution: Resolution,
    kind: Literal["account", "group"],
    member: int,
    group: int,
    *,
    join: bool,
) -> list[Move]:
    """What putting an account or a group into a group, or taking it out, would move. A primary
    group stays as it is.
    """
    if not estate.groups.carries[group]:
        return []
    if kind == "account":
        return _account_moves(estate, resolution, member, group, join=join)
    if not estate.groups.carries[member]:
        return []
    changed = (
        _joined_sets(estate, resolution, member, group)
        if join
        else _left_sets(estate, resolution, member, group)
    )
    if not changed:
        return []
    sets = resolution.group_sets.copy()
    sets[list(changed)] = np.array(list(changed.values()))
    rows = _distinct(
        estate.memberships.members.of_many(np.array(sorted(changed), dtype=np.int64))[0],
        len(estate.accounts),
    )
    return _moves_to(resolution, rows, _sets_of(estate, rows, sets))


def _account_moves(
    estate: Estate, resolution: Resolution, account: int, group: int, *, join: bool
) -> list[Move]:
    inside = set(estate.memberships.groups_of_account.of(account).tolist())
    inside = inside | {group} if join else inside - {group}
    primary = int(estate.accounts.primary_group[account])
    if primary >= 0:
        inside.add(primary)
    sets = np.bitwise_or.reduce(resolution.group_sets[sorted(inside)], axis=0, keepdims=True)
    return _moves_to(resolution, np.array([account], dtype=np.int64), sets)


def _joined_sets(
    estate: Estate, resolution: Resolution, child: int, group: int
) -> dict[int, UInt64]:
    """New sets of the groups below `child` once it is in `group`: all get what the group brings."""
    extra = resolution.group_sets[group]
    below = np.array(sorted(_below(estate, [child])), dtype=np.int64)
    sets = resolution.group_sets[below] | extra
    differs = np.flatnonzero(not_empty(sets ^ resolution.group_sets[below]))
    return {int(below[n]): sets[n] for n in differs}


def _left_sets(estate: Estate, resolution: Resolution, child: int, group: int) -> dict[int, UInt64]:
    """New sets of the groups below `child` once it is out of `group`: what their links and their
    other parents bring.
    """
    below = sorted(_below(estate, [child]))
    sets = {g: np.zeros(resolution.group_sets.shape[1], dtype=np.uint64) for g in below}
    for policy, target in counting_links(estate):
        if target in sets:
            sets[target][policy // 64] |= np.uint64(1 << (policy % 64))
    parents = {
        g: [
            p for p in estate.memberships.groups_of_group.of(g).tolist() if estate.groups.carries[p]
        ]
        for g in below
    }
    parents[child] = [p for p in parents[child] if p != group]
    # Groups outside are not touched by the change; inside, sets grow until nothing changes any
    # more.
    grown = True
    while grown:
        grown = False
        for g in below:
            merged = sets[g].copy()
            for p in parents[g]:
                merged |= sets[p] if p in sets else resolution.group_sets[p]
            if not np.array_equal(merged, sets[g]):
                sets[g], grown = merged, True
    return {g: s for g, s in sets.items() if not np.array_equal(s, resolution.group_sets[g])}


def _sets_of(estate: Estate, rows: Int64, group_sets: UInt64) -> UInt64:
    """What these accounts' groups bring them, for given sets of the groups."""
    listed, counts = estate.memberships.groups_of_account.of_many(rows)
    primary = estate.accounts.primary_group[rows]
    sets = np.where((primary >= 0)[:, None], group_sets[primary], np.uint64(0))
    some = np.flatnonzero(counts)
    if len(some):
        starts = (np.cumsum(counts) - counts)[some]
        sets[some] |= np.bitwise_or.reduceat(group_sets[listed], starts, axis=0)
    return sets


def _moves_to(resolution: Resolution, rows: Int64, group: UInt64) -> list[Move]:
    """The moves of these accounts, whose groups now bring these sets."""
    population = resolution.population[rows]
    after = winners_of(
        resolution.direct[population], group, resolution.exempt[population], resolution.order
    )
    before = resolution.winners[population]
    moved = np.flatnonzero(after != before)
    keys, counts = np.unique(
        np.stack([population[moved], after[moved]], axis=1), axis=0, return_counts=True
    )
    return [
        Move(int(n), int(count), int(resolution.winners[n]), int(won))
        for (n, won), count in zip(keys.tolist(), counts.tolist(), strict=True)
    ]
