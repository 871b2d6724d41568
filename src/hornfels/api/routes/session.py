"""Signing in and out."""

from __future__ import annotations

from functools import partial
from typing import Annotated

from fastapi import APIRouter, Cookie, Request, Response

from hornfels.api.address import Route
from hornfels.api.deps import Database
from hornfels.api.guard import COOKIE
from hornfels.api.refusals import answers
from hornfels.api.schemas import SignedIn, SignIn
from hornfels.service import access
from hornfels.store import people

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
        hashed = await comparing.run(access.begin, engine, body.name, address)
        good = await comparing.run(people.matches, hashed, password)
        end = partial(access.end, engine, body.name, address, hashed, good=good)
        token = await comparing.run(end)
    secure = request.url.scheme == "https"
    response.set_cookie(COOKIE, token, httponly=True, samesite="strict", secure=secure, path="/")
    return SignedIn(name=body.name)


@router.delete("", status_code=204)
def sign_out(
    response: Response, database: Database, hornfels_session: Annotated[str | None, Cookie()] = None
) -> None:
    if hornfels_session:
        people.sign_out(database, hornfels_session)
        database.commit()
    response.delete_cookie(COOKIE, path="/")
