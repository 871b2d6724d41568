"""Editing stored policies. Every write names the version it saw; a newer one is a conflict, never overwritten in silence."""

from __future__ import annotations

import uuid
from dataclasses import asdict
from typing import Any
from uuid import UUID

from sqlalchemy import delete, func, select
from sqlalchemy.orm import Session

from hornfels.core.policy import Settings
from hornfels.store.models import DomainRow, LinkRow, PolicyRow


class ConflictError(Exception):
    """Somebody else changed the policy since it was read; ``current`` is how it stands now."""

    def __init__(self, current: PolicyRow) -> None:
        super().__init__(f"{current.name} was changed by {current.changed_by}")
        self.current = current


class RefusedError(Exception):
    """A change that cannot be made; the message says what to do instead. ``field`` names where it was asked for."""

    def __init__(self, message: str, field: str = "") -> None:
        super().__init__(message)
        self.field = field


def locked(session: Session, domain: DomainRow, guid: UUID, version: int) -> PolicyRow:
    """The policy for writing, if it still is the version that was seen. Raises LookupError or `ConflictError`."""
    policy = session.scalars(
        select(PolicyRow).where(PolicyRow.domain_id == domain.id, PolicyRow.guid == guid).with_for_update()
    ).one_or_none()
    if policy is None:
        raise LookupError("This policy no longer exists; somebody deleted it. Reload to see what is there now.")
    if policy.version != version:
        raise ConflictError(policy)
    return policy


def _touch(domain: DomainRow, policy: PolicyRow, user: str) -> None:
    policy.version += 1
    policy.changed_by = user
    domain.version += 1


def _check_name(session: Session, domain: DomainRow, name: str, but: UUID | None = None) -> None:
    taken = session.scalar(
        select(PolicyRow.guid).where(PolicyRow.domain_id == domain.id, func.lower(PolicyRow.name) == name.lower())
    )
    if taken is not None and taken != but:
        raise RefusedError(f"There is already a policy named {name}. Choose another name.", "name")


def create(session: Session, domain: DomainRow, name: str, precedence: int, settings: Settings, user: str) -> PolicyRow:
    """A new policy without links, guarded against deletion."""
    _check_name(session, domain, name)
    used = set(session.scalars(select(PolicyRow.mark).where(PolicyRow.domain_id == domain.id)))
    policy = PolicyRow(
        domain_id=domain.id,
        guid=uuid.uuid4(),
        dn=_dn(name, domain),
        name=name,
        precedence=precedence,
        settings=asdict(settings),
        mark=next(n for n in range(len(used) + 1) if n not in used),
        changed_by=user,
    )
    session.add(policy)
    domain.version += 1
    session.flush()
    return policy


def _dn(name: str, domain: DomainRow) -> str:
    escaped = "".join("\\" + c if c in ',+"\\<>;=#' else c for c in name)
    return f"CN={escaped},CN=Password Settings Container,CN=System,{domain.dn}"


def edit(session: Session, domain: DomainRow, policy: PolicyRow, changes: dict[str, Any], user: str) -> None:
    """Change name, precedence, guard or settings of a policy held by `locked`."""
    name = changes.get("name", policy.name)
    if name != policy.name:
        _check_name(session, domain, name, but=policy.guid)
        policy.name, policy.dn = name, _dn(name, domain)
    for column in ("precedence", "guarded", "settings"):
        if column in changes:
            setattr(policy, column, changes[column])
    _touch(domain, policy, user)
    session.flush()


def remove(session: Session, domain: DomainRow, policy: PolicyRow) -> None:
    """Delete a policy held by `locked`, with its links."""
    if policy.guarded:
        raise RefusedError(f"{policy.name} is guarded against deletion. Lift the guard first.", "guarded")
    session.execute(delete(LinkRow).where(LinkRow.domain_id == domain.id, LinkRow.guid == policy.guid))
    session.delete(policy)
    domain.version += 1
    session.flush()


def link(session: Session, domain: DomainRow, policy: PolicyRow, kind: str, target: int, dn: str, user: str) -> None:
    """Link a policy held by `locked` to an account or group."""
    there = session.scalar(
        select(LinkRow.id).where(LinkRow.domain_id == domain.id, LinkRow.guid == policy.guid, LinkRow.dn == dn)
    )  # fmt: skip
    if there is not None:
        raise RefusedError(f"{policy.name} is already linked to it.", "link")
    session.add(LinkRow(domain_id=domain.id, guid=policy.guid, kind=kind, target=target, dn=dn))
    _touch(domain, policy, user)
    session.flush()


def unlink(session: Session, domain: DomainRow, policy: PolicyRow, dn: str, user: str) -> None:
    """Take a link away from a policy held by `locked`."""
    gone = session.execute(
        delete(LinkRow).where(LinkRow.domain_id == domain.id, LinkRow.guid == policy.guid, LinkRow.dn == dn)
    )  # fmt: skip
    if not gone.rowcount:  # type: ignore[attr-defined]
        raise RefusedError(f"{policy.name} is not linked to it any more.", "link")
    _touch(domain, policy, user)
    session.flush()
