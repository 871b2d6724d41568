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


def set_password(session: Session, name: str, password: str) -> None:
    """Let `name` sign in with this password, replacing an earlier one."""
    hashed = _HASHER.hash(password)
    statement = insert(UserRow).values(name=name, password_hash=hashed)
    session.execute(statement.on_conflict_do_update(index_elements=["name"], set_={"password_hash": hashed}))
    session.execute(delete(SessionRow).where(SessionRow.user_name == name))


def sign_in(session: Session, name: str, password: str) -> str | None:
    """A new session's token, or None if name or password is wrong."""
    user = session.get(UserRow, name)
    try:
        _HASHER.verify(user.password_hash if user else _NOBODY, password)
    except (VerificationError, InvalidHashError):
        return None
    if user is None:
        return None
    session.execute(delete(SessionRow).where(SessionRow.expires_at < datetime.now(UTC)))
    token = secrets.token_urlsafe(32)
    session.add(SessionRow(token_digest=_digest(token), user_name=user.name, expires_at=datetime.now(UTC) + _LIFETIME))
    return token


def signed_in(session: Session, token: str) -> str | None:
    """The name behind a session's token, None if it is unknown or has run out."""
    return session.scalar(
        select(SessionRow.user_name).where(SessionRow.token_digest == _digest(token), SessionRow.expires_at > datetime.now(UTC))
    )


def sign_out(session: Session, token: str) -> None:
    session.execute(delete(SessionRow).where(SessionRow.token_digest == _digest(token)))


def _digest(token: str) -> bytes:
    return hashlib.sha256(token.encode()).digest()
