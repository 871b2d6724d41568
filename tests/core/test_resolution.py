"""Who gets which policy: the engine against a naive reading of the rules, on random small
domains.
"""

from __future__ import annotations

from itertools import pairwise

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from hornfels.core.domain.estate import Estate, LinkedGroups
from hornfels.core.resolution.engine import (
    DOMAIN_POLICY,
    Resolution,
    bringing_groups,
    policies_in,
    resolve,
    winners,
)
from hornfels.core.resolution.explanation import MOST_PATHS, explain
from worlds import World, expected, group_dn, guid_of, policy_dn, read, worlds

linked = st.sampled_from(["global", "any"])


def resolved(world: World, linked_groups: LinkedGroups) -> tuple[Estate, Resolution]:
    """Return the estate of a world, and the effective policies in the estate."""
    estate = read(world, linked_groups).estate
    return estate, resolve(estate)


@given(worlds(), linked, st.booleans())
def test_every_account_gets_what_the_rules_say(
    world: World, linked_groups: LinkedGroups, member_of: bool
) -> None:
    estate = read(world, linked_groups, member_of=member_of).estate
    resolution = resolve(estate)
    assert np.array_equal(winners(estate), resolution.winner_of_account)
    for n in range(len(world.accounts)):
        row = estate.find_account(f"person{n}")
        assert row is not None
        policy, source = expected(world, n, linked_groups)
        winner = int(resolution.winner_of_account[row])
        assert (estate.policies[winner].dn if winner != DOMAIN_POLICY else None) == (
            None if policy is None else policy_dn(policy)
        )
        assert resolution.stacks[resolution.population[row]].source == source


@given(worlds(), linked)
def test_populations_partition_the_accounts(world: World, linked_groups: LinkedGroups) -> None:
    estate, resolution = resolved(world, linked_groups)
    assert sum(resolution.counts) == len(estate.accounts)
    assert len(set(resolution.stacks)) == len(resolution.stacks)
    assert [
        int((resolution.population == n).sum()) for n in range(len(resolution.stacks))
    ] == resolution.counts.tolist()
    assert [resolution.population[row] for row in resolution.samples] == list(
        range(len(resolution.stacks))
    )
    for policy in range(len(estate.policies)):
        assert resolution.reached(policy) == resolution.governed(policy) + sum(
            resolution.taken_by(policy).values()
        )


@given(worlds(), linked)
def test_the_explanation_agrees_and_its_paths_exist(
    world: World, linked_groups: LinkedGroups
) -> None:
    estate, resolution = resolved(world, linked_groups)
    listed = {(ref, g) for ref, g in world.listed}
    number = {estate.find_account(f"person{n}"): n for n in range(len(world.accounts))}
    groups = {estate.groups.dn.find(group_dn(n))[0]: n for n in range(len(world.groups))}
    for row, n in number.items():
        assert row is not None
        why = explain(estate, resolution, row)
        assert why.winner == resolution.winner_of_account[row]
        wins = [layer for layer in why.layers if layer.outcome == "wins"]
        assert bool(wins) == (why.winner != DOMAIN_POLICY)
        reached = {layer.policy for layer in why.layers if layer.outcome != "does not count"}
        assert reached == set(policies_in(resolution.stacks[resolution.population[row]].reaching))
        for layer in why.layers:
            if layer.outcome == "loses" and not estate.exempt[row]:
                # Whatever beats it is named, and by what.
                assert estate.policies[why.winner].name in layer.reason
                assert ("direct link" in layer.reason) == bool(
                    resolution.stack(int(resolution.population[row])).direct
                    and layer.path is not None
                )
            if layer.path is None:
                continue
            ways = [layer.path.groups, *layer.path.others]
            assert len(set(ways)) == len(ways) == min(layer.path.alternatives, MOST_PATHS)
            for way in ways:
                chain = [groups[g] for g in way]
                assert (f"a{n}", chain[0]) in listed or world.accounts[n][1] == chain[0]
                assert all((f"g{low}", high) in listed for low, high in pairwise(chain))
                assert (len(way), way[-1]) == (len(ways[0]), ways[0][-1])


@given(worlds(), linked)
def test_the_bringing_group_is_linked_counts_and_is_nearest(
    world: World, linked_groups: LinkedGroups
) -> None:
    estate, resolution = resolved(world, linked_groups)
    via = bringing_groups(estate, resolution)
    for row in range(len(estate.accounts)):
        why = explain(estate, resolution, row)
        assert via[row] == (why.via if why.source == "group" else -1)


def test_a_tie_goes_by_stored_bytes_not_by_the_printed_form() -> None:
    early_printed = bytes.fromhex("ff000000") + bytes(12)
    late_printed = bytes.fromhex("000000ff") + bytes(12)
    assert str(guid_of(early_printed)) < str(guid_of(late_printed))
    world = World(
        7,
        [(2, True)],
        [(0x200, None, 2000)],
        {("a0", 0)},
        [(30, early_printed, ["g0"]), (30, late_printed, ["g0"])],
    )
    estate = read(world).estate
    assert estate.policies[int(resolve(estate).winner_of_account[0])].dn == policy_dn(1)


def test_more_policies_than_fit_one_word() -> None:
    policies = [(200 - n, bytes([n]) + bytes(15), ["g0"]) for n in range(150)]
    world = World(7, [(2, True)], [(0x200, 0, 2000)], set(), policies)
    estate = read(world).estate
    resolution = resolve(estate)
    assert estate.policies[int(resolution.winner_of_account[0])].dn == policy_dn(149)
    assert len(list(policies_in(resolution.stacks[resolution.population[0]].group))) == 150


def test_the_demo_stands_as_it_is_told(demo) -> None:  # type: ignore[no-untyped-def]
    estate = demo.estate
    resolution = resolve(estate)
    governed = {p.name: resolution.governed(n) for n, p in enumerate(estate.policies)}
    assert len(estate.accounts) == 1184
    assert governed == {
        "Keyholders": 9,
        "Instrument services": 111,
        "Systems stewards": 24,
        "Grants office": 37,
        "Night operators": 60,
        "Visiting astronomers": 210,
        "Kiosk floor": 12,
        "Phrase pilot": 0,
    }
    kiosk = explain(estate, resolution, estate.find_account("kiosk-north") or 0)
    assert kiosk.source == "account"
    assert [estate.policies[layer.policy].name for layer in kiosk.layers] == [
        "Kiosk floor",
        "Visiting astronomers",
    ]
    assert explain(estate, resolution, estate.find_account("krbtgt") or 0).source == "exempt"
