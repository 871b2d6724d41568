"""Signing in and out."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Cookie, HTTPException, Request, Response

from hornfels.api.deps import COOKIE, Database
from hornfels.api.schemas import SignedIn, SignIn
from hornfels.store import people

router = APIRouter(prefix="/api/session", tags=["session"])


@router.get("")
def who(database: Database, hornfels_session: Annotated[str | None, Cookie()] = None) -> SignedIn:
    """Who is signed in in this browser; nobody is an answer too."""
    return SignedIn(name=people.signed_in(database, hornfels_session) if hornfels_session else None)


@router.post("")
def sign_in(body: SignIn, request: Request, response: Response, database: Database) -> SignedIn:
    token = people.sign_in(database, body.name, body.password.get_secret_value())
    database.commit()
    if token is None:
        raise HTTPException(403, "Name or password is wrong.")
    secure = request.url.scheme == "https"
    response.set_cookie(COOKIE, token, httponly=True, samesite="strict", secure=secure, path="/")
    return SignedIn(name=body.name)


@router.delete("", status_code=204)
def sign_out(response: Response, database: Database, hornfels_session: Annotated[str | None, Cookie()] = None) -> None:
    if hornfels_session:
        people.sign_out(database, hornfels_session)
        database.commit()
    response.delete_cookie(COOKIE, path="/")
