"""Who may sign in, with which password, in which roles."""

from __future__ import annotations

import secrets
from collections.abc import Collection
from datetime import UTC, datetime, timedelta
from functools import cache
from typing import cast

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerificationError
from sqlalchemy import delete, select, text
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from hornfels.core.rights.roles import EVERYWHERE, Role
from hornfels.core.values.dn import name_key
from hornfels.store.models import GrantRow, SessionRow, UserRow

_HASHER = PasswordHasher()
_NAMES_LOCK = 7185
ONE_TIME = timedelta(days=3)
"""How long a one-time password opens the way to another one."""


@cache
def _nobody() -> str:
    """What is checked for unknown names, so that the answer takes as long as for known ones."""
    return hashed(secrets.token_urlsafe())


def hashed(password: str) -> str:
    """What is kept of a password."""
    return _HASHER.hash(password)


def one_time_password() -> str:
    """A password to be handed over, easily read out."""
    return "-".join(secrets.token_hex(2) for _ in range(5))


def hold_names(session: Session) -> None:
    """Let nobody else add a user until the transaction ends."""
    session.execute(text("SELECT pg_advisory_xact_lock(:key)"), {"key": _NAMES_LOCK})


def add(session: Session, name: str, password: str | None, *, one_time: bool = False) -> UserRow:
    """Somebody new, who holds no role yet; without a password they sign in at the provider."""
    row = UserRow(name=name)
    session.add(row)
    if password is not None:
        set_password(session, row, hashed(password), one_time=one_time)
    return row


def set_password(
    session: Session, row: UserRow, value: str, *, one_time: bool = False, keep: bytes | None = None
) -> None:
    """Give somebody another password by its hash; their sessions end, but for the one of the digest
    `keep`. Whoever signed in elsewhere does so no longer.
    """
    now = datetime.now(UTC)
    row.password_hash, row.password_set_at = value, now
    row.subject = row.directory = None
    row.one_time_until = now + ONE_TIME if one_time else None
    session.flush()
    others = delete(SessionRow).where(SessionRow.user_name == row.name)
    session.execute(others if keep is None else others.where(SessionRow.token_digest != keep))


def find(session: Session, name: str, *, for_writing: bool = False) -> UserRow | None:
    return session.get(UserRow, name, with_for_update=for_writing, populate_existing=for_writing)


def by_subject(session: Session, subject: str, name: str) -> UserRow | None:
    """Whom the provider means by `subject`: whoever came from there before, else whoever was added
    by this name to come from there and has not come yet.
    """
    known = select(UserRow).where(UserRow.subject == subject, UserRow.directory.is_(None))
    row = session.scalars(known.with_for_update()).one_or_none()
    if row is None:
        row = find(session, name, for_writing=True)
        if row is None or row.password_hash is not None or row.subject is not None:
            return None
        row.subject = subject
    return None if row.shut else row


def take_password(session: Session, row: UserRow) -> None:
    """Let somebody sign in at the provider and no longer by a password; their sessions end."""
    row.password_hash = row.subject = row.directory = row.one_time_until = None
    session.flush()
    session.execute(delete(SessionRow).where(SessionRow.user_name == row.name))


def named_like(session: Session, name: str) -> str | None:
    """Whoever has this name already, whatever its case."""
    wanted = name_key(name)
    return next((n for n in session.scalars(select(UserRow.name)) if name_key(n) == wanted), None)


def everybody(session: Session) -> list[UserRow]:
    return list(session.scalars(select(UserRow).order_by(UserRow.name)))


def stored_hash(session: Session, name: str) -> str | None:
    """What `matches` compares a password with, None for whoever may not sign in."""
    row = find(session, name)
    if row is None or row.shut:
        return None
    if row.one_time_until is not None and row.one_time_until < datetime.now(UTC):
        return None
    return row.password_hash


def matches(stored: str | None, password: str) -> bool:
    """Whether a password is the one that was hashed. Takes its time and much memory, the same for
    an unknown name: hold nothing.
    """
    nobody = _nobody()
    try:
        return _HASHER.verify(stored or nobody, password) and stored is not None
    except (VerificationError, InvalidHashError):
        return False


def grants_of(session: Session, name: str) -> dict[str, frozenset[Role]]:
    """Somebody's roles by the domain they are held in."""
    held: dict[str, set[Role]] = {}
    for row in session.scalars(select(GrantRow).where(GrantRow.user_name == name)):
        held.setdefault(row.domain, set()).add(cast(Role, row.role))
    return {domain: frozenset(roles) for domain, roles in held.items()}


def all_grants(session: Session) -> dict[str, dict[str, frozenset[Role]]]:
    """Everybody's roles by name and domain."""
    held: dict[str, dict[str, frozenset[Role]]] = {}
    for row in session.scalars(select(GrantRow)):
        mine = held.setdefault(row.user_name, {})
        mine[row.domain] = mine.get(row.domain, frozenset()) | {cast(Role, row.role)}
    return held


def grant(session: Session, name: str, domain: str, role: Role) -> None:
    values = {"user_name": name, "domain": domain, "role": role}
    session.execute(insert(GrantRow).values(values).on_conflict_do_nothing())


def revoke(session: Session, name: str, domain: str, role: Role) -> None:
    session.execute(
        delete(GrantRow).where(
            GrantRow.user_name == name, GrantRow.domain == domain, GrantRow.role == role
        )
    )


def forget_domain(session: Session, domain: str) -> None:
    """Nobody holds a role in a domain that is taken out."""
    session.execute(delete(GrantRow).where(GrantRow.domain == domain))


def with_role(session: Session, role: Role, domains: Collection[str]) -> list[str]:
    """Who holds a role in one of these domains and may sign in, by name."""
    asked = (
        select(GrantRow.user_name)
        .join(UserRow, UserRow.name == GrantRow.user_name)
        .where(GrantRow.role == role, GrantRow.domain.in_(domains), UserRow.shut.is_(False))
    )
    return sorted(set(session.scalars(asked)))


def administrators(session: Session) -> list[str]:
    """Who may do everything everywhere."""
    return with_role(session, "administrator", {EVERYWHERE})
