"""Random drafts on random small domains: operations that fit, one after another."""

from __future__ import annotations

from collections import Counter
from dataclasses import replace
from uuid import UUID

from hypothesis import strategies as st

from hornfels.core.draft import apply, edits, fold, removal, renumber, target_of
from hornfels.core.estate import Control, Estate
from hornfels.core.operations import (
    AddPolicy,
    JoinGroup,
    LeaveGroup,
    LinkPolicy,
    Operation,
    Operations,
    SetFlag,
    Target,
    UnlinkPolicy,
)
from hornfels.core.policy import DEFAULTS
from hornfels.core.time import DAY, MINUTE, NEVER
from worlds import World, account_dn, group_dn, read


def picture(estate: Estate) -> object:
    """All that operations can change, comparable."""
    m = estate.memberships
    links = Counter((estate.policies[ln.policy].guid, ln.kind, ln.target, ln.dn) for ln in estate.links)
    return (
        set(estate.policies), links, estate.domain.settings, estate.accounts.control.tolist(),
        Counter(zip(m.account.tolist(), m.account_group.tolist(), strict=True)),
        Counter(zip(m.child.tolist(), m.child_group.tolist(), strict=True)),
    )  # fmt: skip


@st.composite
def operation(draw: st.DrawFn, estate: Estate, number: int) -> list[Operation]:
    """Some operations that fit the estate; a few kinds fit nothing here and give none."""
    settings = replace(
        DEFAULTS, min_length=draw(st.integers(0, 20)), max_age=draw(st.sampled_from([NEVER, 9 * DAY, 42 * DAY])),
        lockout_threshold=draw(st.integers(0, 6)), lockout_window=draw(st.integers(1, 30)) * MINUTE,
    )  # fmt: skip
    kind = draw(st.sampled_from(["add", "remove", "edit", "edit", "domain", "link", "unlink", "renumber", "member", "flag"]))
    target = draw(st.sampled_from([*map(account_dn, range(len(estate.accounts))), *map(group_dn, range(len(estate.groups)))]))
    if kind == "add":
        return [AddPolicy(
            policy=UUID(int=1000 + number), name=f"New {number}", precedence=draw(st.integers(1, 5)),
            settings=vars(settings), links=(Target(dn=target),),
        )]  # fmt: skip
    if kind == "domain":
        return list(edits(estate, None, settings=settings))
    if kind == "flag":
        row = draw(st.integers(0, len(estate.accounts) - 1))
        held = bool(int(estate.accounts.control[row]) & Control.NEVER_EXPIRES)
        return [SetFlag(account=estate.accounts.name[row], flag="NEVER_EXPIRES", before=held, after=not held)]
    if kind == "member":
        return _membership(draw, estate, target)
    if not estate.policies:
        return []
    index = draw(st.integers(0, len(estate.policies) - 1))
    guid = estate.policies[index].guid
    held_links = [target_of(ln) for ln in estate.links if ln.policy == index]
    match kind:
        case "remove":
            return [removal(estate, guid)]
        case "renumber":
            return [renumber(estate, draw(st.integers(1, 10)))]
        case "link":
            held = target in [t.dn for t in held_links]
            return [] if held else [LinkPolicy(policy=guid, target=Target(dn=target))]
        case "unlink":
            return [UnlinkPolicy(policy=guid, target=draw(st.sampled_from(held_links)))] if held_links else []
    name = draw(st.sampled_from([None, f"Renamed {number}"]))
    precedence, guarded = draw(st.sampled_from([None, 1, 2, 9])), draw(st.sampled_from([None, True, False]))
    return list(edits(estate, guid, name=name, precedence=precedence, guarded=guarded, settings=settings))


def _membership(draw: st.DrawFn, estate: Estate, member: str) -> list[Operation]:
    if not len(estate.groups):
        return []
    group = draw(st.integers(0, len(estate.groups) - 1))
    rows = estate.accounts.dn.find(member)
    above, row = (
        (estate.memberships.groups_of_account, rows[0]) if len(rows)
        else (estate.memberships.groups_of_group, estate.groups.dn.find(member)[0])
    )  # fmt: skip
    kind = LeaveGroup if group in above.of(int(row)) else JoinGroup
    return [kind(member=member, group=estate.groups.dn[group])]


def drawn(data: st.DataObject, world: World) -> tuple[Estate, Estate, Operations, Operations]:
    """An estate, the same after some operations, the operations one by one, and the same written shortly."""
    base = estate = read(world).estate
    raw: Operations = ()
    short: Operations = ()
    for number in range(data.draw(st.integers(1, 6))):
        for op in data.draw(operation(estate, number)):
            applied = apply(estate, (op,))
            assert not applied.conflicts
            estate, raw, short = applied.estate, (*raw, op), fold(short, op)
    return base, estate, raw, short
