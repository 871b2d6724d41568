"""Findings that are accepted for a while."""

from __future__ import annotations

from datetime import UTC, date, datetime

from sqlalchemy import Engine
from sqlalchemy.orm import Session

from hornfels.refusals import ConflictError, FieldsError, NotFoundError
from hornfels.service.long_answers import findings_of
from hornfels.service.snapshots import Snapshot
from hornfels.store import acceptances


def accept(
    database: Session,
    engine: Engine,
    current: Snapshot,
    person: str,
    key: str,
    reason: str,
    until: date,
) -> None:
    """Accept a finding with a reason, until the end of a day."""
    refuse_past(until)
    found = findings_of(engine, current, person)
    if found is None:
        raise ConflictError(
            "The findings are still being looked for. Try again when they are there."
        )
    if all(f.key != key for f in found):
        raise NotFoundError("This finding is gone; it needs no accepting.")
    acceptances.accept(database, current.domain_id, key, reason, until, person)
    database.commit()


def refuse_past(until: date) -> None:
    """Raises `FieldsError` for a last day that is over."""
    if until < datetime.now(UTC).date():
        raise FieldsError(("until", "The last day lies in the past; choose today or later."))


def withdraw(database: Session, current: Snapshot, key: str) -> None:
    """A finding is no longer accepted."""
    acceptances.withdraw(database, current.domain_id, key)
    database.commit()
