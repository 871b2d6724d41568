"""The doors that domains' own directories open: whoever is in a group that opens one comes in by
the name and password they have there, in the role that goes with the group, in that domain.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import get_args

from sqlalchemy import Engine, select
from sqlalchemy.orm import Session

from hornfels.core.rights.roles import Role
from hornfels.core.values.dn import name_key
from hornfels.directory.door import Shown, shown
from hornfels.directory.reach import DirectoryError
from hornfels.refusals import ConflictError, ForbiddenError
from hornfels.service import access, connections
from hornfels.service.people import LONGEST_NAME
from hornfels.settings import Settings
from hornfels.store import attempts, people, sessions
from hornfels.store.models import ConnectionRow, UserRow
from hornfels.store.sessions import Visitor
from hornfels.store.trail import Origin, act_for, note


@dataclass(frozen=True, slots=True)
class Come:
    """Somebody whom a directory let in: who, from which domain, in which roles there."""

    shown: Shown
    domain: str
    roles: frozenset[Role]

    @property
    def name(self) -> str:
        return f"{self.shown.name.lower()}@{self.domain}"


def domain_at(engine: Engine, name: str) -> str | None:
    """The domain whose directory is asked for whoever signs in by this name: it stands behind the
    @, and has a door. Whoever has a password here uses that.
    """
    domain = name.rpartition("@")[2].lower()
    with Session(engine) as session:
        row = session.get(ConnectionRow, domain) if "@" in name else None
        if row is None or not row.settings.get("doors"):
            return None
        person = people.find(session, name)
        return None if person and person.password_hash else domain


def ask(engine: Engine, domain: str, name: str, secret: str, where: Settings) -> Come | None:
    """Whoever signs in to this domain's directory by this name and password; None where that is not
    right. Raises `ConflictError` where the directory cannot be asked.
    """
    with Session(engine) as session:
        _, given = connections.find(session, domain)
    base = ",".join(f"DC={part}" for part in domain.split("."))
    groups = [door.group for door in given.doors]
    try:
        found = shown(connections.reader(given, where), base, name, secret, groups)
    except DirectoryError as error:
        raise ConflictError(
            f"The directory of {domain} cannot be asked: {error} Somebody with a password of "
            "Hornfels can sign in meanwhile."
        ) from None
    if found is None:
        return None
    roles = frozenset(door.role for door in given.doors if door.group in found.groups)
    return Come(found, domain, roles)


def let_in(session: Session, come: Come) -> UserRow:
    """The person's own row, made at their first sign-in; their roles in the domain are those of the
    groups they are in by now. Raises `ForbiddenError` for whoever no door opens to.
    """
    if not come.roles:
        raise ForbiddenError(
            "The directory knows you, and none of your groups opens Hornfels. Ask an administrator."
        )
    asked = select(UserRow).where(
        UserRow.directory == come.domain, UserRow.subject == come.shown.sid
    )
    row = session.scalars(asked.with_for_update()).one_or_none()
    if row is None:
        row = _made(session, come)
    if row.shut:
        raise ForbiddenError("You may not sign in here any more. Ask an administrator.")
    held = people.grants_of(session, row.name).get(come.domain, frozenset())
    for role in get_args(Role):
        if role in come.roles and role not in held:
            people.grant(session, row.name, come.domain, role)
        elif role in held and role not in come.roles:
            people.revoke(session, row.name, come.domain, role)
    if held != come.roles:
        before, after = sorted(held), sorted(come.roles)
        note(
            session,
            "roles by groups",
            row.name,
            domain=come.domain,
            person=row.name,
            before=before,
            after=after,
        )
    return row


def _made(session: Session, come: Come) -> UserRow:
    other = people.named_like(session, come.name)
    if other is not None and name_key(other) == name_key(come.name):
        raise ForbiddenError(
            f"There is another {other} here: somebody who had the name before, or was added by "
            "it. Ask an administrator."
        )
    if len(come.name) > LONGEST_NAME:
        raise ForbiddenError(f"A name to sign in with has at most {LONGEST_NAME} characters.")
    row = UserRow(name=come.name, subject=come.shown.sid, directory=come.domain)
    session.add(row)
    session.flush()
    note(session, "person added", come.name, domain=come.domain, signs_in="at the directory")
    return row


def come_in(
    engine: Engine,
    name: str,
    come: Come | None,
    origin: Origin,
    *,
    earlier: str | None,
    agent: str,
) -> str:
    """The token of a session for whom a domain's directory lets in, None where it does not; the one
    that this browser had before ends. Raises `ForbiddenError`.
    """
    token, refused = None, "Name or password is wrong."
    with Session(engine) as session, session.begin():
        act_for(session, origin)
        row = None
        if come is not None:
            try:
                with session.begin_nested():
                    row = let_in(session, come)
            except ForbiddenError as error:
                refused = str(error)
        if row is not None:
            address = origin.address
            token = sessions.open_session(session, row.name, None, address=address, agent=agent)
        if row is not None and token:
            attempts.clear(session, name, origin.address)
            if earlier:
                sessions.end(session, earlier)
            note(session, "sign-in", person=row.name, browser=agent[:200], at="the directory")
        else:
            note(session, "sign-in failed", person=access.known(session, name))
    if token is None:
        raise ForbiddenError(refused)
    return token


def proven(engine: Engine, visitor: Visitor, come: Come | None, origin: Origin) -> None:
    """Somebody in a session has shown the directory once more who they are. Raises `ForbiddenError`
    if it was somebody else, or the password was wrong.
    """
    with Session(engine) as session, session.begin():
        act_for(session, origin)
        row = people.find(session, visitor.name)
        there = row is not None and come is not None and row.subject == come.shown.sid
        if there and visitor.session:
            sessions.prove(session, visitor.session)
            attempts.clear(session, visitor.name, origin.address)
        note(session, "password given again" if there else "password given wrong")
    if not there:
        raise ForbiddenError("The password is wrong.")
