"""Operations on policies as plain values, for scripts: what of which object, from what to what.
Spans in seconds.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, NamedTuple
from uuid import UUID

from hornfels.core.drafts.operations import (
    AddPolicy,
    EditSettings,
    GuardPolicy,
    LinkPolicy,
    Operation,
    RemovePolicy,
    RenamePolicy,
    SetAddition,
    SetPrecedence,
    SetTerms,
    UnlinkPolicy,
)
from hornfels.core.drafts.written_additions import addition_written
from hornfels.core.policy.addition import Addition
from hornfels.core.policy.plain import plain
from hornfels.core.policy.term_lists import TermList
from hornfels.core.values.time import seconds

DOMAIN_POLICY = "domain policy"


class Plain(NamedTuple):
    """``object`` is a policy's name before the operations, ``setting`` the key of what is changed,
    None where it is the policy as a whole.
    """

    object: str
    setting: str | None
    before: Any
    after: Any


def in_plain(op: Operation, names: Mapping[UUID, str]) -> Plain:
    """An operation that leads from one estate's policies to another's (`differences`); ``names``
    are the policies' before. Raises ValueError for one of another kind.
    """
    match op:
        case AddPolicy():
            return Plain(op.name, None, None, _whole(op))
        case RemovePolicy():
            return Plain(op.name, None, _whole(op), None)
        case EditSettings(changes=changes) if len(changes) == 1:
            (key, change), *_ = changes.items()
            name = DOMAIN_POLICY if op.policy == "domain" else names[op.policy]
            return Plain(name, key, plain(key, change.before), plain(key, change.after))
        case RenamePolicy():
            return Plain(names[op.policy], "name", op.before, op.after)
        case SetPrecedence():
            return Plain(names[op.policy], "precedence", op.before, op.after)
        case GuardPolicy():
            return Plain(names[op.policy], "guarded", op.before, op.after)
        case SetAddition():
            name = DOMAIN_POLICY if op.policy == "domain" else names[op.policy]
            return Plain(name, "addition", _addition(op.before), _addition(op.after))
        case SetTerms():
            return Plain(f"blocked terms {op.list}", "terms", *map(_count, (op.before, op.after)))
        case LinkPolicy():
            return Plain(names[op.policy], "applies_to", None, op.target.dn)
        case UnlinkPolicy():
            return Plain(names[op.policy], "applies_to", op.target.dn, None)
    raise ValueError(f"{op.kind} is not about a policy's own values")


def _addition(addition: Addition | None) -> dict[str, Any] | None:
    written = addition_written(addition)
    if written is None:
        return None
    bands = (
        {"length": band["length"], "lifetime": seconds(band["lifetime"])}
        for band in written["bands"]
    )
    return {**written, "bands": list(bands)}


def _count(terms: TermList | None) -> int | None:
    return terms.count if terms else None


def _whole(op: AddPolicy | RemovePolicy) -> dict[str, Any]:
    return {
        "precedence": op.precedence,
        "guarded": op.guarded,
        **({"addition": _addition(op.addition)} if op.addition else {}),
        "applies_to": [target.dn for target in op.links],
        **op.settings.plain(),
    }
