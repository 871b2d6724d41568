"""Policies change one after another so that nobody passes through a third one."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from drafting import drawn
from hornfels.core.domain.estate import Estate, Link
from hornfels.core.drafts.applying import apply
from hornfels.core.drafts.operations import (
    LinkPolicy,
    SetPrecedence,
    Target,
    UnlinkPolicy,
    published,
)
from hornfels.core.drafts.passage import passage
from hornfels.core.policy.model import Policy
from hornfels.core.resolution.engine import resolve
from hornfels.formats.dump import Dump
from worlds import World, worlds


def halfway(before: Estate, after: Estate, changed: set[object]) -> Estate:
    """The estate with some policies as they will be and the others as they were."""
    policies: list[Policy] = []
    links: list[Link] = []
    for side, wanted in ((before, False), (after, True)):
        for number, policy in enumerate(side.policies):
            if (policy.guid in changed) == wanted:
                links += [
                    link._replace(policy=len(policies))
                    for link in side.links
                    if link.policy == number
                ]
                policies.append(policy)
    return replace(before, policies=tuple(policies), links=tuple(links))


def who_has_what(estate: Estate) -> list[object]:
    guids = [*(policy.guid for policy in estate.policies), None]
    return [guids[winner] for winner in resolve(estate).winner_of_account.tolist()]


def astray(before: Estate, after: Estate, order: tuple[object, ...]) -> int:
    """The most accounts that have a third policy after any step."""
    was, will = who_has_what(before), who_has_what(after)
    most, changed = 0, set[object]()
    for guid in order:
        changed.add(guid)
        now = who_has_what(halfway(before, after, changed))
        third = [n not in (one, other) for n, one, other in zip(now, was, will, strict=True)]
        most = max(most, int(np.sum(third)))
    return most


@given(worlds(), st.data())
@settings(max_examples=100)
def test_as_many_go_astray_as_is_said(world: World, data: st.DataObject) -> None:
    base, _, raw, _ = drawn(data, world)
    after = apply(base, published(raw)).estate
    found = passage(base, after)
    both = {p.guid: p for p in base.policies}, {p.guid: p for p in after.policies}
    links = [{(e.policies[ln.policy].guid, ln.dn.upper()) for ln in e.links} for e in (base, after)]
    moved = {guid for guid, _ in links[0] ^ links[1]}
    different = {g for g in {**both[0], **both[1]} if both[0].get(g) != both[1].get(g)} | moved
    assert set(found.order) == different
    assert len(found.order) == len(different)
    assert found.astray == astray(base, after, found.order)


def test_two_that_change_places_come_past_a_third(demo: Dump) -> None:
    """The one that gains comes first, whatever its place in the draft."""
    estate = demo.estate
    first, second, third = estate.policies[:3]
    linked = next(ln.dn for ln in estate.links if ln.policy == 0 and ln.kind == "group")
    on_one = tuple(LinkPolicy(policy=p.guid, target=Target(dn=linked)) for p in (second, third))
    base = apply(estate, on_one).estate
    swapped = (
        SetPrecedence(policy=first.guid, before=first.precedence, after=third.precedence + 1),
        SetPrecedence(policy=third.guid, before=third.precedence, after=first.precedence),
    )
    after = apply(base, swapped).estate
    assert astray(base, after, (first.guid, third.guid)) > 0
    found = passage(base, after)
    assert (found.order, found.astray) == ((third.guid, first.guid), 0)
    taken = UnlinkPolicy(policy=first.guid, target=Target(dn=linked, kind="group"))
    assert passage(base, apply(base, (taken,)).estate).astray == 0
