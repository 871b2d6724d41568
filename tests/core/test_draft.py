"""Laws of drafts on random small domains: what is done can be undone, written shortly, kept, and
found again by comparison.
"""

from __future__ import annotations

from collections import Counter
from dataclasses import replace
from uuid import UUID

import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from drafting import drawn, operation, picture
from hornfels.core.domain.account_state import addition_of, expiry, settings_of
from hornfels.core.domain.estate import Estate
from hornfels.core.drafts.applying import apply, extended
from hornfels.core.drafts.comparison import differences
from hornfels.core.drafts.edits import edits, removal, renumber
from hornfels.core.drafts.impact import DAYS, impact
from hornfels.core.drafts.operations import (
    ADAPTER,
    AddPolicy,
    EditSettings,
    LinkPolicy,
    Operation,
    Operations,
    Target,
    inverse,
    published,
)
from hornfels.core.drafts.sentences import sentences
from hornfels.core.drafts.shortening import shortened
from hornfels.core.policy.model import DEFAULTS, PolicyRef
from hornfels.core.policy.strength import compare
from hornfels.core.resolution.engine import resolve, winners
from hornfels.core.values.time import DAY
from hornfels.formats.dump import Dump
from worlds import World, read, worlds

WORKSHOP = "CN=GS-Workshop,OU=Groups,DC=sky,DC=tarnholt,DC=example"
NOW = 133_000_000 * 1_000_000_000


@given(worlds(), st.data(), st.booleans())
@settings(max_examples=200)
def test_a_draft_written_shortly_does_the_same(
    world: World, data: st.DataObject, sources: bool
) -> None:
    base, after, raw, short = drawn(data, world, sources=sources)
    done = apply(base, short)
    assert not done.conflicts
    assert picture(done.estate) == picture(after)
    assert picture(apply(base, raw).estate) == picture(after)
    # Nothing is left to be written more shortly: once more changes nothing.
    again: Operations = ()
    for op in short:
        again = shortened(again, op)
    assert again == short
    assert len(short) <= len(raw)


@given(worlds(), st.data(), st.booleans())
def test_a_draft_that_does_not_fit_can_still_be_written_further(
    world: World, data: st.DataObject, sources: bool
) -> None:
    _, _, _, mine = drawn(data, world, sources=sources)
    _, theirs, _, _ = drawn(data, world, sources=sources)
    stands = apply(theirs, mine)
    new = tuple(data.draw(operation(stands.estate, 50)))
    wanted = apply(theirs, (*mine, *new))
    assume(all(c.index < len(mine) for c in wanted.conflicts))
    after = extended(theirs, mine, lambda _estate: new).operations
    assert picture(apply(theirs, after).estate) == picture(wanted.estate)


@given(worlds(), st.data(), st.booleans())
def test_a_draft_is_written_further_from_what_it_makes_already(
    world: World, data: st.DataObject, sources: bool
) -> None:
    """Whether the draft is gone through anew or its estate is handed in, the same comes of it."""
    base, after, _, short = drawn(data, world, sources=sources)
    new = tuple(data.draw(operation(after, 50)))
    assume(not apply(base, (*short, *new)).conflicts)
    slow, fast = (
        extended(base, short, lambda _estate: new),
        extended(base, short, lambda _estate: new, after),
    )
    assert slow.operations == fast.operations
    whole = picture(apply(base, slow.operations).estate)
    assert all(picture(made.estate) == whole for made in (slow, fast) if made.estate is not None)


@given(worlds(), st.data())
def test_what_is_done_can_be_undone(world: World, data: st.DataObject) -> None:
    # Without sources: where one stops saying something, the value it wrote stays on the domain
    # object.
    base, after, raw, short = drawn(data, world)
    for operations in (raw, short):
        undone = apply(after, inverse(operations))
        assert not undone.conflicts
        assert picture(undone.estate) == picture(base)


@given(worlds(), st.data())
def test_a_draft_is_kept_exactly(world: World, data: st.DataObject) -> None:
    _, _, raw, _ = drawn(data, world)
    assert ADAPTER.validate_json(ADAPTER.dump_json(raw)) == raw
    assert inverse(inverse(raw)) == raw


@given(worlds(), st.data(), st.booleans())
def test_comparing_two_points_finds_the_operations_between_them(
    world: World, data: st.DataObject, sources: bool
) -> None:
    base, _, raw, _ = drawn(data, world, sources=sources)
    after = apply(base, published(raw)).estate
    found = differences(base, after)
    applied = apply(base, found)
    assert not applied.conflicts
    assert picture(applied.estate) == picture(after)
    assert {s.index for s in sentences(found, {p.guid: p.name for p in base.policies})} == set(
        range(len(found))
    )


@given(worlds(), st.integers(1, 1000))
def test_numbering_with_gaps_changes_nobodys_policy(world: World, step: int) -> None:
    estate = read(world).estate
    after = apply(estate, (renumber(estate, step),)).estate
    before, now = winners(estate), winners(after)
    assert [estate.policies[p].guid if p >= 0 else None for p in before] == [
        after.policies[p].guid if p >= 0 else None for p in now
    ]
    assert sorted(p.precedence for p in after.policies) == [
        step * n for n in range(1, len(after.policies) + 1)
    ]


@given(worlds(), st.data())
def test_what_somebody_else_changed_is_a_conflict_that_can_be_rebased(
    world: World, data: st.DataObject
) -> None:
    _, _, _, mine = drawn(data, world)
    _, theirs, _, _ = drawn(data, world)
    conflicted = apply(theirs, mine)
    assert not {c.index for c in conflicted.conflicts} - set(range(len(mine)))
    for conflict in conflicted.conflicts:
        assert conflict.reason.endswith((".", "anew."))
    mended = {c.index: c.rebased for c in conflicted.conflicts}
    kept = (mended.get(n, (op,)) or () for n, op in enumerate(mine))
    rest = tuple(op for some in kept for op in some)
    # A rebased operation fits the moment it was rebased for; what depends on a dropped one may
    # still be told of.
    again = apply(theirs, rest)
    assert len(again.conflicts) <= len(conflicted.conflicts)


@given(worlds(), st.data())
def test_the_impact_is_what_a_look_at_every_account_finds(
    world: World, data: st.DataObject
) -> None:
    base, after, _, _ = drawn(data, world)
    when = [NOW - 40 * DAY, NOW - 10 * DAY, NOW, 0]
    ages = np.array([when[n % 4] for n in range(len(base.accounts))], dtype=np.int64)
    base = replace(base, accounts=replace(base.accounts, password_set=ages))
    after = replace(after, accounts=replace(after.accounts, password_set=ages))
    told = impact(base, resolve(base), after, resolve(after), NOW)

    old, new = winners(base), winners(after)
    moves: Counter[tuple[PolicyRef, PolicyRef]] = Counter()
    weaker: Counter[str] = Counter()
    at_once = lockable = otherwise = 0
    days = [0] * DAYS
    for row in range(len(base.accounts)):
        a, b = int(old[row]), int(new[row])
        moves[
            base.policies[a].guid if a >= 0 else "domain",
            after.policies[b].guid if b >= 0 else "domain",
        ] += 1
        before, now = settings_of(base, a), settings_of(after, b)
        weaker.update(key for key, verdict in compare(before, now).items() if verdict == "weaker")
        otherwise += addition_of(base, a) != addition_of(after, b)
        lockable += before.lockout_threshold == 0 < now.lockout_threshold
        ends = [
            expiry(int(e.accounts.control[row]), int(ages[row]), s.max_age)
            for e, s in ((base, before), (after, now))
        ]
        due = [end.kind == "at" and end.at <= NOW for end in ends]
        at_once += due == [False, True]
        if ends[1].kind == "at" and NOW < ends[1].at <= NOW + DAYS * DAY:
            days[(ends[1].at - NOW - 1) // DAY] += 1
    assert {(t.before, t.after): t.accounts for t in told.transfers} == {
        k: n for k, n in moves.items() if k[0] != k[1]
    }
    assert {s.key: s.weaker for s in told.settings if s.weaker} == dict(weaker)
    assert (told.expire_at_once, told.newly_lockable, told.besides.changes) == (
        at_once,
        lockable,
        otherwise,
    )
    assert list(told.expiring) == days


def test_the_same_setting_edited_twice_is_said_once_and_back_again_not_at_all(demo: Dump) -> None:
    night = next(p for p in demo.estate.policies if p.name == "Night operators")

    def longer(estate: Estate, length: int) -> Operation:
        policy = next(p for p in estate.policies if p.guid == night.guid)
        return next(
            iter(edits(estate, night.guid, settings=replace(policy.settings, min_length=length)))
        )

    once = shortened((), longer(demo.estate, 16))
    twice = shortened(once, longer(apply(demo.estate, once).estate, 18))
    assert [
        (s.subject, s.text, s.before, s.after) for s in sentences(twice, {night.guid: night.name})
    ] == [("Night operators", "Minimum length", "14 characters", "18 characters")]
    assert shortened(twice, longer(apply(demo.estate, twice).estate, 14)) == ()


def test_an_edit_of_an_added_policy_changes_what_is_added_and_removing_it_leaves_nothing(
    demo: Dump,
) -> None:
    guid = UUID(int=7)
    added: Operations = (AddPolicy(policy=guid, name="Workshop", precedence=80, settings=DEFAULTS),)
    estate = apply(demo.estate, added).estate
    linked = shortened(added, LinkPolicy(policy=guid, target=Target(dn=WORKSHOP)))
    assert len(linked) == 1
    assert isinstance(linked[0], AddPolicy)
    assert linked[0].links
    assert shortened(linked, removal(apply(demo.estate, linked).estate, guid)) == ()
    with pytest.raises(LookupError):
        removal(demo.estate, guid)
    assert not any(
        isinstance(op, EditSettings)
        for op in shortened(added, next(iter(edits(estate, guid, name="Shop"))))
    )
