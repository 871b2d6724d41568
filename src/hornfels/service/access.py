"""Signing in, proving that one is still there, and another password. Comparing a password takes a
tenth of a second and much memory, so the steps stand apart: no connection is in hand while it is
compared.
"""

from __future__ import annotations

from datetime import UTC, datetime

from sqlalchemy import Engine
from sqlalchemy.orm import Session

from hornfels.core.rights.own_passwords import judged
from hornfels.openid import Claimed
from hornfels.refusals import FieldsError, ForbiddenError, TooManyTriesError
from hornfels.store import attempts, people, sessions
from hornfels.store.trail import Origin, act_for, note

UNKNOWN = "somebody unknown"
"""Stands in the trail for a name that nobody has: it may be a password that was typed in the wrong
field.
"""
LONG_AGO = datetime.fromtimestamp(0, UTC)


def begin(engine: Engine, name: str, origin: Origin) -> str | None:
    """Count the try as bad before it is looked at, and give what the password is compared with.
    Raises `TooManyTriesError` where none is taken for a while, the right one neither.
    """
    with Session(engine) as session, session.begin():
        wait, began = attempts.begin(session, name, origin.address)
        hashed = people.stored_hash(session, name)
        if began:
            act_for(session, origin)
            note(session, "sign-in locked", person=known(session, name))
    if wait:
        minutes = -(-wait // 60)
        words = (
            f"Too many wrong tries. Wait {minutes} minute{'s' * (minutes != 1)}, then try again."
        )
        raise TooManyTriesError(words, wait)
    return hashed


def end(
    engine: Engine,
    name: str,
    origin: Origin,
    hashed: str | None,
    *,
    good: bool,
    earlier: str | None,
    agent: str,
) -> str:
    """The token of a session for who has given the right password; the one that this browser had
    before ends.
    """
    token = None
    with Session(engine) as session, session.begin():
        act_for(session, origin)
        if good and hashed:
            token = sessions.open_session(
                session, name, hashed, address=origin.address, agent=agent
            )
        if token:
            attempts.clear(session, name, origin.address)
            if earlier:
                sessions.end(session, earlier)
            note(session, "sign-in", person=name, browser=agent[:200])
        else:
            note(session, "sign-in failed", person=known(session, name))
    if token is None:
        raise ForbiddenError("Name or password is wrong.")
    return token


def come_from_provider(
    engine: Engine, claimed: Claimed, origin: Origin, *, earlier: str | None, agent: str
) -> str:
    """The token of a session for whom the provider names; the one that this browser had before
    ends. Raises `ForbiddenError` for whoever was not added to come from there.
    """
    token = None
    with Session(engine) as session, session.begin():
        act_for(session, origin)
        row = people.by_subject(session, claimed.subject, claimed.name)
        if row is not None:
            token = sessions.open_session(
                session,
                row.name,
                None,
                address=origin.address,
                agent=agent,
                proved_at=claimed.seen_at or LONG_AGO,
            )
        if row is not None and token:
            if earlier:
                sessions.end(session, earlier)
            note(session, "sign-in", person=row.name, browser=agent[:200], provider=claimed.name)
        else:
            note(session, "sign-in failed", person=UNKNOWN, provider=claimed.name[:200])
    if token is None:
        raise ForbiddenError(
            f"Nobody comes in here as {claimed.name[:100]}. Ask an administrator of Hornfels to "
            "add you by this name."
        )
    return token


def proven_at_provider(
    engine: Engine, visitor: sessions.Visitor, claimed: Claimed, origin: Origin
) -> None:
    """Somebody in a session has shown the provider once more who they are. Raises `ForbiddenError`
    if it was somebody else, or not just now.
    """
    with Session(engine) as session, session.begin():
        act_for(session, origin)
        row = people.find(session, visitor.name)
        there = row is not None and row.subject == claimed.subject
        fresh = claimed.seen_at and datetime.now(UTC) - claimed.seen_at <= sessions.PROOF
        if there and fresh and visitor.session:
            sessions.prove(session, visitor.session)
        note(session, "shown again" if there and fresh else "not shown again")
    if not there:
        raise ForbiddenError("The provider named somebody else than who is signed in here.")
    if not fresh:
        raise ForbiddenError(
            "The provider did not ask who you are, or does not say when it did (claim auth_time)."
        )


def known(session: Session, name: str) -> str:
    return name if people.find(session, name) else UNKNOWN


def sign_out(database: Session, token: str) -> None:
    name = sessions.end(database, token)
    if name:
        note(database, "sign-out", person=name)
    database.commit()


def proven(
    engine: Engine, visitor: sessions.Visitor, origin: Origin, hashed: str | None, *, good: bool
) -> None:
    """The password was compared once more in a session. Raises `ForbiddenError` if it was wrong."""
    with Session(engine) as session, session.begin():
        act_for(session, origin)
        there = good and visitor.session and people.stored_hash(session, visitor.name) == hashed
        if there and visitor.session:
            sessions.prove(session, visitor.session)
            attempts.clear(session, visitor.name, origin.address)
        note(session, "password given again" if there else "password given wrong")
    if not there:
        raise ForbiddenError("The password is wrong.")


def visitor_of(engine: Engine, token: str) -> sessions.Visitor:
    """Whoever has just been given a session."""
    with Session(engine) as session, session.begin():
        found = sessions.visitor(session, token)
    if found is None:
        raise ForbiddenError("The session has ended already. Sign in again.")
    return found


def refuse_weak(name: str, password: str, field: str = "password", unlike: str = "") -> None:
    """Raises `FieldsError` unless our own policy takes the password, and it is another one."""
    if password and password == unlike:
        raise FieldsError((field, "This is the password you have. Choose another one."))
    verdict = judged(name, password)
    if not verdict.accepted:
        raise FieldsError((field, verdict.told))


def change_password(
    engine: Engine,
    visitor: sessions.Visitor,
    origin: Origin,
    hashed: str | None,
    fresh: str,
    *,
    good: bool,
    token: str,
) -> None:
    """Give the person the password that `fresh` is the hash of; other sessions of theirs end."""
    with Session(engine) as session, session.begin():
        act_for(session, origin)
        row = people.find(session, visitor.name, for_writing=True)
        there = good and row is not None and row.password_hash == hashed
        if there and row:
            people.set_password(session, row, fresh, keep=sessions.digest(token))
            attempts.clear(session, visitor.name, origin.address)
            if visitor.session:
                sessions.prove(session, visitor.session)
        note(session, "password changed" if there else "password given wrong")
    if not there:
        raise FieldsError(("present", "This is not your present password."))
