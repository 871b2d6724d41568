"""Signing in and out."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Cookie, HTTPException, Request, Response
from sqlalchemy import Engine
from sqlalchemy.orm import Session

from hornfels.api.address import Route
from hornfels.api.deps import Database
from hornfels.api.guard import COOKIE
from hornfels.api.refusals import answers
from hornfels.api.schemas import SignedIn, SignIn
from hornfels.store import attempts, people

router = APIRouter(prefix="/api/session", tags=["session"], route_class=Route)


@router.get("")
def who(database: Database, hornfels_session: Annotated[str | None, Cookie()] = None) -> SignedIn:
    """Who is signed in in this browser; nobody is an answer too."""
    return SignedIn(name=people.signed_in(database, hornfels_session) if hornfels_session else None)


@router.post("", responses=answers(429))
async def sign_in(body: SignIn, request: Request, response: Response) -> SignedIn:
    """Open a session. After too many bad tries no more are taken for a while, the right one
    neither.
    """
    engine, address = request.app.state.engine, request.client.host if request.client else ""
    password = body.password.get_secret_value()
    # A tenth of a second of every processor it gets, and much memory: few at a time, and no
    # connection in hand meanwhile.
    comparing = request.app.state.comparing
    async with comparing.place():
        hashed = await comparing.run(_begin, engine, body.name, address)
        good = await comparing.run(people.matches, hashed, password)
        token = (
            await comparing.run(_end, engine, body.name, address, hashed)
            if good and hashed
            else None
        )
    if token is None:
        raise HTTPException(403, "Name or password is wrong.")
    secure = request.url.scheme == "https"
    response.set_cookie(COOKIE, token, httponly=True, samesite="strict", secure=secure, path="/")
    return SignedIn(name=body.name)


def _begin(engine: Engine, name: str, address: str) -> str | None:
    with Session(engine) as session, session.begin():
        wait = attempts.begin(session, name, address)
        hashed = people.stored_hash(session, name)
    if wait:
        minutes = -(-wait // 60)
        words = (
            f"Too many wrong tries. Wait {minutes} minute{'s' * (minutes != 1)}, then try again."
        )
        raise HTTPException(429, words, headers={"Retry-After": str(wait)})
    return hashed


def _end(engine: Engine, name: str, address: str, hashed: str) -> str | None:
    with Session(engine) as session, session.begin():
        token = people.open_session(session, name, hashed)
        if token:
            attempts.clear(session, name, address)
    return token


@router.delete("", status_code=204)
def sign_out(
    response: Response, database: Database, hornfels_session: Annotated[str | None, Cookie()] = None
) -> None:
    if hornfels_session:
        people.sign_out(database, hornfels_session)
        database.commit()
    response.delete_cookie(COOKIE, path="/")
