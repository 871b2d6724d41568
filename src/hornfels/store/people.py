"""Who may sign in, and signed-in browsers."""

from __future__ import annotations

import hashlib
import secrets
from datetime import UTC, datetime, timedelta

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerificationError
from sqlalchemy import delete, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from hornfels.store.models import SessionRow, UserRow

_HASHER = PasswordHasher()
_LIFETIME = timedelta(hours=12)
# Checked for unknown names, so that the answer takes as long as for known ones.
_NOBODY = _HASHER.hash(secrets.token_urlsafe())


def hashed(password: str) -> str:
    """What is kept of a password."""
    return _HASHER.hash(password)


def set_password(session: Session, name: str, password: str) -> None:
    """Let `name` sign in with this password, replacing an earlier one."""
    value = hashed(password)
    statement = insert(UserRow).values(name=name, password_hash=value)
    session.execute(
        statement.on_conflict_do_update(index_elements=["name"], set_={"password_hash": value})
    )
    session.execute(delete(SessionRow).where(SessionRow.user_name == name))


def stored_hash(session: Session, name: str) -> str | None:
    """What `matches` compares a password with, None for an unknown name."""
    return session.scalar(select(UserRow.password_hash).where(UserRow.name == name))


def matches(stored: str | None, password: str) -> bool:
    """Whether a password is the one that was hashed. Takes its time and much memory, the same for
    an unknown name: hold nothing.
    """
    try:
        return _HASHER.verify(stored or _NOBODY, password) and stored is not None
    except (VerificationError, InvalidHashError):
        return False


def open_session(session: Session, name: str, stored: str) -> str | None:
    """A new session's token; None if the password is no longer the one that was compared."""
    session.execute(delete(SessionRow).where(SessionRow.expires_at < datetime.now(UTC)))
    if (
        session.scalar(
            select(UserRow.password_hash).where(UserRow.name == name).with_for_update(read=True)
        )
        != stored
    ):
        return None
    token = secrets.token_urlsafe(32)
    session.add(
        SessionRow(
            token_digest=_digest(token), user_name=name, expires_at=datetime.now(UTC) + _LIFETIME
        )
    )
    session.flush()
    return token


def signed_in(session: Session, token: str) -> str | None:
    """The name behind a session's token, None if it is unknown or has run out."""
    return session.scalar(
        select(SessionRow.user_name).where(
            SessionRow.token_digest == _digest(token), SessionRow.expires_at > datetime.now(UTC)
        )
    )


def sign_out(session: Session, token: str) -> None:
    session.execute(delete(SessionRow).where(SessionRow.token_digest == _digest(token)))


def _digest(token: str) -> bytes:
    return hashlib.sha256(token.encode()).digest()
