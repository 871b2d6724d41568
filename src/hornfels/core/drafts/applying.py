"""An estate as it would be: operations applied to it one by one, and those that no longer
fit it.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field, replace
from typing import Any, assert_never
from uuid import UUID

import numpy as np

from hornfels.core.domain.estate import Control, Domain, Estate, GpoLink, Link, Memberships
from hornfels.core.domain.sources import answers, rewritten, root_links
from hornfels.core.drafts.edits import link_to, links_apart, policy_dn, renumber, whole
from hornfels.core.drafts.operations import (
    KEPT_HERE,
    AddPolicy,
    Change,
    EditSettings,
    EditSource,
    GuardPolicy,
    JoinGroup,
    LeaveGroup,
    LinkPolicy,
    Operation,
    Operations,
    OrderSources,
    RemovePolicy,
    RenamePolicy,
    Renumber,
    Said,
    SetAddition,
    SetFlag,
    SetPrecedence,
    SetTerms,
    SwitchSource,
    Target,
    UnlinkPolicy,
)
from hornfels.core.drafts.sentences import value_text
from hornfels.core.drafts.shortening import shortened
from hornfels.core.policy.addition import Addition
from hornfels.core.policy.catalogue import BY_KEY, SettingKey, Value
from hornfels.core.policy.model import Policy, PolicyRef
from hornfels.core.policy.term_lists import TermList
from hornfels.core.values.dn import first_value, loose_key, name_key


@dataclass(frozen=True, slots=True)
class Conflict:
    """An operation that does not fit the estate and was left out.

    ``rebased`` is what would have to stand in its place to fit; None where only dropping it is
    left. ``already`` where the estate is as the draft wants it, so that nothing is left to do.
    """

    index: int
    reason: str
    rebased: Operations | None
    already: bool = False


@dataclass(frozen=True, slots=True)
class Applied:
    """The estate as it would be, and the operations that do not fit it.

    ``alias`` leads from a policy that the draft adds to the one that is there already, just as the
    draft wants it.
    """

    estate: Estate
    conflicts: tuple[Conflict, ...]
    alias: Mapping[UUID, UUID] = field(default_factory=dict)


class _Misfit(Exception):  # noqa: N818 - never leaves this module
    def __init__(self, reason: str, *rebased: Operation | None, already: bool = False) -> None:
        super().__init__(reason)
        self.reason = reason
        self.rebased = tuple(op for op in rebased if op) or None
        self.already = already


def apply(estate: Estate, operations: Operations) -> Applied:
    """The estate after the operations. Those that do not fit are left out and told of; the others
    still count.
    """
    book = _Book(estate, _wanted(operations))
    conflicts = []
    for index, operation in enumerate(operations):
        try:
            book.take(operation)
        except _Misfit as misfit:
            conflicts.append(Conflict(index, misfit.reason, misfit.rebased, misfit.already))
    return Applied(book.estate(), tuple(conflicts), book.alias)


class UnfitError(Exception):
    """An operation that does not fit the draft it was to be added to; the message says why."""

    def __init__(self, operation: Operation, reason: str) -> None:
        super().__init__(reason)
        self.operation = operation


@dataclass(frozen=True, slots=True)
class Extended:
    """A draft's operations with more, and the estate as they make it, None where that has to be
    found out by `apply`.
    """

    operations: Operations
    estate: Estate | None


_ABOUT_SOURCES = (EditSource, OrderSources, SwitchSource)
"""What they do to the domain policy depends on how the sources were before the draft, not on the
step before.
"""


def extended(
    estate: Estate,
    operations: Operations,
    make: Callable[[Estate], Iterable[Operation]],
    so_far: Estate | None = None,
) -> Extended:
    """A draft with what `make` makes of the estate as the draft has it, written shortly.

    `so_far` is that estate where it is known and every operation of the draft fits: a long draft
    need not be gone through again. Raises `UnfitError` for the first new operation that does not
    fit.
    """
    if any(isinstance(op, _ABOUT_SOURCES) for op in operations):
        so_far = None
    book = _Book(so_far or estate, _wanted(operations))
    unfit = []
    for operation in operations if so_far is None else ():
        try:
            book.take(operation)
        except _Misfit:
            unfit.append(operation)
    new = tuple(make(so_far or book.estate()))
    known = not unfit and (so_far is None or not any(isinstance(op, _ABOUT_SOURCES) for op in new))
    book.wanted.update(_wanted(new))
    for operation in new:
        try:
            book.take(operation)
        except _Misfit as misfit:
            raise UnfitError(operation, misfit.reason) from None
        operations = shortened(operations, operation, unfit)
    return Extended(operations, book.estate() if known else None)


def left_to_do(operations: Operations, conflicts: tuple[Conflict, ...]) -> Operations:
    """The operations without those whose effect is there already, and with what is left where a
    directory has all of one that it can hold.
    """
    instead: dict[int, Operations] = {c.index: () for c in conflicts if c.already}
    for c in conflicts:
        if c.rebased and all(isinstance(op, KEPT_HERE) for op in c.rebased):
            instead[c.index] = c.rebased
    kept = (instead.get(index, (op,)) for index, op in enumerate(operations))
    return tuple(op for some in kept for op in some)


def all_there(estate: Estate, applied: Applied) -> bool:
    """Whether all that a draft wants of `estate` is so already, and something of it was found
    there.
    """
    after = applied.estate
    return (
        bool(applied.conflicts)
        and all(c.already for c in applied.conflicts)
        and (estate.domain, estate.policies, set(estate.links))
        == (after.domain, after.policies, set(after.links))
        and estate.memberships is after.memberships
        and estate.accounts is after.accounts
    )


def shown_by(estate: Estate, stood: Estate, operations: Operations) -> bool:
    """Return whether `estate`, which a directory shows, has the changes of published `operations`.
    A change that a later publication overrides does not count; `stood` has the policies after the
    latest publication. Neither do changes that Hornfels alone holds.
    """
    wanted = tuple(
        operations[c.index]
        for c in apply(stood, operations).conflicts
        if c.already and not isinstance(operations[c.index], KEPT_HERE)
    )
    done = {c.index for c in apply(estate, wanted).conflicts if c.already}
    return len(done) == len(wanted)


_Wish = Value | str | Addition | TermList


def _wanted(operations: Operations) -> dict[tuple[PolicyRef, str], _Wish]:
    """What the operations make of each thing in the end, whatever they make of it on the way.

    By policy, and “exists”, the name of a column, the key of a setting, or the `loose_key` of an
    object it is linked to or not; lists of blocked terms with the domain policy.
    """
    found: dict[tuple[PolicyRef, str], _Wish] = {}
    for op in operations:
        match op:
            case AddPolicy() | RemovePolicy():
                found[op.policy, "exists"] = isinstance(op, AddPolicy)
            case RenamePolicy():
                found[op.policy, "name"] = op.after
            case SetPrecedence():
                found[op.policy, "precedence"] = op.after
            case GuardPolicy():
                found[op.policy, "guarded"] = op.after
            case SetAddition():
                found[op.policy, "addition"] = op.after
            case SetTerms():
                found["domain", f"terms {op.list}"] = op.after
            case Renumber():
                found.update({(n.policy, "precedence"): n.after for n in op.numbers})
            case EditSettings():
                found.update({(op.policy, key): change.after for key, change in op.changes.items()})
            case LinkPolicy() | UnlinkPolicy():
                found[op.policy, loose_key(op.target.dn)] = isinstance(op, LinkPolicy)
            case EditSource() | OrderSources() | SwitchSource():
                pass  # told apart by what the sources make of the domain policy
            case JoinGroup() | LeaveGroup() | SetFlag():
                pass  # nothing of a policy
            case _:
                assert_never(op)
    return found


@dataclass
class _Book:
    """An estate being changed: policies and their links by GUID, and what is different about
    accounts and groups.

    ``alias`` is as in `Applied`. ``heard`` is what the sources said of each setting when the domain
    object was last written. ``named`` has the policies by `name_key`, in their order.
    """

    base: Estate
    wanted: dict[tuple[PolicyRef, str], _Wish]
    domain: Domain = field(init=False)
    heard: dict[SettingKey, tuple[Value, ...]] = field(init=False)
    policies: dict[UUID, Policy] = field(init=False)
    links: dict[UUID, dict[str, Link]] = field(init=False)
    named: dict[str, dict[UUID, None]] = field(init=False)
    alias: dict[UUID, UUID] = field(default_factory=dict)
    joined: dict[tuple[str, int, int], bool] = field(default_factory=dict)
    control: dict[int, int] = field(default_factory=dict)

    def __post_init__(self) -> None:
        self.domain = self.base.domain
        self.heard = dict(answers(self.domain))
        self.policies = {p.guid: p for p in self.base.policies}
        self.named = {}
        for policy in self.base.policies:
            self._take_name(policy)
        self.links = {guid: {} for guid in self.policies}
        for link in self.base.links:
            self.links[self.base.policies[link.policy].guid][loose_key(link.dn)] = link

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
            case SetAddition():
                self._set_addition(op)
            case SetTerms():
                self._set_terms(op)
            case Renumber():
                self._renumber(op)
            case EditSettings():
                self._edit(op)
            case LinkPolicy():
                self._link(op)
            case UnlinkPolicy():
                self._unlink(op)
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

    def _find(self, guid: UUID) -> Policy | None:
        return self.policies.get(self.alias.get(guid, guid))

    def _of(self, guid: UUID) -> Policy:
        policy = self._find(guid)
        if policy is None:
            raise _Misfit("The policy no longer exists.", already=self._goes(guid))
        return policy

    def _goes(self, guid: UUID) -> bool:
        """Whether the draft removes a policy in the end, so that nothing else it does to it
        matters.
        """
        return self.wanted.get((guid, "exists")) is False

    def _named(self, name: str, but: UUID | None = None) -> Policy | None:
        """The policy that a directory would take for one of this name."""
        holders = self.named.get(name_key(name), {})
        return next((self.policies[guid] for guid in holders if guid != but), None)

    def _take_name(self, policy: Policy) -> None:
        self.named.setdefault(name_key(policy.name), {})[policy.guid] = None

    def _free_name(self, policy: Policy) -> None:
        del self.named[name_key(policy.name)][policy.guid]

    def _name_is_free(self, name: str, but: UUID | None = None) -> None:
        holder = self._named(name, but)
        if holder:
            same = (
                f" The directory takes “{name}” for the same name." if holder.name != name else ""
            )
            raise _Misfit(
                f"There is already a policy named {holder.name}.{same} Choose another name."
            )

    def _add(self, op: AddPolicy) -> None:
        there = self._find(op.policy)
        if there:
            as_wanted = self._is_as_wanted(op, there)
            left = self._left_of(op, there) if as_wanted else []
            raise _Misfit(f"{op.name} exists already.", *left, already=as_wanted and not left)
        name = str(self.wanted.get((op.policy, "name"), op.name))
        holder = self._named(name)
        if holder and self._goes(op.policy):
            raise _Misfit(
                f"There is already a policy named {holder.name}, and this one is removed again.",
                already=True,
            )
        if holder and self._is_as_wanted(op, holder):
            self.alias[op.policy] = holder.guid
            ours = self._left_of(op, holder)
            raise _Misfit(
                f"There is already a policy named {name}, just as it is here.",
                *ours,
                already=not ours,
            )
        self._name_is_free(op.name)
        dn = policy_dn(op.name, self.base.domain.dn)
        self.policies[op.policy] = Policy(
            op.policy, dn, op.name, op.precedence, op.settings, op.guarded, op.addition
        )
        self._take_name(self.policies[op.policy])
        self.links[op.policy] = {
            loose_key(target.dn): link_to(self.base, target) for target in op.links
        }

    def _left_of(self, op: AddPolicy, holder: Policy) -> list[Operation]:
        """What is still to be done to a policy that has come for the one added: a directory does
        not tell whether it is guarded, and holds no additions.
        """
        guarded = bool(self.wanted.get((op.policy, "guarded"), op.guarded))
        addition: Any = self.wanted.get((op.policy, "addition"), op.addition)
        left: list[Operation] = []
        if guarded != holder.guarded:
            left.append(GuardPolicy(policy=holder.guid, before=holder.guarded, after=guarded))
        if addition != holder.addition:
            left.append(SetAddition(policy=holder.guid, before=holder.addition, after=addition))
        return left

    def _is_as_wanted(self, op: AddPolicy, holder: Policy) -> bool:
        """Whether a policy is what an added one is in the end, as far as a directory tells (see
        `_left_of`).
        """

        def end(what: str, value: _Wish) -> _Wish:
            return self.wanted.get((op.policy, what), value)

        links = {loose_key(target.dn) for target in op.links}
        later = {
            what: linked
            for (policy, what), linked in self.wanted.items()
            if policy == op.policy and "=" in what
        }
        links = {key for key in links | later.keys() if later.get(key, True)}
        return (
            end("precedence", op.precedence) == holder.precedence
            and {key: end(key, value) for key, value in op.settings.values().items()}
            == holder.settings.values()
            and links == self.links[holder.guid].keys()
        )

    def _remove(self, op: RemovePolicy) -> None:
        policy = self._find(op.policy)
        if policy is None:
            raise _Misfit("The policy no longer exists.", already=True)
        now = whole(policy, self.links[policy.guid].values())
        if links_apart(now) != links_apart(op.model_copy(update={"policy": policy.guid})):
            raise _Misfit(f"{policy.name} was changed meanwhile.", now)
        self._free_name(policy)
        del self.policies[policy.guid], self.links[policy.guid]

    def _swap(
        self,
        op: RenamePolicy | SetPrecedence | GuardPolicy,
        column: str,
        before: Value | str,
        after: Value | str,
    ) -> None:
        policy = self._of(op.policy)
        now = getattr(policy, column)
        if now != before:
            told = (
                {True: "guarded", False: "not guarded"}.get(now, now)
                if isinstance(now, bool)
                else now
            )
            rebased = op.model_copy(update={"before": now}) if now != after else None
            already = now == self.wanted[op.policy, column]
            raise _Misfit(
                f"{policy.name} was changed meanwhile: now {told}.", rebased, already=already
            )
        changes: dict[str, Any] = {column: after}
        if column == "name":
            self._name_is_free(str(after), policy.guid)
            changes["dn"] = policy_dn(str(after), self.base.domain.dn)
        self.policies[policy.guid] = replace(policy, **changes)
        if column == "name":
            self._free_name(policy)
            self._take_name(self.policies[policy.guid])

    def _renumber(self, op: Renumber) -> None:
        now = {guid: p.precedence for guid, p in self.policies.items()}
        numbers = {self.alias.get(n.policy, n.policy): n for n in op.numbers}
        if {guid: n.before for guid, n in numbers.items()} != now:
            already = all(
                now[guid] == self.wanted[n.policy, "precedence"]
                if guid in now
                else self._goes(n.policy)
                for guid, n in numbers.items()
            )
            reason = "Policies or their numbers have changed meanwhile; number them anew."
            raise _Misfit(reason, renumber(self.estate()), already=already)
        for guid, n in numbers.items():
            self.policies[guid] = replace(self.policies[guid], precedence=n.after)

    def _edit(self, op: EditSettings) -> None:
        policy = None if op.policy == "domain" else self._of(op.policy)
        settings = policy.settings if policy else rewritten(self.domain, self.heard).settings
        name = policy.name if policy else "The domain policy"
        moved = {
            key for key, change in op.changes.items() if getattr(settings, key) != change.before
        }
        if moved:
            changes = {
                key: Change(before=getattr(settings, key), after=change.after)
                for key, change in op.changes.items()
                if getattr(settings, key) != change.after
            }
            rebased = op.model_copy(update={"changes": changes}) if changes else None
            said = (
                f"{BY_KEY[key].label.lower()} {value_text(BY_KEY[key], getattr(settings, key))}"
                for key in sorted(moved)
            )
            already = all(
                getattr(settings, key) == self.wanted[op.policy, key] for key in op.changes
            )
            raise _Misfit(
                f"{name} was changed meanwhile: now {', '.join(said)}.", rebased, already=already
            )
        changed = {key: change.after for key, change in op.changes.items()}
        if policy is None:
            # From here on a source has to say something else again to be written over this.
            said_now = answers(self.domain)
            self.heard.update({key: said_now[key] for key in op.changes})
            self.domain = replace(
                self.domain,
                settings=self.domain.settings.changed(
                    {key: change.after for key, change in op.changes.items()}
                ),
            )
        else:
            self.policies[policy.guid] = replace(policy, settings=settings.changed(changed))

    def _set_addition(self, op: SetAddition) -> None:
        policy = None if op.policy == "domain" else self._of(op.policy)
        now = policy.addition if policy else self.domain.addition
        if now != op.before:
            name = policy.name if policy else "the domain policy"
            rebased = op.model_copy(update={"before": now}) if now != op.after else None
            raise _Misfit(
                f"What {name} asks besides was changed meanwhile.",
                rebased,
                already=now == self.wanted[op.policy, "addition"],
            )
        if policy:
            self.policies[policy.guid] = replace(policy, addition=op.after)
        else:
            self.domain = replace(self.domain, addition=op.after)

    def _set_terms(self, op: SetTerms) -> None:
        now = self.domain.term_lists.get(op.list)
        if now != op.before:
            told = f"it has {now.count:,} terms now" if now else "it is gone"
            rebased = op.model_copy(update={"before": now}) if now != op.after else None
            raise _Misfit(
                f"The list “{op.list}” was changed meanwhile: {told}.",
                rebased,
                already=now == self.wanted["domain", f"terms {op.list}"],
            )
        lists = {**self.domain.term_lists, op.list: op.after}
        kept = {name: terms for name, terms in lists.items() if terms}
        self.domain = replace(self.domain, term_lists=kept)

    def _link(self, op: LinkPolicy) -> None:
        policy, key = self._of(op.policy), loose_key(op.target.dn)
        if key in self.links[policy.guid]:
            already = self.wanted[op.policy, key] is True
            raise _Misfit(f"{policy.name} is linked to it already.", already=already)
        self.links[policy.guid][key] = link_to(self.base, op.target)

    def _unlink(self, op: UnlinkPolicy) -> None:
        policy, key = self._of(op.policy), loose_key(op.target.dn)
        if self.links[policy.guid].pop(key, None) is None:
            already = self.wanted[op.policy, key] is False
            raise _Misfit(f"{policy.name} is not linked to it any more.", already=already)

    def _edit_source(self, op: EditSource) -> None:
        key = loose_key(op.gpo)
        link = next((link for link in self.domain.gpo_links if loose_key(link.gpo) == key), None)
        if link is None:
            raise _Misfit("The group policy object is not linked any more.")
        template = dict(self.domain.templates.get(key, {}))
        now = {k: (template[k],) if k in template else () for k in op.changes}
        if any(now[k] != said.before for k, said in op.changes.items()):
            changes = {
                k: Said(before=now[k], after=said.after)
                for k, said in op.changes.items()
                if now[k] != said.after
            }
            rebased = op.model_copy(update={"changes": changes}) if changes else None
            raise _Misfit(
                f"The template of {link.name} was changed meanwhile.", rebased, already=not changes
            )
        for k, said in op.changes.items():
            if said.after:
                template[k] = said.after[0]
            else:
                template.pop(k, None)
        self.domain = replace(self.domain, templates={**self.domain.templates, key: template})

    def _order_sources(self, op: OrderSources) -> None:
        at_root = {loose_key(link.gpo): link for link in root_links(self.domain)}
        now = tuple(link.gpo for link in sorted(at_root.values(), key=lambda link: link.order))
        keys = tuple(map(loose_key, now))
        if keys != tuple(map(loose_key, op.before)):
            same = set(keys) == {loose_key(g) for g in op.after}
            already = keys == tuple(map(loose_key, op.after))
            rebased = OrderSources(before=now, after=op.after) if same and not already else None
            raise _Misfit(
                "The links at the domain root were changed meanwhile.", rebased, already=already
            )
        order = {loose_key(gpo): place for place, gpo in enumerate(op.after, 1)}
        self._relink(lambda link: replace(link, order=order[loose_key(link.gpo)]))

    def _switch_source(self, op: SwitchSource) -> None:
        link = next(
            (link for link in root_links(self.domain) if loose_key(link.gpo) == loose_key(op.gpo)),
            None,
        )
        if link is None:
            raise _Misfit("The group policy object is not linked at the domain root any more.")
        if getattr(link, op.what) != op.before:
            raise _Misfit("The link at the domain root was changed meanwhile.", already=True)
        switched: dict[str, Any] = {op.what: op.after}
        self._relink(
            lambda one: replace(one, **switched) if loose_key(one.gpo) == loose_key(op.gpo) else one
        )

    def _relink(self, change: Callable[[GpoLink], GpoLink]) -> None:
        """Give the links at the domain root other values; links elsewhere stay."""
        root = loose_key(self.domain.dn)
        links = tuple(
            change(link) if loose_key(link.container) == root else link
            for link in self.domain.gpo_links
        )
        self.domain = replace(self.domain, gpo_links=links)

    def _member(self, op: JoinGroup | LeaveGroup) -> None:
        member, group = (link_to(self.base, Target(dn=dn)) for dn in (op.member, op.group))
        if group.kind == "account":
            raise _Misfit(
                f"“{first_value(op.group)}” is an account, and only a group can hold "
                "somebody. Choose a group."
            )
        for found, dn in ((group, op.group), (member, op.member)):
            if found.kind not in ("account", "group"):
                raise _Misfit(
                    f"There is no account or group “{dn}” in this domain. Choose one that is there."
                )
        where = (member.kind, member.target, group.target)
        inside, join = self._inside(*where), isinstance(op, JoinGroup)
        if inside == join:
            raise _Misfit(
                "It is in the group already." if join else "It is not in the group any more.",
                already=True,
            )
        self.joined[where] = join

    def _inside(self, kind: str, member: int, group: int) -> bool:
        known = self.joined.get((kind, member, group))
        if known is not None:
            return known
        above = (
            self.base.memberships.groups_of_account
            if kind == "account"
            else self.base.memberships.groups_of_group
        )
        return bool(np.any(above.of(member) == group))

    def _flag(self, op: SetFlag) -> None:
        row = self.base.find_account(op.account)
        if row is None:
            raise _Misfit(f"There is no account “{op.account}” in this domain any more.")
        bit = int(Control[op.flag])
        control = self.control.get(row, int(self.base.accounts.control[row]))
        if bool(control & bit) != op.before:
            raise _Misfit("The account has had this flag changed meanwhile.", already=True)
        self.control[row] = control | bit if op.after else control & ~bit

    def estate(self) -> Estate:
        policies = sorted(self.policies.values(), key=lambda p: p.rank)
        links = tuple(
            link._replace(policy=index)
            for index, policy in enumerate(policies)
            for link in self.links[policy.guid].values()
        )
        base = self.base
        changed = replace(
            base, domain=rewritten(self.domain, self.heard), policies=tuple(policies), links=links
        )
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
        changes = [
            (member, group, join) for (k, member, group), join in self.joined.items() if k == kind
        ]
        if not changes:
            return members, containers
        gone = np.zeros(len(members), dtype=np.bool_)
        for member, group, _ in changes:
            gone |= (members == member) & (containers == group)
        added = [(member, group) for member, group, join in changes if join]
        new = np.array(added, dtype=np.int32).reshape(-1, 2)
        return np.concatenate([members[~gone], new[:, 0]]), np.concatenate(
            [containers[~gone], new[:, 1]]
        )
