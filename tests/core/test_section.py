"""The section through the strata: no account of a policy is lost between columns and remainder."""

from __future__ import annotations

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from hornfels.core.resolution.engine import DOMAIN_POLICY, resolve
from hornfels.core.resolution.roster import Roster
from hornfels.core.resolution.section import Remainder, remainders, section
from hornfels.core.resolution.shared_groups import SharedGroups
from worlds import World, read, worlds

NOBODY = np.empty(0, dtype=np.int64)


@given(worlds(), st.data())
def test_shown_columns_and_remainder_are_all_accounts_of_a_policy(
    world: World, data: st.DataObject
) -> None:
    estate = read(world).estate
    resolution = resolve(estate)
    roster, shared = Roster(estate, resolution), SharedGroups(estate, resolution)
    drawn = section(estate, resolution, roster, shared, NOBODY, None)
    shown = [p for p in drawn.populations if data.draw(st.booleans())]
    for policy, left in remainders(drawn, shown).items():
        cells = [(p.count, c) for p in shown for c in p.cells if c.policy == policy]
        assert left.governed + sum(n for n, c in cells if c.holds) == resolution.governed(policy)
        assert left.reached + sum(n for n, _ in cells) == resolution.reached(policy)
    assert set(remainders(drawn, drawn.populations).values()) <= {Remainder(0, 0)}
    domain = [p.count for p in drawn.populations if p.winner == DOMAIN_POLICY]
    assert sum(domain) == resolution.governed(DOMAIN_POLICY)
    assert (drawn.unlisted, drawn.unlisted_under_domain_policy) == (0, 0)
