"""What-if answers against a full recomputation, on random small domains."""

from __future__ import annotations

from collections import Counter
from dataclasses import replace
from typing import Literal

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from hornfels.core.domain.estate import Estate, Link, LinkedGroups
from hornfels.core.policy.model import DEFAULTS
from hornfels.core.policy.strength import compare
from hornfels.core.resolution.engine import evaluation_order, resolve, winners
from hornfels.core.resolution.what_if import (
    Move,
    link_moves,
    membership_moves,
    precedence_for_place,
    precedence_moves,
    unlink_moves,
    with_precedence,
)
from hornfels.core.values.time import DAY, NEVER
from worlds import World, dn_of, group_dn, read, worlds

linked = st.sampled_from(["global", "any"])


def recomputed(before: Estate, after: Estate) -> Counter[tuple[int, int, int]]:
    """(population, from, to) → accounts, by resolving both from nothing."""
    one, other = resolve(before), winners(after)
    moved = np.flatnonzero(one.winner_of_account != other)
    return Counter(
        (int(one.population[row]), int(one.winner_of_account[row]), int(other[row]))
        for row in moved
    )


def told(moves: list[Move]) -> Counter[tuple[int, int, int]]:
    return Counter({(m.population, m.before, m.after): m.accounts for m in moves})


@given(worlds(), linked, st.integers(1, 4), st.data())
def test_a_precedence_change_moves_what_a_recomputation_moves(
    world: World, mode: LinkedGroups, number: int, data: st.DataObject
) -> None:
    estate = read(world, mode).estate
    if not estate.policies:
        return
    policy = data.draw(st.integers(0, len(estate.policies) - 1))
    moves, order = precedence_moves(estate, resolve(estate), policy, number)
    after = with_precedence(estate, policy, number)
    assert told(moves) == recomputed(estate, after)
    assert order == evaluation_order(after)


@given(worlds(), linked, st.data())
def test_a_link_moves_what_a_recomputation_moves(
    world: World, mode: LinkedGroups, data: st.DataObject
) -> None:
    estate = read(world, mode).estate
    if not estate.policies or not len(estate.groups):
        return
    policy = data.draw(st.integers(0, len(estate.policies) - 1))
    group = data.draw(st.integers(0, len(estate.groups) - 1))
    without = tuple(
        ln for ln in estate.links if (ln.policy, ln.kind, ln.target) != (policy, "group", group)
    )
    bare = estate.with_policies(estate.policies, without)
    full = estate.with_policies(estate.policies, (*without, Link(policy, "group", group, "")))
    assert told(link_moves(bare, resolve(bare), policy, group)) == recomputed(bare, full)
    assert told(unlink_moves(full, resolve(full), policy, group)) == recomputed(full, bare)


@given(worlds(), linked, st.data())
def test_a_membership_moves_what_a_recomputation_moves(
    world: World, mode: LinkedGroups, data: st.DataObject
) -> None:
    if not world.groups:
        return
    members = [f"a{n}" for n in range(len(world.accounts))] + [
        f"g{n}" for n in range(len(world.groups))
    ]
    ref = data.draw(st.sampled_from(members))
    inside = data.draw(st.integers(0, len(world.groups) - 1))
    without, with_ = (
        read(replace(world, listed=world.listed ^ extra), mode).estate
        for extra in (world.listed & {(ref, inside)}, {(ref, inside)} - world.listed)
    )
    group = int(without.groups.dn.find(group_dn(inside))[0])
    kind: Literal["account", "group"] = "account" if ref[0] == "a" else "group"
    column = without.accounts.dn if ref[0] == "a" else without.groups.dn
    member = int(column.find(dn_of(ref))[0])
    assert told(
        membership_moves(without, resolve(without), kind, member, group, join=True)
    ) == recomputed(without, with_)
    assert told(
        membership_moves(with_, resolve(with_), kind, member, group, join=False)
    ) == recomputed(with_, without)


@given(st.lists(st.integers(1, 60), min_size=1, max_size=8), st.data())
def test_a_number_for_a_place_puts_the_policy_there(
    numbers: list[int], data: st.DataObject
) -> None:
    world = World(
        7,
        [],
        [(0x200, None, 2000)],
        set(),
        [(n, bytes([i]) + bytes(15), []) for i, n in enumerate(numbers)],
    )
    estate = read(world).estate
    policy = data.draw(st.integers(0, len(numbers) - 1))
    place = data.draw(st.integers(0, len(numbers) - 1))
    number = precedence_for_place(estate, policy, place)
    others = [estate.policies[p].precedence for p in evaluation_order(estate) if p != policy]
    if number is None:
        low, high = ([0, *others][place], [*others, 2**31][place])
        assert high - low <= 1
    else:
        assert evaluation_order(with_precedence(estate, policy, number))[place] == policy
        assert number not in others


def test_stronger_and_weaker() -> None:
    after = replace(
        DEFAULTS, min_length=12, max_age=NEVER, lockout_threshold=5, reversible_encryption=True
    )
    assert compare(DEFAULTS, after) == {
        "min_length": "stronger",
        "reversible_encryption": "weaker",
        "max_age": "weaker",
        "lockout_threshold": "stronger",
        "lockout_window": "stronger",
        "lockout_duration": "stronger",
    }
    assert compare(DEFAULTS, replace(DEFAULTS, lockout_window=99 * DAY)) == {}
    assert set(compare(after, DEFAULTS)) == set(compare(DEFAULTS, after))
