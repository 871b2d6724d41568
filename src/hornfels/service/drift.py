"""Since when something is otherwise than we knew it."""

from __future__ import annotations

from collections.abc import Callable
from uuid import UUID

from hornfels.core.drafts.operations import (
    AddPolicy,
    EditSettings,
    GuardPolicy,
    LinkPolicy,
    Operation,
    OrderSources,
    RemovePolicy,
    RenamePolicy,
    SetPrecedence,
    SwitchSource,
    UnlinkPolicy,
)
from hornfels.core.policy.catalogue import BY_KEY, LINKS_ATTRIBUTE, PRECEDENCE_ATTRIBUTE
from hornfels.directory.origins import ANY, MADE, Origin, Origins
from hornfels.formats import gp_links
from hornfels.formats.descriptor import RULES_ATTRIBUTE


def since(known: Origins, domain: UUID | None) -> Callable[[Operation], Origin | None]:
    """When what an operation says was done in the directory, and where; None if that is not known.
    `domain` is the domain object.
    """

    def found(op: Operation) -> Origin | None:
        place, attribute = _place(op, domain)
        held = known.get(place, {}) if place else {}
        return held.get(attribute) or held.get(ANY)

    return found


def _place(op: Operation, domain: UUID | None) -> tuple[UUID | None, str]:
    """The object that an operation changed, and its attribute."""
    match op:
        case EditSettings(policy="domain"):
            return domain, BY_KEY[next(iter(op.changes))].domain_attribute
        case EditSettings():
            guid = op.policy if isinstance(op.policy, UUID) else None
            return guid, BY_KEY[next(iter(op.changes))].pso_attribute
        case OrderSources() | SwitchSource():
            return domain, gp_links.ATTRIBUTE
        case AddPolicy():
            return op.policy, MADE
        case RenamePolicy():
            return op.policy, "name"
        case SetPrecedence():
            return op.policy, PRECEDENCE_ATTRIBUTE
        case LinkPolicy() | UnlinkPolicy():
            return op.policy, LINKS_ATTRIBUTE
        case GuardPolicy():
            return op.policy, RULES_ATTRIBUTE
        case RemovePolicy():
            return None, ""
    return None, ""
