"""People under the policies at a page of their own: who is there, and how often they may try."""

from __future__ import annotations

import secrets
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from math import ceil

from sqlalchemy import delete, select, update
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from hornfels.store.models import ConnectionRow, DomainRow, OwnSessionRow, OwnTryRow
from hornfels.store.sessions import digest

LONGEST = timedelta(hours=1)
"""How long somebody is known there, whatever they do."""
IDLE = timedelta(minutes=15)
"""How long while they do nothing."""
_SEEN_EVERY = timedelta(minutes=1)
BETWEEN = timedelta(minutes=1)
"""Between two passwords of one account that the directory does not take: it counts them, and locks
the account after some.
"""


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


def wait_for(session: Session, domain_id: int, sid: str) -> int:
    """The seconds to wait before a password of this account may be shown to the directory; 0 if it
    may be now, and then none other may until `taken` or some time has passed. Commit at once.
    """
    now = datetime.now(UTC)
    session.execute(delete(OwnTryRow).where(OwnTryRow.tried_at <= now - BETWEEN))
    added = (
        insert(OwnTryRow)
        .values(domain_id=domain_id, sid=sid, tried_at=now)
        .on_conflict_do_nothing()
        .returning(OwnTryRow.sid)
    )
    if session.scalar(added) is not None:
        return 0
    row = session.get(OwnTryRow, (domain_id, sid))
    left = row.tried_at + BETWEEN - now if row else timedelta()
    return max(1, ceil(left.total_seconds()))


def taken(session: Session, domain_id: int, sid: str) -> None:
    """The directory counts no bad try for what was shown: the next may be shown at once."""
    session.execute(delete(OwnTryRow).where(OwnTryRow.domain_id == domain_id, OwnTryRow.sid == sid))


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
