"""The operations that lead from one estate to another."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator, Mapping
from heapq import heappop, heappush
from uuid import UUID

from hornfels.core.domain.estate import Domain, Estate
from hornfels.core.domain.sources import root_links
from hornfels.core.drafts.applying import apply
from hornfels.core.drafts.edits import addition_edits, edits, removal, target_of, term_edits
from hornfels.core.drafts.operations import (
    EditSource,
    LinkPolicy,
    Operation,
    Operations,
    OrderSources,
    RenamePolicy,
    Said,
    SwitchSource,
    UnlinkPolicy,
)
from hornfels.core.values.dn import loose_key, name_key


def differences(before: Estate, after: Estate) -> Operations:
    """The operations that lead from one estate's policies to another's: what changed
    between them.
    """
    old, new = before.policy_numbers, after.policy_numbers
    lists = {name: after.domain.term_lists.get(name) for name in before.domain.term_lists}
    found: list[Operation] = [*term_edits(before, lists | dict(after.domain.term_lists))]
    found += [removal(before, guid) for guid in old if guid not in new]
    found += renames(before, {p.guid: p.name for p in after.policies})
    for guid, index in new.items():
        if guid not in old:
            continue
        policy = after.policies[index]
        links = {loose_key(link.dn): target_of(link) for link in after.links_by_policy[index]}
        found += edits(
            before,
            guid,
            precedence=policy.precedence,
            guarded=policy.guarded,
            settings=policy.settings,
        )
        found += addition_edits(before, guid, policy.addition)
        held = {loose_key(link.dn): target_of(link) for link in before.links_by_policy[old[guid]]}
        found += [
            UnlinkPolicy(policy=guid, target=target)
            for key, target in held.items()
            if key not in links
        ]
        found += [
            LinkPolicy(policy=guid, target=target)
            for key, target in links.items()
            if key not in held
        ]
    found += [removal(after, guid).inverse for guid in new if guid not in old]
    found += _source_differences(before.domain, after.domain)
    # What the sources write by themselves needs no operation of its own.
    reached = apply(before, tuple(found)).estate
    own = edits(reached, "domain", settings=after.domain.settings)
    return (*found, *own, *addition_edits(reached, "domain", after.domain.addition))


def renames(before: Estate, wanted: Mapping[UUID, str]) -> Iterator[RenamePolicy]:
    """The renames that give policies the names that are wanted, each to one that is free by then
    among them; names that go round in a ring take a third one.
    """
    names = {p.guid: p.name for p in before.policies if p.guid in wanted}
    waiting = [guid for guid, name in names.items() if wanted[guid] != name]
    place = {guid: number for number, guid in enumerate(waiting)}
    keys = {guid: name_key(wanted[guid]) for guid in waiting}
    holders: dict[str, set[UUID]] = defaultdict(set)
    for guid, name in names.items():
        holders[name_key(name)].add(guid)
    wanting: dict[str, list[UUID]] = defaultdict(list)
    for guid in waiting:
        wanting[keys[guid]].append(guid)
    chosen = set(wanted.values())
    ready = [place[guid] for guid in waiting if holders[keys[guid]] <= {guid}]
    left, first = set(waiting), 0
    while left:
        if ready:
            guid = waiting[heappop(ready)]
            if guid not in left or not holders[keys[guid]] <= {guid}:
                continue
            to = wanted[guid]
            left.remove(guid)
        else:
            # The names go round: the first one takes a third name.
            while waiting[first] not in left:
                first += 1
            guid = waiting[first]
            to = next(
                name
                for name in (f"~{n}" for n in range(len(names) + len(wanted) + 1))
                if name not in chosen and not holders[name_key(name)]
            )
        yield RenamePolicy(policy=guid, before=names[guid], after=to)
        was = name_key(names[guid])
        holders[was].discard(guid)
        holders[name_key(to)].add(guid)
        names[guid] = to
        for other in wanting[was]:
            if other in left and holders[was] <= {other}:
                heappush(ready, place[other])


def _source_differences(before: Domain, after: Domain) -> Iterator[Operation]:
    old, new = (
        {loose_key(link.gpo): link for link in root_links(domain)} for domain in (before, after)
    )
    for key, link in {loose_key(link.gpo): link for link in after.gpo_links}.items():
        said, says = before.templates.get(key, {}), after.templates.get(key, {})
        for setting in dict.fromkeys((*said, *says)):
            one, other = ((t[setting],) if setting in t else () for t in (said, says))
            if one != other:
                yield EditSource(gpo=link.gpo, changes={setting: Said(before=one, after=other)})
    if old.keys() != new.keys():
        return
    orders = [
        tuple(link.gpo for link in sorted(side.values(), key=lambda link: link.order))
        for side in (old, new)
    ]
    if list(map(loose_key, orders[0])) != list(map(loose_key, orders[1])):
        yield OrderSources(before=orders[0], after=orders[1])
    for key, link in new.items():
        for what in ("enforced", "disabled"):
            was, now = getattr(old[key], what), getattr(link, what)
            if was != now:
                yield SwitchSource(gpo=link.gpo, what=what, before=was, after=now)
