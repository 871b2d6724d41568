"""An estate as it would be: operations applied to it one by one, and those that no longer fit it."""

from __future__ import annotations

import zlib
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field, replace
from typing import Any, assert_never
from uuid import UUID

import numpy as np

from hornfels.core.dn import DnError, dn_key
from hornfels.core.estate import Control, Domain, Estate, GpoLink, Link, Memberships
from hornfels.core.operations import (
    AddPolicy,
    Change,
    EditSettings,
    EditSource,
    GuardPolicy,
    JoinGroup,
    LeaveGroup,
    LinkPolicy,
    Number,
    Operation,
    Operations,
    OrderSources,
    RemovePolicy,
    RenamePolicy,
    Renumber,
    Said,
    SetFlag,
    SetPrecedence,
    SwitchSource,
    Target,
    UnlinkPolicy,
    Value,
)
from hornfels.core.policy import Policy, Settings
from hornfels.core.sentences import value_text
from hornfels.core.settings import BY_KEY
from hornfels.core.sources import gpo_key, rewritten, root_links


@dataclass(frozen=True, slots=True)
class Conflict:
    """An operation that does not fit the estate and was left out.

    ``rebased`` is the operation as it would have to read to fit; None where only dropping it is left.
    """

    index: int
    reason: str
    rebased: Operation | None


@dataclass(frozen=True, slots=True)
class Applied:
    """The estate as it would be, and the operations that do not fit it."""

    estate: Estate
    conflicts: tuple[Conflict, ...]


class _Misfit(Exception):  # noqa: N818 - never leaves this module
    def __init__(self, reason: str, rebased: Operation | None = None) -> None:
        super().__init__(reason)
        self.reason = reason
        self.rebased = rebased


def apply(estate: Estate, operations: Operations) -> Applied:
    """The estate after the operations. Those that do not fit are left out and told of; the others still count."""
    book = _Book(estate)
    conflicts = []
    for index, operation in enumerate(operations):
        try:
            book.take(operation)
        except _Misfit as misfit:
            conflicts.append(Conflict(index, misfit.reason, misfit.rebased))
    return Applied(book.estate(), tuple(conflicts))


@dataclass
class _Book:
    """An estate being changed: policies and their links by GUID, and what is different about accounts and groups."""

    base: Estate
    domain: Domain = field(init=False)
    policies: dict[UUID, Policy] = field(init=False)
    links: dict[UUID, dict[str, Link]] = field(init=False)
    joined: dict[tuple[str, int, int], bool] = field(default_factory=dict)
    control: dict[int, int] = field(default_factory=dict)

    def __post_init__(self) -> None:
        self.domain = self.base.domain
        self.policies = {p.guid: p for p in self.base.policies}
        self.links = {guid: {} for guid in self.policies}
        for link in self.base.links:
            self.links[self.base.policies[link.policy].guid][_key(link.dn)] = link

    def take(self, op: Operation) -> None:
        match op:
            case AddPolicy():
                self._add(op)
            case RemovePolicy():
                self._remove(op)
            case RenamePolicy():
                self._swap(op, "name", op.before, op.after)
            case SetPrecedence():
                self._swap(op, "precedence", op.before, op.after)
            case GuardPolicy():
                self._swap(op, "guarded", op.before, op.after)
            case Renumber():
                self._renumber(op)
            case EditSettings():
                self._edit(op)
            case LinkPolicy():
                self._link(op)
            case UnlinkPolicy():
                if self._of(op.policy) and self.links[op.policy].pop(_key(op.target.dn), None) is None:
                    raise _Misfit(f"{self.policies[op.policy].name} is not linked to it any more.")
            case EditSource():
                self._edit_source(op)
            case OrderSources():
                self._order_sources(op)
            case SwitchSource():
                self._switch_source(op)
            case JoinGroup() | LeaveGroup():
                self._member(op)
            case SetFlag():
                self._flag(op)
            case _:
                assert_never(op)

    def _of(self, guid: UUID) -> Policy:
        policy = self.policies.get(guid)
        if policy is None:
            raise _Misfit("The policy no longer exists.")
        return policy

    def _name_is_free(self, name: str, but: UUID | None = None) -> None:
        if any(p.name.lower() == name.lower() and p.guid != but for p in self.policies.values()):
            raise _Misfit(f"There is already a policy named {name}. Choose another name.")

    def _add(self, op: AddPolicy) -> None:
        if op.policy in self.policies:
            raise _Misfit(f"{op.name} exists already.")
        self._name_is_free(op.name)
        dn = policy_dn(op.name, self.base.domain.dn)
        settings = Settings(**op.settings)  # type: ignore[arg-type]
        self.policies[op.policy] = Policy(op.policy, dn, op.name, op.precedence, settings, op.guarded)
        self.links[op.policy] = {_key(target.dn): _link(self.base, target) for target in op.links}

    def _remove(self, op: RemovePolicy) -> None:
        policy = self._of(op.policy)
        now = _whole(policy, self.links[op.policy].values())
        if _links_apart(now) != _links_apart(op):
            raise _Misfit(f"{policy.name} was changed meanwhile.", now)
        del self.policies[op.policy], self.links[op.policy]

    def _swap(self, op: RenamePolicy | SetPrecedence | GuardPolicy, column: str, before: Value | str, after: Value | str) -> None:
        policy = self._of(op.policy)
        now = getattr(policy, column)
        if now != before:
            told = {True: "guarded", False: "not guarded"}.get(now, now) if isinstance(now, bool) else now
            rebased = op.model_copy(update={"before": now}) if now != after else None
            raise _Misfit(f"{policy.name} was changed meanwhile: now {told}.", rebased)
        changes: dict[str, Any] = {column: after}
        if column == "name":
            self._name_is_free(str(after), op.policy)
            changes["dn"] = policy_dn(str(after), self.base.domain.dn)
        self.policies[op.policy] = replace(policy, **changes)

    def _renumber(self, op: Renumber) -> None:
        now = {guid: p.precedence for guid, p in self.policies.items()}
        if {n.policy: n.before for n in op.numbers} != now:
            raise _Misfit("Policies or their numbers have changed meanwhile; number them anew.", renumber(self.estate()))
        for n in op.numbers:
            self.policies[n.policy] = replace(self.policies[n.policy], precedence=n.after)

    def _edit(self, op: EditSettings) -> None:
        settings = self.domain.settings if op.policy is None else self._of(op.policy).settings
        name = "The domain policy" if op.policy is None else self.policies[op.policy].name
        moved = {key for key, change in op.changes.items() if getattr(settings, key) != change.before}
        if moved:
            changes = {
                key: Change(before=getattr(settings, key), after=change.after)
                for key, change in op.changes.items()
                if getattr(settings, key) != change.after
            }
            rebased = op.model_copy(update={"changes": changes}) if changes else None
            said = (f"{BY_KEY[key].label.lower()} {value_text(BY_KEY[key], getattr(settings, key))}" for key in sorted(moved))
            raise _Misfit(f"{name} was changed meanwhile: now {', '.join(said)}.", rebased)
        fresh = replace(settings, **{key: change.after for key, change in op.changes.items()})  # type: ignore[arg-type]
        if op.policy is None:
            self.domain = replace(self.domain, settings=fresh)
        else:
            self.policies[op.policy] = replace(self.policies[op.policy], settings=fresh)

    def _link(self, op: LinkPolicy) -> None:
        policy = self._of(op.policy)
        if _key(op.target.dn) in self.links[op.policy]:
            raise _Misfit(f"{policy.name} is linked to it already.")
        self.links[op.policy][_key(op.target.dn)] = _link(self.base, op.target)

    def _sources_become(self, after: Domain) -> None:
        self.domain = rewritten(self.domain, after)

    def _edit_source(self, op: EditSource) -> None:
        key = gpo_key(op.gpo)
        link = next((link for link in self.domain.gpo_links if gpo_key(link.gpo) == key), None)
        if link is None:
            raise _Misfit("The group policy object is not linked any more.")
        template = dict(self.domain.templates.get(key, {}))
        now = {k: (template[k],) if k in template else () for k in op.changes}
        if any(now[k] != said.before for k, said in op.changes.items()):
            changes = {k: Said(before=now[k], after=said.after) for k, said in op.changes.items() if now[k] != said.after}
            rebased = op.model_copy(update={"changes": changes}) if changes else None
            raise _Misfit(f"The template of {link.name} was changed meanwhile.", rebased)
        for k, said in op.changes.items():
            if said.after:
                template[k] = said.after[0]
            else:
                template.pop(k, None)
        self._sources_become(replace(self.domain, templates={**self.domain.templates, key: template}))

    def _order_sources(self, op: OrderSources) -> None:
        at_root = {gpo_key(link.gpo): link for link in root_links(self.domain)}
        now = tuple(link.gpo for link in sorted(at_root.values(), key=lambda link: link.order))
        if tuple(map(gpo_key, now)) != tuple(map(gpo_key, op.before)):
            same = {gpo_key(g) for g in now} == {gpo_key(g) for g in op.after}
            rebased = OrderSources(before=now, after=op.after) if same else None
            raise _Misfit("The links at the domain root were changed meanwhile.", rebased)
        order = {gpo_key(gpo): place for place, gpo in enumerate(op.after, 1)}
        self._relink(lambda link: replace(link, order=order[gpo_key(link.gpo)]))

    def _switch_source(self, op: SwitchSource) -> None:
        link = next((link for link in root_links(self.domain) if gpo_key(link.gpo) == gpo_key(op.gpo)), None)
        if link is None or getattr(link, op.what) != op.before:
            raise _Misfit("The link at the domain root was changed meanwhile.")
        switched: dict[str, Any] = {op.what: op.after}
        self._relink(lambda one: replace(one, **switched) if gpo_key(one.gpo) == gpo_key(op.gpo) else one)

    def _relink(self, change: Callable[[GpoLink], GpoLink]) -> None:
        """Give the links at the domain root other values; links elsewhere stay."""
        root = gpo_key(self.domain.dn)
        links = tuple(change(link) if gpo_key(link.container) == root else link for link in self.domain.gpo_links)
        self._sources_become(replace(self.domain, gpo_links=links))

    def _member(self, op: JoinGroup | LeaveGroup) -> None:
        member, group = (_link(self.base, Target(dn=dn)) for dn in (op.member, op.group))
        if group.kind != "group" or member.kind not in ("account", "group"):
            raise _Misfit("The account or group is not in this domain any more.")
        where = (member.kind, member.target, group.target)
        inside, join = self._inside(*where), isinstance(op, JoinGroup)
        if inside == join:
            raise _Misfit("It is in the group already." if join else "It is not in the group any more.")
        self.joined[where] = join

    def _inside(self, kind: str, member: int, group: int) -> bool:
        known = self.joined.get((kind, member, group))
        if known is not None:
            return known
        above = self.base.memberships.groups_of_account if kind == "account" else self.base.memberships.groups_of_group
        return bool(np.any(above.of(member) == group))

    def _flag(self, op: SetFlag) -> None:
        row = self.base.find_account(op.account)
        if row is None:
            raise _Misfit("The account is not in this domain any more.")
        bit = int(Control[op.flag])
        control = self.control.get(row, int(self.base.accounts.control[row]))
        if bool(control & bit) != op.before:
            raise _Misfit("The account has had this flag changed meanwhile.")
        self.control[row] = control | bit if op.after else control & ~bit

    def estate(self) -> Estate:
        policies = sorted(self.policies.values(), key=lambda p: p.rank)
        links = tuple(
            link._replace(policy=index) for index, policy in enumerate(policies) for link in self.links[policy.guid].values()
        )
        base = self.base
        changed = replace(base, domain=self.domain, policies=tuple(policies), links=links)
        if not self.joined and not self.control:
            return changed
        accounts = base.accounts
        if self.control:
            control = accounts.control.copy()
            control[list(self.control)] = list(self.control.values())
            accounts = replace(accounts, control=control)
        m = base.memberships
        account, account_group = self._edges("account", m.account, m.account_group)
        child, child_group = self._edges("group", m.child, m.child_group)
        memberships = Memberships(account, account_group, child, child_group, accounts, base.groups)
        return replace(changed, accounts=accounts, memberships=memberships)

    def _edges(self, kind: str, members: Any, containers: Any) -> tuple[Any, Any]:
        changes = [(member, group, join) for (k, member, group), join in self.joined.items() if k == kind]
        if not changes:
            return members, containers
        gone = np.zeros(len(members), dtype=np.bool_)
        for member, group, _ in changes:
            gone |= (members == member) & (containers == group)
        added = [(member, group) for member, group, join in changes if join]
        new = np.array(added, dtype=np.int32).reshape(-1, 2)
        return np.concatenate([members[~gone], new[:, 0]]), np.concatenate([containers[~gone], new[:, 1]])


def _key(dn: str) -> str:
    try:
        return dn_key(dn)
    except DnError:
        return dn


def policy_dn(name: str, domain_dn: str) -> str:
    """The name of a policy's object in the directory."""
    escaped = "".join("\\" + c if c in ',+"\\<>;=#' else c for c in name)
    return f"CN={escaped},CN=Password Settings Container,CN=System,{domain_dn}"


def find_target(estate: Estate, dn: str) -> Target | None:
    """The account or group of this name, None if the estate has none."""
    for kind, column in (("group", estate.groups.dn), ("account", estate.accounts.dn)):
        rows = column.find(dn)
        if len(rows):
            return Target(dn=column[int(rows[0])], kind=kind)
    return None


def _link(estate: Estate, target: Target) -> Link:
    """A target as a link of no policy yet."""
    for kind, column in (("group", estate.groups.dn), ("account", estate.accounts.dn)):
        rows = column.find(target.dn)
        if len(rows):
            return Link(-1, kind, int(rows[0]), column[int(rows[0])])  # type: ignore[arg-type]
    gone = target.kind in ("group", "account")
    return Link(-1, "outside" if gone else target.kind, -1, target.dn)


def _links_apart(whole: RemovePolicy) -> tuple[RemovePolicy, set[str]]:
    """For comparison: links are the same by their names."""
    return whole.model_copy(update={"links": ()}), {_key(t.dn) for t in whole.links}


def _whole(policy: Policy, links: Any) -> RemovePolicy:
    return RemovePolicy(
        policy=policy.guid, name=policy.name, precedence=policy.precedence, settings=dict(vars(policy.settings)),
        guarded=policy.guarded, links=tuple(sorted((target_of(link) for link in links), key=lambda t: t.dn)),
    )  # fmt: skip


def target_of(link: Link) -> Target:
    return Target(dn=link.dn, kind=link.kind)


def removal(estate: Estate, guid: UUID) -> RemovePolicy:
    """The operation that takes a policy away. Raises LookupError if there is none."""
    index = _index(estate, guid)
    return _whole(estate.policies[index], [link for link in estate.links if link.policy == index])


def _index(estate: Estate, guid: UUID) -> int:
    for index, policy in enumerate(estate.policies):
        if policy.guid == guid:
            return index
    raise LookupError("This policy no longer exists; somebody deleted it. Reload to see what is there now.")


def fingerprint(estate: Estate, guid: UUID) -> int:
    """A number that differs between two states of one policy: what a write names to say which state it was made for."""
    return zlib.crc32(removal(estate, guid).model_dump_json().encode())


def edits(
    estate: Estate, guid: UUID | None, *, name: str | None = None, precedence: int | None = None, guarded: bool | None = None,
    settings: Settings | None = None,
) -> Iterator[Operation]:  # fmt: skip
    """The operations that bring a policy (None: the domain policy) to these values; none for what it has already."""
    policy = None if guid is None else estate.policies[_index(estate, guid)]
    now = policy.settings if policy else estate.domain.settings
    if policy and name is not None and name != policy.name:
        yield RenamePolicy(policy=policy.guid, before=policy.name, after=name)
    if policy and precedence is not None and precedence != policy.precedence:
        yield SetPrecedence(policy=policy.guid, before=policy.precedence, after=precedence)
    if policy and guarded is not None and guarded != policy.guarded:
        yield GuardPolicy(policy=policy.guid, before=policy.guarded, after=guarded)
    # One operation a setting, so that each can be taken out by itself.
    for key, value in vars(settings or now).items():
        before = getattr(now, key)
        if value != before:
            yield EditSettings(policy=guid, changes={key: Change(before=before, after=value)})


def renumber(estate: Estate, step: int = 10) -> Renumber:
    """Numbers with gaps for every policy, in the order they are evaluated now: nobody's policy changes."""
    ordered = sorted(estate.policies, key=lambda p: p.rank)
    return Renumber(numbers=tuple(
        Number(policy=policy.guid, before=policy.precedence, after=place * step) for place, policy in enumerate(ordered, 1)
    ))  # fmt: skip


def differences(before: Estate, after: Estate) -> Operations:
    """The operations that lead from one estate's policies to another's: what changed between them."""
    old, new = ({p.guid: i for i, p in enumerate(e.policies)} for e in (before, after))
    found: list[Operation] = [removal(before, guid) for guid in old if guid not in new]
    for guid, index in new.items():
        links = {_key(link.dn): target_of(link) for link in after.links if link.policy == index}
        if guid not in old:
            found.append(removal(after, guid).inverse)
            continue
        policy = after.policies[index]
        found += edits(
            before, guid, name=policy.name, precedence=policy.precedence, guarded=policy.guarded, settings=policy.settings
        )
        held = {_key(link.dn): target_of(link) for link in before.links if link.policy == old[guid]}
        found += [UnlinkPolicy(policy=guid, target=target) for key, target in held.items() if key not in links]
        found += [LinkPolicy(policy=guid, target=target) for key, target in links.items() if key not in held]
    found += _source_differences(before.domain, after.domain)
    # What the sources write by themselves needs no operation of its own.
    reached = apply(before, tuple(found)).estate
    return (*found, *edits(reached, None, settings=after.domain.settings))


def _source_differences(before: Domain, after: Domain) -> Iterator[Operation]:
    old, new = ({gpo_key(link.gpo): link for link in root_links(domain)} for domain in (before, after))
    for key, link in {gpo_key(link.gpo): link for link in after.gpo_links}.items():
        said, says = before.templates.get(key, {}), after.templates.get(key, {})
        for setting in dict.fromkeys((*said, *says)):
            one, other = ((t[setting],) if setting in t else () for t in (said, says))
            if one != other:
                yield EditSource(gpo=link.gpo, changes={setting: Said(before=one, after=other)})
    if old.keys() != new.keys():
        return
    orders = [tuple(link.gpo for link in sorted(side.values(), key=lambda link: link.order)) for side in (old, new)]
    if list(map(gpo_key, orders[0])) != list(map(gpo_key, orders[1])):
        yield OrderSources(before=orders[0], after=orders[1])
    for key, link in new.items():
        for what in ("enforced", "disabled"):
            was, now = getattr(old[key], what), getattr(link, what)
            if was != now:
                yield SwitchSource(gpo=link.gpo, what=what, before=was, after=now)


def fold(operations: Operations, new: Operation) -> Operations:
    """A draft with one more operation, written as shortly as it can be: what is changed again is changed once,
    what is taken back is left out."""
    policy = getattr(new, "policy", None)
    added = next((n for n, op in enumerate(operations) if isinstance(op, AddPolicy) and op.policy == policy), None)
    if added is not None and policy is not None:
        return _fold_into_added(operations, added, new)
    if isinstance(new, RemovePolicy) and not any(isinstance(op, Renumber) for op in operations):
        mine = [op for op in operations if getattr(op, "policy", None) == policy]
        return (*(op for op in operations if op not in mine), _unedited(new, mine))
    for n in range(len(operations) - 1, -1, -1):
        old = operations[n]
        if isinstance(old, Renumber) and isinstance(new, SetPrecedence | Renumber):
            break
        if old == new.inverse:
            return (*operations[:n], *operations[n + 1 :])
        merged = _merged(old, new)
        if merged is not None:
            rest = (merged,) if _says_something(merged) else ()
            return (*operations[:n], *rest, *operations[n + 1 :])
    return (*operations, new)


def _unedited(image: RemovePolicy, edits: list[Operation]) -> RemovePolicy:
    """The policy as it was before these operations of the same draft."""
    book: dict[str, Any] = dict(image)
    for op in reversed(edits):
        match op:
            case RenamePolicy():
                book["name"] = op.before
            case SetPrecedence():
                book["precedence"] = op.before
            case GuardPolicy():
                book["guarded"] = op.before
            case EditSettings():
                book["settings"] = {**book["settings"], **{key: change.before for key, change in op.changes.items()}}
            case LinkPolicy():
                book["links"] = tuple(t for t in book["links"] if _key(t.dn) != _key(op.target.dn))
            case UnlinkPolicy():
                book["links"] = tuple(sorted((*book["links"], op.target), key=lambda t: t.dn))
            case _:
                pass
    return RemovePolicy(**book)


def _merged(old: Operation, new: Operation) -> Operation | None:
    """Two changes of the same thing as one, None if they are about different things."""
    if type(old) is not type(new):
        return None
    if isinstance(old, EditSettings) and isinstance(new, EditSettings):
        if old.policy != new.policy or old.changes.keys() != new.changes.keys():
            return None
        changes = {key: Change(before=change.before, after=new.changes[key].after) for key, change in old.changes.items()}
        return EditSettings(policy=old.policy, changes={k: c for k, c in changes.items() if c.before != c.after})
    if isinstance(old, EditSource) and isinstance(new, EditSource):
        if gpo_key(old.gpo) != gpo_key(new.gpo) or old.changes.keys() != new.changes.keys():
            return None
        both = {key: Said(before=said.before, after=new.changes[key].after) for key, said in old.changes.items()}
        return EditSource(gpo=old.gpo, changes={k: s for k, s in both.items() if s.before != s.after})
    if isinstance(old, OrderSources) and isinstance(new, OrderSources):
        return OrderSources(before=old.before, after=new.after)
    if isinstance(old, RenamePolicy | SetPrecedence | GuardPolicy) and isinstance(new, RenamePolicy | SetPrecedence | GuardPolicy):
        return old.model_copy(update={"after": new.after}) if old.policy == new.policy else None
    return None


def _says_something(op: Operation) -> bool:
    if isinstance(op, EditSettings | EditSource):
        return bool(op.changes)
    return getattr(op, "before", 0) != getattr(op, "after", 1)


def _fold_into_added(operations: Operations, at: int, new: Operation) -> Operations:
    """A change of a policy that the draft itself adds changes what is added."""
    added = operations[at]
    assert isinstance(added, AddPolicy)  # noqa: S101
    changes: dict[str, Any] = {}
    # A numbering in between knows the policy and its number: what is about either comes after it.
    numbered = any(isinstance(op, Renumber) for op in operations[at:])
    match new:
        case RemovePolicy() if not numbered:
            return (*operations[:at], *operations[at + 1 :])
        case RenamePolicy():
            changes["name"] = new.after
        case SetPrecedence() if not numbered:
            changes["precedence"] = new.after
        case GuardPolicy():
            changes["guarded"] = new.after
        case EditSettings():
            changes["settings"] = {**added.settings, **{key: change.after for key, change in new.changes.items()}}
        case LinkPolicy():
            changes["links"] = (*added.links, new.target)
        case UnlinkPolicy():
            changes["links"] = tuple(t for t in added.links if _key(t.dn) != _key(new.target.dn))
        case _:
            return (*operations, new)
    return (*operations[:at], added.model_copy(update=changes), *operations[at + 1 :])
