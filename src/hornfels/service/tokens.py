"""Tokens by which scripts act for somebody: never more than that person may do themselves."""

from __future__ import annotations

from collections.abc import Callable, Collection
from datetime import UTC, datetime
from uuid import UUID

from sqlalchemy.orm import Session

from hornfels.core.rights.roles import SAID, Right
from hornfels.refusals import ConflictError, FieldsError
from hornfels.store import sessions
from hornfels.store.models import TokenRow
from hornfels.store.sessions import Visitor
from hornfels.store.trail import note

MOST = 50
FOR_PEOPLE: frozenset[Right] = frozenset({"people"})
"""What no script does: a second person could not be told from the first."""


def make(
    database: Session,
    visitor: Visitor,
    title: str,
    domain: str,
    rights: Collection[Right],
    days: int,
    allowed: Callable[[Visitor, str], frozenset[Right]],
) -> tuple[TokenRow, str]:
    """A token and its text, which nobody can see again."""
    beyond = sorted(set(rights) - (allowed(visitor, domain) - FOR_PEOPLE))
    if beyond:
        words = ", ".join(SAID[right] for right in beyond)
        raise FieldsError(("rights", f"A token of yours cannot do this there: {words}."))
    if len(sessions.tokens_of(database, visitor.name)) >= MOST:
        raise ConflictError(f"You have {MOST} tokens. Drop one first.")
    row, text = sessions.make_token(database, visitor.name, title, domain, rights, days)
    note(database, "token made", title, domain=domain, rights=row.rights, days=days)
    database.commit()
    database.refresh(row)
    return row, text


def drop(database: Session, visitor: Visitor, number: UUID) -> None:
    row = sessions.drop_token(database, visitor.name, number)
    note(database, "token dropped", row.title, domain=row.domain)
    database.commit()


def ended(row: TokenRow) -> bool:
    return row.ends_at <= datetime.now(UTC)
