"""Who may sign in and what they may do. What widens that is an act: see `hornfels.service.acts`."""

from __future__ import annotations

from sqlalchemy import select
from sqlalchemy.orm import Session

from hornfels.core.rights.roles import EVERYWHERE, Role
from hornfels.refusals import ConflictError, FieldsError, NotFoundError
from hornfels.service.access import refuse_weak
from hornfels.store import people, sessions
from hornfels.store.models import ConnectionRow, DomainRow, UserRow
from hornfels.store.trail import note

LONGEST_NAME = 64
FIRST = "administrator"
"""The name of whoever is there before anybody was added."""


def add(
    session: Session, name: str, password: str | None = None, *, elsewhere: bool = False
) -> str | None:
    """Let somebody sign in, who holds no role yet. Without a password they get one to be used
    once, which is the answer, unless they sign in at the provider.
    """
    # Two at the same moment: the second sees the first, and is told so.
    people.hold_names(session)
    _refuse_name(session, name)
    if elsewhere:
        people.add(session, name, None)
        note(session, "person added", name, signs_in="at the provider")
        return None
    given = password or people.one_time_password()
    if password is not None:
        refuse_weak(name, password)
    people.add(session, name, given, one_time=password is None)
    note(session, "person added", name)
    return None if password is not None else given


def send_elsewhere(session: Session, name: str) -> None:
    """Let somebody sign in at the provider from now on, and no longer by a password."""
    people.take_password(session, find(session, name))
    note(session, "sent to the provider", name)


def _refuse_name(session: Session, name: str) -> None:
    problem = ""
    if not name.strip():
        problem = "Give a name to sign in with."
    elif name != name.strip() or not name.isprintable():
        problem = "Leave out blanks at the ends and hidden characters."
    elif len(name) > LONGEST_NAME:
        problem = f"At most {LONGEST_NAME} characters."
    elif held := people.named_like(session, name):
        problem = f"{held} may sign in already. Choose another name."
    if problem:
        raise FieldsError(("name", problem))


def find(session: Session, name: str) -> UserRow:
    """Somebody, held for writing. Raises `NotFoundError`."""
    row = people.find(session, name, for_writing=True)
    if row is None:
        raise NotFoundError(f"Nobody named '{name[:100]}' may sign in here.")
    return row


def refuse_domain(session: Session, domain: str) -> None:
    """Raises `FieldsError` for a domain that was neither imported nor connected."""
    known = (DomainRow.dns_name, ConnectionRow.dns_name)
    there = (session.scalar(select(one).where(one == domain)) for one in known)
    if domain != EVERYWHERE and not any(there):
        raise FieldsError(
            ("domain", f"There is no domain “{domain[:100]}” here. Import or connect it first.")
        )


def grant(session: Session, name: str, domain: str, role: Role) -> None:
    find(session, name)
    people.grant(session, name, domain, role)
    note(session, "role given", name, domain=_named(domain), role=role, where=domain)


def revoke(session: Session, name: str, domain: str, role: Role, reason: str = "") -> None:
    find(session, name)
    if role == "administrator" and domain == EVERYWHERE:
        _keep_one(session, name)
    people.revoke(session, name, domain, role)
    told = {"role": role, "where": domain, "reason": reason}
    note(session, "role taken", name, domain=_named(domain), **told)


def shut(session: Session, name: str, reason: str = "") -> None:
    """Let somebody sign in no longer; their sessions end."""
    row = find(session, name)
    _keep_one(session, name)
    row.shut = True
    sessions.end_all(session, name)
    note(session, "person shut out", name, reason=reason)


def let_in_again(session: Session, name: str) -> None:
    find(session, name).shut = False
    note(session, "person let in again", name)


def reset(session: Session, name: str) -> str:
    """Give somebody a password to be used once."""
    row, given = find(session, name), people.one_time_password()
    people.set_password(session, row, people.hashed(given), one_time=True)
    note(session, "password reset", name)
    return given


def _keep_one(session: Session, name: str) -> None:
    if people.administrators(session) == [name]:
        raise ConflictError(
            f"{name} is the last administrator of everything. Make somebody else one first."
        )


def _named(domain: str) -> str:
    return "" if domain == EVERYWHERE else domain


def first_administrator(session: Session) -> str | None:
    """Where nobody may sign in yet: an administrator of everything, whose one-time password is the
    answer.
    """
    if people.everybody(session):
        return None
    given = add(session, FIRST)
    people.grant(session, FIRST, EVERYWHERE, "administrator")
    note(session, "role given", FIRST, role="administrator", where=EVERYWHERE)
    return given
