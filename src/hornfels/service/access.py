"""Signing in. Comparing a password takes a tenth of a second and much memory, so the steps stand
apart: no connection is in hand while it is compared.
"""

from __future__ import annotations

from sqlalchemy import Engine
from sqlalchemy.orm import Session

from hornfels.refusals import ForbiddenError, TooManyTriesError
from hornfels.store import attempts, people


def begin(engine: Engine, name: str, address: str) -> str | None:
    """Count the try as bad before it is looked at, and give what the password is compared with.
    Raises `TooManyTriesError` where none is taken for a while, the right one neither.
    """
    with Session(engine) as session, session.begin():
        wait = attempts.begin(session, name, address)
        hashed = people.stored_hash(session, name)
    if wait:
        minutes = -(-wait // 60)
        words = (
            f"Too many wrong tries. Wait {minutes} minute{'s' * (minutes != 1)}, then try again."
        )
        raise TooManyTriesError(words, wait)
    return hashed


def end(engine: Engine, name: str, address: str, hashed: str | None, *, good: bool) -> str:
    """The token of a session for who has given the right password."""
    token = None
    if good and hashed:
        with Session(engine) as session, session.begin():
            token = people.open_session(session, name, hashed)
            if token:
                attempts.clear(session, name, address)
    if token is None:
        raise ForbiddenError("Name or password is wrong.")
    return token
