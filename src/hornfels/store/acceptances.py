"""Findings, and exceptions from recommendations, that somebody has accepted for a while."""

from __future__ import annotations

from datetime import date

from sqlalchemy import delete, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from hornfels.store.models import AcceptedFindingRow
from hornfels.store.trail import note


def accepted(session: Session, domain_id: int, today: date) -> dict[str, AcceptedFindingRow]:
    """What is accepted today, by its key."""
    rows = session.scalars(
        select(AcceptedFindingRow).where(
            AcceptedFindingRow.domain_id == domain_id, AcceptedFindingRow.until >= today
        )
    )
    return {row.key: row for row in rows}


def accept(
    session: Session,
    domain_id: int,
    key: str,
    reason: str,
    until: date,
    user: str,
    what: str = "finding",
) -> None:
    """Accept something until the end of a day, in place of an earlier acceptance."""
    told = {"reason": reason, "until": until.isoformat()}
    note(session, f"{what} accepted", key, domain=domain_id, **told)
    values = {"reason": reason, "until": until, "user_name": user}
    statement = insert(AcceptedFindingRow).values(domain_id=domain_id, key=key, **values)
    session.execute(
        statement.on_conflict_do_update(index_elements=["domain_id", "key"], set_=values)
    )


def withdraw(session: Session, domain_id: int, key: str, what: str = "finding") -> None:
    note(session, f"{what} no longer accepted", key, domain=domain_id)
    session.execute(
        delete(AcceptedFindingRow).where(
            AcceptedFindingRow.domain_id == domain_id, AcceptedFindingRow.key == key
        )
    )
