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
from hornfels.directory.door import groups_of
from hornfels.directory.link import linked
from hornfels.directory.person import DirectoryAccount, named
from hornfels.directory.reach import DirectoryError
from hornfels.refusals import ConflictError, ForbiddenError
from hornfels.service import access, connections
from hornfels.service.directory_binds import TURNED_AWAY, base_of, sign_in_as
from hornfels.service.people import LONGEST_NAME
from hornfels.service.snapshots import Snapshot
from hornfels.settings import Settings
from hornfels.store import attempts, people, sessions
from hornfels.store.bind_attempts import local_name
from hornfels.store.models import ConnectionRow, UserRow
from hornfels.store.sessions import Visitor
from hornfels.store.trail import Origin, act_for, note


@dataclass(frozen=True, slots=True)
class Come:
    """A person whom a directory let in: the account, the domain, the roles there."""

    account: DirectoryAccount
    domain: str
    roles: frozenset[Role]

    @property
    def name(self) -> str:
        return f"{self.account.name.lower()}@{self.domain}"


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


def one_spelling(name: str) -> str:
    """Return the one spelling of all names of an account: ``DOMAIN\\name@domain``, ``NAME@domain``
    and ``name@domain`` are counted as one name.
    """
    return name_key(f"{local_name(name)}@{name.rpartition('@')[2]}")


def ask(
    engine: Engine, current: Snapshot | None, domain: str, name: str, secret: str, where: Settings
) -> Come | None:
    """Return the person who signs in to this domain's directory by this name and password; None
    where that is not right. A password of an account in none of the groups is shown to no
    directory. Raises `ConflictError` where the directory cannot be asked.
    """
    with Session(engine) as session:
        _, given = connections.find(session, domain)
    groups = [door.group for door in given.doors]
    try:
        reader = connections.reader(given, where)
        with linked(reader) as link:
            account = named(link, base_of(domain), name)
            inside = groups_of(link, account.dn, groups) if account else frozenset()
            allowed = account if inside else None
            standing = sign_in_as(engine, current, domain, link, reader, allowed, name, secret)
    except DirectoryError as error:
        raise ConflictError(
            f"The directory of {domain} cannot be asked: {error} Somebody with a password of "
            "Hornfels can sign in meanwhile."
        ) from None
    if allowed is None or standing != "in":
        return None
    return Come(allowed, domain, frozenset(d.role for d in given.doors if d.group in inside))


def let_in(session: Session, come: Come) -> UserRow:
    """The person's own row, made at their first sign-in; their roles in the domain are those of the
    groups they are in by now. Raises `ForbiddenError` where the person may not sign in any more.
    """
    asked = select(UserRow).where(
        UserRow.directory == come.domain, UserRow.subject == come.account.sid
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
    row = UserRow(name=come.name, subject=come.account.sid, directory=come.domain)
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
    token, refused = None, TURNED_AWAY
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
        there = row is not None and come is not None and row.subject == come.account.sid
        if there and visitor.session:
            sessions.prove(session, visitor.session)
            attempts.clear(session, visitor.name, origin.address)
        note(session, "password given again" if there else "password given wrong")
    if not there:
        raise ForbiddenError("The password is wrong, or no group of yours opens Hornfels any more.")
