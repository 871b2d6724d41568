"""Answers to writes by their idempotency key, kept for a day."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import timedelta

from sqlalchemy import delete, func
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from hornfels.store.models import RepeatRow

KEPT_FOR = timedelta(days=1)
GIVEN_UP_AFTER = timedelta(minutes=15)
"""A write that is under way for longer was killed with its process."""


@dataclass(frozen=True, slots=True)
class Kept:
    """What was asked (a digest) and the answer: ``status`` is None while the write is under way,
    ``body`` is None where the answer is not kept.
    """

    asked: bytes
    status: int | None
    headers: dict[str, str]
    body: bytes | None


def begin(session: Session, key: bytes, asked: bytes) -> Kept | None:
    """Note that a write has begun; return what is known of an earlier one with this key."""
    values = insert(RepeatRow).values(key=key, asked=asked, headers={})
    anew = values.on_conflict_do_update(
        index_elements=[RepeatRow.key],
        set_={"asked": asked, "at": func.now()},
        where=RepeatRow.status.is_(None) & (RepeatRow.at < func.now() - GIVEN_UP_AFTER),
    )
    made = session.execute(anew.returning(RepeatRow.key)).first()
    if made:
        return None
    row = session.get_one(RepeatRow, key)
    return Kept(row.asked, row.status, row.headers, row.body)


def complete(
    session: Session, key: bytes, status: int, headers: dict[str, str], body: bytes | None
) -> None:
    row = session.get_one(RepeatRow, key)
    row.status, row.headers, row.body = status, headers, body


def forget(session: Session, key: bytes) -> None:
    session.execute(delete(RepeatRow).where(RepeatRow.key == key))


def sweep(session: Session) -> None:
    """Delete what is older than a day."""
    session.execute(delete(RepeatRow).where(RepeatRow.at < func.now() - KEPT_FOR))
