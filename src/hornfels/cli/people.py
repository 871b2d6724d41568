"""`hornfels user`: who may sign in."""

from __future__ import annotations

import getpass
import sys

from sqlalchemy.orm import Session

from hornfels.cli.database import database
from hornfels.cli.errors import fail, say
from hornfels.store.people import set_password


def add_user(name: str) -> None:
    """Let somebody sign in with a password that is typed, or read from standard input."""
    password = (
        getpass.getpass("Password: ") if sys.stdin.isatty() else sys.stdin.readline().rstrip("\n")
    )
    if len(password) < 12:
        fail("the password needs at least 12 characters")
    with database() as engine, Session(engine) as session, session.begin():
        set_password(session, name, password)
    say(f"{name} may sign in.")
