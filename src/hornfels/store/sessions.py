"""Signed-in browsers, and scripts that act for somebody by a token."""

from __future__ import annotations

import hashlib
import secrets
import uuid
from collections.abc import Collection
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from typing import cast
from uuid import UUID

from sqlalchemy import delete, func, select, update
from sqlalchemy.orm import Session

from hornfels.core.rights.roles import Grants, Right
from hornfels.refusals import NotFoundError
from hornfels.store import people
from hornfels.store.models import SessionRow, TokenRow, UserRow

LONGEST = timedelta(hours=12)
"""How long a session lives, whatever is done in it."""
IDLE = timedelta(hours=1)
"""How long one lives in which nothing is done."""
PROOF = timedelta(minutes=5)
"""How long the password that was given stands for the person being there."""
_SEEN_EVERY = timedelta(minutes=1)
"""How exactly it is known when a session or a token was last used."""
TOKEN_MARK = "hft_"  # noqa: S105 - what every token begins with, so that one is known when it is found
_MOST_AGENT = 200


@dataclass(frozen=True, slots=True)
class Visitor:
    """Somebody who is known: by a session, or by a token, which narrows what they may do."""

    name: str
    grants: Grants
    session: UUID | None
    proved_at: datetime
    one_time: bool = False
    elsewhere: bool = False
    """Whether they sign in at the provider."""
    directory: str | None = None
    """The domain at whose directory they sign in."""
    token: str = ""
    """The token's title, "" for a browser."""
    only: tuple[str, frozenset[Right]] | None = None
    """The token's domain and rights."""


def digest(token: str) -> bytes:
    return hashlib.sha256(token.encode("utf-8", "replace")).digest()


def open_session(
    session: Session,
    name: str,
    stored: str | None,
    *,
    address: str = "",
    agent: str = "",
    proved_at: datetime | None = None,
) -> str | None:
    """A new session's token; None if the password is no longer the one that was compared, which is
    None for whoever comes from the provider. They showed who they are at `proved_at`, or just now.
    """
    now = datetime.now(UTC)
    session.execute(delete(SessionRow).where(SessionRow.expires_at < now))
    row = session.get(UserRow, name, with_for_update={"read": True}, populate_existing=True)
    if row is None or row.shut or row.password_hash != stored:
        return None
    token = secrets.token_urlsafe(32)
    session.add(
        SessionRow(
            token_digest=digest(token),
            id=uuid.uuid4(),
            user_name=name,
            opened_at=now,
            seen_at=now,
            proved_at=min(now, proved_at or now),
            expires_at=now + LONGEST,
            address=address,
            agent=agent[:_MOST_AGENT],
        )
    )
    session.flush()
    return token


def visitor(session: Session, token: str) -> Visitor | None:
    """Who stands behind a token of a session or of a script, None if it is unknown or has ended.
    Says now and then that it is in use; commit.
    """
    if token.startswith(TOKEN_MARK):
        return _by_token(session, token)
    now = datetime.now(UTC)
    found = session.execute(
        select(SessionRow, UserRow)
        .join(UserRow, UserRow.name == SessionRow.user_name)
        .where(
            SessionRow.token_digest == digest(token),
            SessionRow.expires_at > now,
            SessionRow.seen_at > now - IDLE,
            UserRow.shut.is_(False),
        )
    ).first()
    if found is None:
        return None
    row, user = found
    if row.seen_at < now - _SEEN_EVERY:
        row.seen_at = now
    return Visitor(
        name=user.name,
        grants=people.grants_of(session, user.name),
        session=row.id,
        proved_at=row.proved_at,
        one_time=user.one_time_until is not None,
        elsewhere=user.password_hash is None and user.directory is None,
        directory=user.directory,
    )


def _by_token(session: Session, token: str) -> Visitor | None:
    now = datetime.now(UTC)
    found = session.execute(
        select(TokenRow, UserRow)
        .join(UserRow, UserRow.name == TokenRow.user_name)
        .where(
            TokenRow.digest == digest(token),
            TokenRow.ends_at > now,
            UserRow.shut.is_(False),
            UserRow.one_time_until.is_(None),
        )
    ).first()
    if found is None:
        return None
    row, user = found
    if row.used_at is None or row.used_at < now - _SEEN_EVERY:
        row.used_at = now
    return Visitor(
        name=user.name,
        grants=people.grants_of(session, user.name),
        session=None,
        proved_at=row.made_at,
        token=row.title,
        only=(row.domain, frozenset(cast(Collection[Right], row.rights))),
    )


def prove(session: Session, number: UUID) -> None:
    """The person has just given the password in this session."""
    now = datetime.now(UTC)
    session.execute(update(SessionRow).where(SessionRow.id == number).values(proved_at=now))


def of_person(session: Session, name: str) -> list[SessionRow]:
    """Somebody's sessions that have not ended, the latest used first."""
    now = datetime.now(UTC)
    asked = select(SessionRow).where(
        SessionRow.user_name == name, SessionRow.expires_at > now, SessionRow.seen_at > now - IDLE
    )
    return list(session.scalars(asked.order_by(SessionRow.seen_at.desc(), SessionRow.id)))


def last_seen(session: Session) -> dict[str, datetime]:
    """When each person with a session last did something."""
    asked = select(SessionRow.user_name, func.max(SessionRow.seen_at))
    return {row[0]: row[1] for row in session.execute(asked.group_by(SessionRow.user_name))}


def end(session: Session, token: str) -> str | None:
    """End a session by its token; whose it was."""
    ended = delete(SessionRow).where(SessionRow.token_digest == digest(token))
    return session.scalar(ended.returning(SessionRow.user_name))


def end_one(session: Session, name: str, number: UUID) -> None:
    """End one of somebody's sessions. Raises NotFoundError if there is none."""
    ended = delete(SessionRow).where(SessionRow.user_name == name, SessionRow.id == number)
    if session.scalar(ended.returning(SessionRow.id)) is None:
        raise NotFoundError("This session has ended already.")


def end_all(session: Session, name: str, but: UUID | None = None) -> None:
    ended = delete(SessionRow).where(SessionRow.user_name == name)
    session.execute(ended if but is None else ended.where(SessionRow.id != but))


def make_token(
    session: Session, name: str, title: str, domain: str, rights: Collection[Right], days: int
) -> tuple[TokenRow, str]:
    """A token for scripts, and its text, which nobody can see again."""
    text = TOKEN_MARK + secrets.token_urlsafe(32)
    now = datetime.now(UTC)
    row = TokenRow(
        id=uuid.uuid4(),
        digest=digest(text),
        user_name=name,
        title=title,
        domain=domain,
        rights=sorted(rights),
        made_at=now,
        ends_at=now + timedelta(days=days),
    )
    session.add(row)
    session.flush()
    return row, text


def tokens_of(session: Session, name: str) -> list[TokenRow]:
    """Somebody's tokens, those that have ended too, the latest first."""
    asked = select(TokenRow).where(TokenRow.user_name == name)
    return list(session.scalars(asked.order_by(TokenRow.made_at.desc(), TokenRow.id)))


def drop_token(session: Session, name: str, number: UUID) -> TokenRow:
    """Raises NotFoundError if this person has no such token."""
    row = session.get(TokenRow, number)
    if row is None or row.user_name != name:
        raise NotFoundError("There is no such token any more.")
    session.delete(row)
    return row
