"""What the accounts of a population share."""

from __future__ import annotations

from hypothesis import given

from hornfels.core.resolution.engine import resolve
from hornfels.core.resolution.shared_groups import SharedGroups
from hornfels.formats.dump import Dump
from worlds import World, read, worlds


@given(worlds())
def test_every_account_of_a_population_is_in_the_groups_it_is_known_by(world: World) -> None:
    estate = read(world).estate
    resolution = resolve(estate)
    common = SharedGroups(estate, resolution)
    for population in range(len(resolution)):
        rows = {
            int(row) for row, number in enumerate(resolution.population) if number == population
        }
        for group in common.groups(population):
            assert rows <= set(estate.memberships.accounts_below(group).tolist())


def test_the_demo_is_known_by_its_groups(demo: Dump) -> None:
    resolution = resolve(demo.estate)
    common, names = SharedGroups(demo.estate, resolution), demo.estate.groups.name
    found = [
        (int(resolution.counts[n]), [names[g] for g in common.groups(n)])
        for n in range(len(resolution))
    ]
    known = {size: groups for size, groups in found if groups}
    assert known[9] == ["GS-Keyholders"]
    assert known[6] == ["GS-Grants-Office", "GS-Night-Operators"]
    assert known[12] == ["GS-Dome-Kiosks"]
    assert known[14] == ["GS-Dome-Rota"]
    assert known[46] == ["GS-Night-Operators"]
    assert (709, []) in found
