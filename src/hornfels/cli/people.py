"""`hornfels user`: who may sign in and what they may do. Whoever may run commands on this machine
needs nobody else's leave; what they do stands in the trail.
"""

from __future__ import annotations

import contextlib
import getpass
import sys
from collections.abc import Iterator

from sqlalchemy.orm import Session

from hornfels.cli.database import database
from hornfels.cli.errors import say
from hornfels.core.rights.roles import EVERYWHERE, Role
from hornfels.service import people as service
from hornfels.store import people
from hornfels.store.trail import Origin, act_for

COMMAND = "command line"
"""Who acts, in the trail."""


@contextlib.contextmanager
def changing() -> Iterator[Session]:
    """A transaction of whoever runs the command."""
    with database() as engine, Session(engine) as session, session.begin():
        act_for(session, Origin(f"{getpass.getuser()} ({COMMAND})"))
        yield session


def add_user(name: str, role: Role, domain: str, *, one_time: bool, elsewhere: bool) -> None:
    """Let somebody sign in with a password that is typed, read from standard input, or made to be
    used once; or at the provider.
    """
    password = None
    if not one_time and not elsewhere:
        asked = getpass.getpass("Password: ") if sys.stdin.isatty() else sys.stdin.readline()
        password = asked.rstrip("\n")
    with changing() as session:
        given = service.add(session, name, password, elsewhere=elsewhere)
        service.grant(session, name, domain, role)
    say(f"{name} may sign in as {role} {_where(domain)}.")
    if given:
        say(f"The password, to be used once within three days: {given}")


def list_users() -> None:
    with changing() as session:
        grants = people.all_grants(session)
        for row in people.everybody(session):
            held = [
                f"{role} {_where(domain)}"
                for domain, roles in sorted(grants.get(row.name, {}).items())
                for role in sorted(roles)
            ]
            notes = ["shut out"] * row.shut + ["one-time password"] * bool(row.one_time_until)
            if row.password_hash is None:
                where = f"the directory of {row.directory}" if row.directory else "the provider"
                notes.append(f"signs in at {where}")
            say(f"{row.name}: {', '.join([*held, *notes]) or 'no role'}")


def change_role(name: str, role: Role, domain: str, *, take: bool) -> None:
    with changing() as session:
        (service.revoke if take else service.grant)(session, name, domain, role)
    say(f"{name} is {'no longer ' * take}{role} {_where(domain)}.")


def reset_user(name: str) -> None:
    """A way in for whoever has lost theirs, the last administrator too."""
    with changing() as session:
        given = service.reset(session, name)
        if service.find(session, name).shut:
            service.let_in_again(session, name)
    say(f"The password of {name}, to be used once within three days: {given}")


def shut_user(name: str, *, let_in: bool) -> None:
    with changing() as session:
        (service.let_in_again if let_in else service.shut)(session, name)
    say(f"{name} may sign in{' again' if let_in else ' no longer'}.")


def _where(domain: str) -> str:
    return "everywhere" if domain == EVERYWHERE else f"in {domain}"
