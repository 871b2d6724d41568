"""A draft written as shortly as it can be: what is changed again is changed once, what is taken
back is left out.

The law: operations folded one by one do the same to an estate as the operations themselves, and fit
at every step. A new operation moves back past those that it has nothing to do with, and becomes one
with the first that it changes further. Names are what most often holds it where it is: one that
another operation frees or takes cannot be taken or freed before it.
"""

from __future__ import annotations

from collections.abc import Hashable, Sequence
from dataclasses import dataclass
from typing import Any, assert_never
from uuid import UUID

from hornfels.core.drafts.operations import (
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
from hornfels.core.policy.catalogue import BY_KEY, SettingKey, TemplateKey
from hornfels.core.policy.model import PolicyRef
from hornfels.core.values.dn import fold as fold_case
from hornfels.core.values.dn import loose_key, name_key


def shortened(
    operations: Operations, new: Operation, unfit: Sequence[Operation] = ()
) -> Operations:
    """A draft with one more operation. Those of it that are `unfit` do nothing to the estate, so
    nothing is made one with them.
    """
    if isinstance(new, Renumber) and all(n.before == n.after for n in new.numbers):
        return operations
    mine = _touched(new)
    for at in range(len(operations) - 1, -1, -1):
        old = operations[at]
        # Most of a large draft is about other policies: that takes no closer look.
        if (
            mine.policy is not None
            and isinstance(old, _OF_ONE_POLICY)
            and old.policy != mine.policy
        ):
            continue
        fits = not any(old is one for one in unfit)
        before, after = operations[:at], operations[at + 1 :]
        joined = _joined(old, new) if fits else None
        if joined is not None:
            kept = shortened(before, joined[0], unfit) if joined else before
            if not mine.names:
                return (*kept, *after)
            # A name that is no longer taken on the way may have kept others apart.
            for op in after:
                kept = shortened(kept, op, unfit)
            return kept
        if (
            fits
            and isinstance(old, Renumber)
            and isinstance(new, RemovePolicy)
            and _numbers(old, new.policy)
        ):
            removed, others = _before_numbering(old, new)
            return (*shortened(before, removed, unfit), *others, *after)
        if not _apart(_touched(old), mine):
            break
    return (*operations, new)


_OF_ONE_POLICY = (
    SetPrecedence,
    EditSettings,
    GuardPolicy,
    SetAddition,
    LinkPolicy,
    UnlinkPolicy,
)
"""What changes one policy and takes or frees no name: all apart from what is done to another
policy.
"""


@dataclass(frozen=True, slots=True)
class _Touched:
    """What an operation has to do with: worked out once, since it is compared with every other."""

    names: set[str]
    things: set[Hashable]
    whole: PolicyRef | None
    """The policy that is added or removed as a whole."""
    policy: PolicyRef | None
    counts: bool
    """Whether it changes which policies there are, or their numbers."""
    numbers: bool
    """Whether it knows all policies and their numbers."""
    direct: set[SettingKey]
    """The settings of the domain policy that are edited on the domain object itself."""
    written: set[TemplateKey]
    """The settings of the domain policy that its sources may write after it."""


def _touched(op: Operation) -> _Touched:
    whole = isinstance(op, AddPolicy | RemovePolicy)
    numbers = isinstance(op, Renumber)
    direct = set(op.changes) if isinstance(op, EditSettings) and op.policy == "domain" else set()
    written: set[TemplateKey] = set()
    if isinstance(op, EditSource):
        written = set(op.changes)
    elif isinstance(op, OrderSources | SwitchSource):
        written = set(BY_KEY)
    policy = _policy(op)
    counts = whole or numbers or isinstance(op, SetPrecedence)
    return _Touched(
        _names(op), _things(op), policy if whole else None, policy, counts, numbers, direct, written
    )


def _apart(one: _Touched, other: _Touched) -> bool:
    """Whether two operations do the same in either order."""
    if one.names & other.names or one.things & other.things:
        return False
    if one.policy == other.policy and (one.whole or other.whole):
        return False
    if one.direct & other.written or other.direct & one.written:
        return False
    return not (one.counts and other.counts and (one.numbers or other.numbers))


def _policy(op: Operation) -> PolicyRef | None:
    return getattr(op, "policy", None)


def _names(op: Operation) -> set[str]:
    """The names of policies that an operation takes or frees."""
    match op:
        case AddPolicy() | RemovePolicy():
            return {name_key(op.name)}
        case RenamePolicy():
            return {name_key(op.before), name_key(op.after)}
        case (
            SetPrecedence()
            | GuardPolicy()
            | SetAddition()
            | SetTerms()
            | Renumber()
            | EditSettings()
            | LinkPolicy()
            | UnlinkPolicy()
            | EditSource()
            | OrderSources()
            | SwitchSource()
            | JoinGroup()
            | LeaveGroup()
            | SetFlag()
        ):
            return set()
        case _:
            assert_never(op)


def _things(op: Operation) -> set[Hashable]:
    """What else an operation changes, one entry a thing."""
    match op:
        case AddPolicy() | RemovePolicy() | Renumber():
            return set()
        case RenamePolicy():
            return {(op.policy, "name")}
        case SetPrecedence():
            return {(op.policy, "precedence")}
        case GuardPolicy():
            return {(op.policy, "guarded")}
        case SetAddition():
            return {(op.policy, "addition")}
        case SetTerms():
            return {("terms", op.list)}
        case EditSettings():
            return {(op.policy, "setting", key) for key in op.changes}
        case LinkPolicy() | UnlinkPolicy():
            return {(op.policy, "link", loose_key(op.target.dn))}
        case EditSource():
            return {(loose_key(op.gpo), key) for key in op.changes}
        case OrderSources():
            return {"order of sources"}
        case SwitchSource():
            return {(loose_key(op.gpo), op.what)}
        case JoinGroup() | LeaveGroup():
            return {(loose_key(op.member), loose_key(op.group))}
        case SetFlag():
            return {(fold_case(op.account), op.flag)}
        case _:
            assert_never(op)


def _joined(old: Operation, new: Operation) -> Operations | None:
    """Two operations, one right after the other, as one or as none; None if they cannot be one."""
    if isinstance(new, RemovePolicy) and _policy(old) == new.policy:
        return _removed(old, new)
    if isinstance(old, AddPolicy) and _policy(new) == old.policy:
        return _added(old, new)
    if _things(old) != _things(new):
        return None
    match old, new:
        case LinkPolicy() | UnlinkPolicy() | JoinGroup() | LeaveGroup(), _:
            return () if type(old.inverse) is type(new) else None
        case (RemovePolicy(), AddPolicy()) | (Renumber(), Renumber()):
            return () if old.inverse == new else None
        case EditSettings(), EditSettings():
            if any(old.changes[key].after != change.before for key, change in new.changes.items()):
                return None
            changes = {
                key: Change(before=old.changes[key].before, after=change.after)
                for key, change in new.changes.items()
            }
            changes = {
                key: change for key, change in changes.items() if change.before != change.after
            }
            return (EditSettings(policy=old.policy, changes=changes),) if changes else ()
        case EditSource(), EditSource():
            if any(old.changes[key].after != said.before for key, said in new.changes.items()):
                return None
            both = {
                key: Said(before=old.changes[key].before, after=said.after)
                for key, said in new.changes.items()
            }
            both = {key: said for key, said in both.items() if said.before != said.after}
            return (EditSource(gpo=old.gpo, changes=both),) if both else ()
    if isinstance(old, _OneValue) and isinstance(new, _OneValue) and old.after == new.before:
        return () if old.before == new.after else (old.model_copy(update={"after": new.after}),)
    return None


_OneValue = (
    RenamePolicy
    | SetPrecedence
    | GuardPolicy
    | SetAddition
    | SetTerms
    | OrderSources
    | SwitchSource
    | SetFlag
)
"""Operations that take one thing from one value to another."""


def _added(added: AddPolicy, new: Operation) -> Operations | None:
    """A change of a policy that the draft itself adds changes what is added."""
    changes: dict[str, Any]
    match new:
        case RenamePolicy():
            changes = {"name": new.after}
        case SetPrecedence():
            changes = {"precedence": new.after}
        case GuardPolicy():
            changes = {"guarded": new.after}
        case SetAddition():
            changes = {"addition": new.after}
        case EditSettings():
            after = {key: change.after for key, change in new.changes.items()}
            changes = {"settings": added.settings.changed(after)}
        case LinkPolicy():
            changes = {"links": (*added.links, new.target)}
        case UnlinkPolicy():
            changes = {"links": _without(added.links, new.target)}
        case (
            AddPolicy()
            | RemovePolicy()
            | Renumber()
            | SetTerms()
            | EditSource()
            | OrderSources()
            | SwitchSource()
            | JoinGroup()
            | LeaveGroup()
            | SetFlag()
        ):
            return None
        case _:
            assert_never(new)
    return (added.model_copy(update=changes),)


def _removed(old: Operation, new: RemovePolicy) -> Operations | None:
    """A policy that is removed is removed as it was before the draft changed it; one that the draft
    adds is not added.
    """
    changes: dict[str, Any]
    match old:
        case AddPolicy():
            return ()
        case RenamePolicy():
            changes = {"name": old.before}
        case SetPrecedence():
            changes = {"precedence": old.before}
        case GuardPolicy():
            changes = {"guarded": old.before}
        case SetAddition():
            changes = {"addition": old.before}
        case EditSettings():
            before = {key: change.before for key, change in old.changes.items()}
            changes = {"settings": new.settings.changed(before)}
        case LinkPolicy():
            changes = {"links": _without(new.links, old.target)}
        case UnlinkPolicy():
            changes = {"links": tuple(sorted((*new.links, old.target), key=lambda t: t.dn))}
        case (
            RemovePolicy()
            | Renumber()
            | SetTerms()
            | EditSource()
            | OrderSources()
            | SwitchSource()
            | JoinGroup()
            | LeaveGroup()
            | SetFlag()
        ):
            return None
        case _:
            assert_never(old)
    return (new.model_copy(update=changes),)


def _numbers(numbering: Renumber, policy: UUID) -> bool:
    return any(n.policy == policy for n in numbering.numbers)


def _before_numbering(
    numbering: Renumber, removed: RemovePolicy
) -> tuple[RemovePolicy, Operations]:
    """A policy removed before the others are numbered anew, and the numbering without it."""
    mine = next(n for n in numbering.numbers if n.policy == removed.policy)
    others = tuple(n for n in numbering.numbers if n is not mine)
    rest = (Renumber(numbers=others),) if any(n.before != n.after for n in others) else ()
    return removed.model_copy(update={"precedence": mine.before}), rest


def _without(links: tuple[Target, ...], gone: Target) -> tuple[Target, ...]:
    return tuple(target for target in links if loose_key(target.dn) != loose_key(gone.dn))
