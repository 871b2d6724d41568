"""People under the policies at a page of their own: who is there."""

from __future__ import annotations

import secrets
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta

from sqlalchemy import delete, select, update
from sqlalchemy.orm import Session

from hornfels.store.models import ConnectionRow, DomainRow, OwnSessionRow
from hornfels.store.sessions import digest

LONGEST = timedelta(hours=1)
"""How long somebody is known there, whatever they do."""
IDLE = timedelta(minutes=15)
"""How long while they do nothing."""
_SEEN_EVERY = timedelta(minutes=1)


@dataclass(frozen=True, slots=True)
class Person:
    """Somebody at their own page: who they are in their domain's directory, by SID and name;
    whether they have to choose another password before it lets them in; and when the present one
    was set, in ticks.
    """

    domain_id: int
    domain: str
    sid: str
    name: str
    must_change: bool
    password_set: int


def domains_open(session: Session) -> list[str]:
    """The domains whose people have a page."""
    asked = (
        select(DomainRow.dns_name, ConnectionRow.settings)
        .join(ConnectionRow, ConnectionRow.dns_name == DomainRow.dns_name)
        .order_by(DomainRow.dns_name)
    )
    return [name for name, held in session.execute(asked) if held.get("own_page")]


def open_session(session: Session, person: Person) -> str:
    """The token by which somebody is known from now on."""
    now = datetime.now(UTC)
    session.execute(delete(OwnSessionRow).where(OwnSessionRow.expires_at < now))
    token = secrets.token_urlsafe(32)
    session.add(
        OwnSessionRow(
            token_digest=digest(token),
            domain_id=person.domain_id,
            sid=person.sid,
            name=person.name,
            must_change=person.must_change,
            password_set=person.password_set,
            seen_at=now,
            expires_at=now + LONGEST,
        )
    )
    session.flush()
    return token


def person_of(session: Session, token: str) -> Person | None:
    """Who stands behind a token, None if it is unknown or has ended, or the domain's people have no
    page any more. Says now and then that it is in use; commit.
    """
    now = datetime.now(UTC)
    found = session.execute(
        select(OwnSessionRow, DomainRow.dns_name, ConnectionRow.settings)
        .join(DomainRow, DomainRow.id == OwnSessionRow.domain_id)
        .join(ConnectionRow, ConnectionRow.dns_name == DomainRow.dns_name)
        .where(
            OwnSessionRow.token_digest == digest(token),
            OwnSessionRow.expires_at > now,
            OwnSessionRow.seen_at > now - IDLE,
        )
    ).first()
    if found is None or not found[2].get("own_page"):
        return None
    row, domain, _ = found
    if row.seen_at < now - _SEEN_EVERY:
        row.seen_at = now
    return Person(row.domain_id, domain, row.sid, row.name, row.must_change, row.password_set)


def changed(session: Session, person: Person, token: str, password_set: int) -> None:
    """Somebody has another password since a moment in ticks; whoever came with the old one and is
    not they is known no more.
    """
    own = OwnSessionRow.domain_id == person.domain_id, OwnSessionRow.sid == person.sid
    mine = OwnSessionRow.token_digest == digest(token)
    session.execute(delete(OwnSessionRow).where(*own, ~mine))
    session.execute(
        update(OwnSessionRow).where(*own, mine).values(must_change=False, password_set=password_set)
    )


def end(session: Session, token: str) -> None:
    session.execute(delete(OwnSessionRow).where(OwnSessionRow.token_digest == digest(token)))
