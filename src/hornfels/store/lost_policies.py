"""Rules, guards and marks of policies that an import, a sync or a publish took away.
A policy that comes back has its additional rules, its guard and its mark again.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from datetime import timedelta
from uuid import UUID

from sqlalchemy import delete, func, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from hornfels.core.values.dn import name_key
from hornfels.refusals import ConflictError, NotFoundError
from hornfels.store.models import (
    AcceptedFindingRow,
    DomainRow,
    ExposureOrderRow,
    LostPolicyRow,
    MailingRow,
    PolicyRow,
)
from hornfels.store.trail import note

KEPT = timedelta(days=400)


def keep(session: Session, domain_id: int, gone: Iterable[PolicyRow]) -> None:
    """Keep what the rows of policies hold that no directory holds."""
    for row in gone:
        values = {
            "dn": row.dn,
            "name": row.name,
            "mark": row.mark,
            "guarded": row.guarded,
            "addition": row.addition,
            "lost_at": func.now(),
        }
        statement = insert(LostPolicyRow).values(domain_id=domain_id, guid=row.guid, **values)
        session.execute(
            statement.on_conflict_do_update(index_elements=["domain_id", "guid"], set_=values)
        )


def of_domain(session: Session, domain_id: int) -> dict[UUID, LostPolicyRow]:
    """Return what is kept of a domain's lost policies, by GUID."""
    rows = select(LostPolicyRow).where(LostPolicyRow.domain_id == domain_id)
    return {row.guid: row for row in session.scalars(rows.order_by(LostPolicyRow.lost_at))}


def take_back(session: Session, domain_id: int, guids: Iterable[UUID]) -> None:
    """Keep nothing more of policies that are there again."""
    wanted = list(guids)
    if wanted:
        session.execute(
            delete(LostPolicyRow).where(
                LostPolicyRow.domain_id == domain_id, LostPolicyRow.guid.in_(wanted)
            )
        )


def offered(session: Session, domain_id: int) -> list[tuple[LostPolicyRow, PolicyRow]]:
    """Return lost policies beside the policies that have come under their names with other GUIDs: a
    person says whether they are the same.
    """
    there = session.scalars(select(PolicyRow).where(PolicyRow.domain_id == domain_id)).all()
    by_name = {name_key(row.name): row for row in there}
    lost = of_domain(session, domain_id).values()
    pairs = ((row, by_name.get(name_key(row.name))) for row in lost)
    return [(row, other) for row, other in pairs if other is not None]


def restore(session: Session, domain: DomainRow, lost: UUID, policy: UUID) -> PolicyRow:
    """Give a policy of `domain`, held for writing, the additional rules and the guard of a lost
    policy of its name. Nothing that the policy has is replaced. Raises `NotFoundError`,
    `ConflictError`.
    """
    found = session.get(LostPolicyRow, (domain.id, lost), with_for_update=True)
    row = session.get(PolicyRow, (domain.id, policy), with_for_update=True)
    if found is None or row is None:
        raise NotFoundError("This policy, or what was kept of it, is no longer there. Reload.")
    if name_key(found.name) != name_key(row.name):
        raise ConflictError(f"“{found.name}” and “{row.name}” are two policies.")
    if found.addition is not None and row.addition is not None:
        raise ConflictError(
            f"“{row.name}” has additional rules already, which restoring would replace. Remove the "
            "additional rules in a draft and publish the draft, then restore."
        )
    addition, guarded = found.addition or row.addition, found.guarded or row.guarded
    note(
        session,
        "lost policy restored",
        row.name,
        domain=domain.id,
        before={"addition": row.addition, "guarded": row.guarded},
        after={"addition": addition, "guarded": guarded},
    )
    row.addition, row.guarded = addition, guarded
    rename(session, domain.id, {lost: policy})
    session.delete(found)
    domain.version += 1
    session.flush()
    return row


def rename(session: Session, domain_id: int, successors: Mapping[UUID, UUID]) -> None:
    """Let what names a policy by its GUID (accepted risks, notification days, orders for
    compromised passwords) name the policy by the GUID that the policy has now.
    """
    for old, new in successors.items():
        accepted = select(AcceptedFindingRow).where(
            AcceptedFindingRow.domain_id == domain_id, AcceptedFindingRow.key.contains(str(old))
        )
        for risk in session.scalars(accepted):
            risk.key = risk.key.replace(str(old), str(new))
        order = session.get(ExposureOrderRow, (domain_id, str(old)))
        if order and session.get(ExposureOrderRow, (domain_id, str(new))) is None:
            order.policy = str(new)
    mailing = session.get(MailingRow, domain_id, with_for_update=True)
    days = (mailing.settings.get("by_policy") or {}) if mailing else {}
    renamed = {_renamed(ref, successors): n for ref, n in days.items()}
    if mailing and renamed != days:
        mailing.settings = {**mailing.settings, "by_policy": renamed}
        mailing.version += 1


def _renamed(ref: str, successors: Mapping[UUID, UUID]) -> str:
    return ref if ref == "domain" else str(successors.get(UUID(ref), ref))


def sweep(session: Session) -> None:
    """Forget policies that were lost long ago."""
    session.execute(delete(LostPolicyRow).where(LostPolicyRow.lost_at < func.now() - KEPT))
