"""People who may sign in during tests, all with one password. It is hashed once: that takes a tenth of a second by design."""

from __future__ import annotations

from functools import cache

from fastapi.testclient import TestClient
from sqlalchemy import Engine
from sqlalchemy.orm import Session

from hornfels.api.guard import COOKIE
from hornfels.store import people
from hornfels.store.models import UserRow

PASSWORD = "correct horse"


@cache
def _hashed() -> str:
    return people.hashed(PASSWORD)


def let_in(session: Session, *names: str) -> None:
    """Let these people sign in."""
    session.add_all(UserRow(name=name, password_hash=_hashed()) for name in names)
    session.flush()


def as_user(client: TestClient, name: str) -> None:
    """Go on as somebody who has signed in."""
    engine: Engine = client.app.state.engine  # type: ignore[attr-defined]
    with Session(engine) as session, session.begin():
        token = people.open_session(session, name, people.stored_hash(session, name) or "")
    client.cookies.set(COOKIE, token or "")
    client.app.state.visitors.forget()  # type: ignore[attr-defined]
