"""Random drafts on random small domains: operations that fit, one after another."""

from __future__ import annotations

from collections import Counter
from dataclasses import replace
from uuid import UUID

from hypothesis import strategies as st

from hornfels.core.domain.estate import Control, Domain, Estate, GpoLink
from hornfels.core.drafts.applying import apply
from hornfels.core.drafts.edits import (
    addition_edits,
    edits,
    removal,
    renumber,
    target_of,
    term_edits,
)
from hornfels.core.drafts.operations import (
    AddPolicy,
    EditSource,
    JoinGroup,
    LeaveGroup,
    LinkPolicy,
    Operation,
    Operations,
    OrderSources,
    Said,
    SetFlag,
    SwitchSource,
    Target,
    UnlinkPolicy,
)
from hornfels.core.drafts.shortening import shortened
from hornfels.core.policy.addition import Addition, Band, Blocked, Run, Words
from hornfels.core.policy.catalogue import SettingKey, Template, Value
from hornfels.core.policy.model import DEFAULTS
from hornfels.core.policy.term_lists import list_of
from hornfels.core.values.dn import loose_key
from hornfels.core.values.time import DAY, MINUTE, NEVER
from worlds import ROOT, World, read


def picture(estate: Estate) -> object:
    """All that operations can change, comparable."""
    m = estate.memberships
    links = Counter(
        (estate.policies[ln.policy].guid, ln.kind, ln.target, ln.dn) for ln in estate.links
    )
    return (
        set(estate.policies),
        links,
        estate.domain.settings,
        estate.domain.addition,
        estate.domain.term_lists,
        estate.accounts.control.tolist(),
        Counter(zip(m.account.tolist(), m.account_group.tolist(), strict=True)),
        Counter(zip(m.child.tolist(), m.child_group.tolist(), strict=True)),
    )


NAMES = [
    "Policy 0",
    "policy  0",
    "POLICY 1",
    "Old",
    "old ",
    "New",
    "Late, night",
    '#1 "x"',
    "a\\b",
    "σοφός",
    "ΣΟΦΌΣ",
    "Straße",
    "STRASSE",
    "😀😀",
    "קיר \u200fא",
    "=",
    "😀" * 32,
    " begins and ends with a blank ",
    'a+b;c<d>"e"',
]
"""Names that are reused, that a directory takes for one, and that need escapes."""

ADDITIONS = [
    None,
    Addition(password=(Run(3), Blocked(("house",)))),
    Addition(password=(Run(2),), phrase=(Words(4, 3),), bands=(Band(8, 60 * DAY),)),
]
TERMS = [None, list_of(["orbit"]), list_of(["orbit", "dome"])]

GPOS = (f"CN={{A}},CN=Policies,CN=System,{ROOT}", f"CN={{B}},CN=Policies,CN=System,{ROOT}")


def with_sources(estate: Estate) -> Estate:
    """The estate with two group policy objects at the root, of which the first says nothing yet."""
    links = tuple(
        GpoLink(ROOT, gpo, f"Source {n}", n, False, False, False) for n, gpo in enumerate(GPOS, 1)
    )
    templates: dict[str, Template] = {
        loose_key(GPOS[0]): {},
        loose_key(GPOS[1]): {"min_length": 9, "history_length": 12},
    }
    return replace(estate, domain=replace(estate.domain, gpo_links=links, templates=templates))


def _source(draw: st.DrawFn, domain: Domain) -> list[Operation]:
    link = draw(st.sampled_from(domain.gpo_links)) if domain.gpo_links else None
    if link is None:
        return []
    match draw(st.sampled_from(["edit", "edit", "order", "switch"])):
        case "order":
            before = tuple(ln.gpo for ln in sorted(domain.gpo_links, key=lambda ln: ln.order))
            return [OrderSources(before=before, after=before[::-1])]
        case "switch":
            what = draw(st.sampled_from(["enforced", "disabled"]))
            return [
                SwitchSource(
                    gpo=link.gpo,
                    what=what,
                    before=getattr(link, what),
                    after=not getattr(link, what),
                )
            ]
    keys: list[SettingKey] = ["min_length", "history_length"]
    key = draw(st.sampled_from(keys))
    template = domain.templates.get(loose_key(link.gpo), {})
    said: tuple[Value, ...] = (template[key],) if key in template else ()
    says = draw(st.sampled_from([(), (9,), (11,)]))
    return (
        []
        if said == says
        else [EditSource(gpo=link.gpo, changes={key: Said(before=said, after=says)})]
    )


@st.composite
def operation(draw: st.DrawFn, estate: Estate, number: int) -> list[Operation]:
    """Some operations that fit the estate; a few kinds fit nothing here and give none."""
    settings = replace(
        DEFAULTS,
        min_length=draw(st.integers(0, 20)),
        max_age=draw(st.sampled_from([NEVER, 9 * DAY, 42 * DAY])),
        lockout_threshold=draw(st.integers(0, 6)),
        lockout_window=draw(st.integers(1, 30)) * MINUTE,
    )
    kind = draw(
        st.sampled_from(
            [
                "add",
                "remove",
                "edit",
                "edit",
                "domain",
                "link",
                "unlink",
                "renumber",
                "member",
                "flag",
                "rename",
                "rename",
                "source",
                "addition",
                "terms",
            ]
        )
    )
    target = draw(st.sampled_from([*estate.accounts.dn, *estate.groups.dn]))
    if kind == "add":
        return [
            AddPolicy(
                policy=UUID(int=1000 + number),
                name=draw(st.sampled_from(NAMES)),
                precedence=draw(st.integers(1, 5)),
                settings=settings,
                links=(Target(dn=target),),
                addition=draw(st.sampled_from(ADDITIONS)),
            )
        ]
    if kind == "terms":
        called = draw(st.sampled_from(["house", "House", "="]))
        return list(term_edits(estate, {called: draw(st.sampled_from(TERMS))}))
    if kind == "addition" and draw(st.booleans()):
        return list(addition_edits(estate, "domain", draw(st.sampled_from(ADDITIONS))))
    if kind == "domain":
        return list(edits(estate, "domain", settings=settings))
    if kind == "source":
        return _source(draw, estate.domain)
    if kind == "flag":
        row = draw(st.integers(0, len(estate.accounts) - 1))
        held = bool(int(estate.accounts.control[row]) & Control.NEVER_EXPIRES)
        return [
            SetFlag(
                account=estate.accounts.name[row], flag="NEVER_EXPIRES", before=held, after=not held
            )
        ]
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
        case "rename":
            return list(edits(estate, guid, name=draw(st.sampled_from(NAMES))))
        case "addition":
            return list(addition_edits(estate, guid, draw(st.sampled_from(ADDITIONS))))
        case "renumber":
            return [renumber(estate, draw(st.integers(1, 10)))]
        case "link":
            held = target in [t.dn for t in held_links]
            return [] if held else [LinkPolicy(policy=guid, target=Target(dn=target))]
        case "unlink":
            return (
                [UnlinkPolicy(policy=guid, target=draw(st.sampled_from(held_links)))]
                if held_links
                else []
            )
    name = draw(st.sampled_from([None, *NAMES]))
    precedence, guarded = (
        draw(st.sampled_from([None, 1, 2, 9])),
        draw(st.sampled_from([None, True, False])),
    )
    return list(
        edits(estate, guid, name=name, precedence=precedence, guarded=guarded, settings=settings)
    )


def _membership(draw: st.DrawFn, estate: Estate, member: str) -> list[Operation]:
    if not len(estate.groups):
        return []
    group = draw(st.integers(0, len(estate.groups) - 1))
    rows = estate.accounts.dn.find(member)
    above, row = (
        (estate.memberships.groups_of_account, rows[0])
        if len(rows)
        else (estate.memberships.groups_of_group, estate.groups.dn.find(member)[0])
    )
    kind = LeaveGroup if group in above.of(int(row)) else JoinGroup
    return [kind(member=member, group=estate.groups.dn[group])]


def drawn(
    data: st.DataObject, world: World, *, sources: bool = False
) -> tuple[Estate, Estate, Operations, Operations]:
    """An estate, the same after some operations, the operations one by one, and the same written
    shortly.
    """
    base = estate = with_sources(read(world).estate) if sources else read(world).estate
    raw: Operations = ()
    short: Operations = ()
    for number in range(data.draw(st.integers(1, 8))):
        for op in data.draw(operation(estate, number)):
            applied = apply(base, (*raw, op))
            # Names are drawn again and again, so some are taken.
            if not applied.conflicts:
                estate, raw, short = applied.estate, (*raw, op), shortened(short, op)
    return base, estate, raw, short
