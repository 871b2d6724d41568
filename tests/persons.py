"""People who may sign in during tests, all with one password. It is hashed once: that takes a tenth
of a second by design.
"""

from __future__ import annotations

from datetime import UTC, datetime
from functools import cache

from fastapi import FastAPI
from fastapi.testclient import TestClient
from sqlalchemy import Engine
from sqlalchemy.orm import Session

from hornfels.api.guard import COOKIE
from hornfels.core.rights.roles import EVERYWHERE, Role
from hornfels.store import people, sessions
from hornfels.store.models import UserRow

PASSWORD = "correct horse"


@cache
def _hashed() -> str:
    return people.hashed(PASSWORD)


def let_in(session: Session, *names: str, role: Role | None = "administrator") -> None:
    """Let these people sign in, with a role everywhere."""
    session.add_all(UserRow(name=name, password_hash=_hashed()) for name in names)
    session.flush()
    if role:
        for name in names:
            people.grant(session, name, EVERYWHERE, role)


def let_in_once(session: Session, name: str) -> None:
    """Let somebody sign in who has to choose another password first."""
    let_in(session, name, role="viewer")
    session.get_one(UserRow, name).one_time_until = datetime.now(UTC) + people.ONE_TIME


def token_for(engine: Engine, name: str) -> str:
    """The token of a new session of somebody's."""
    with Session(engine) as session, session.begin():
        return sessions.open_session(session, name, people.stored_hash(session, name) or "") or ""


def as_user(client: TestClient, name: str) -> None:
    """Go on as somebody who has signed in."""
    assert isinstance(client.app, FastAPI)
    client.cookies.set(COOKIE, token_for(client.app.state.engine, name))
    client.app.state.visitors.forget()
