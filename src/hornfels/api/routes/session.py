"""Signing in and out, here or at the provider; one's sessions, one's password, one's tokens."""

from __future__ import annotations

from functools import partial
from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Cookie, Request, Response

from hornfels.api.address import Route
from hornfels.api.deps import Database
from hornfels.api.guard import COOKIE
from hornfels.api.people_schemas import (
    ElsewhereAsked,
    ElsewhereBack,
    ElsewherePlace,
    PasswordChange,
    PasswordGiven,
    SessionInfo,
    TokenInfo,
    TokenMade,
    TokenNew,
)
from hornfels.api.refusals import answers
from hornfels.api.rights import IN_PERSON, OPEN, Person, allowed, origin_of, prove, signed_in
from hornfels.api.same_time import same_time_for_refusals
from hornfels.api.schemas import SignedIn, SignIn
from hornfels.core.rights.roles import EVERYWHERE, RIGHTS
from hornfels.openid import Provider, Way
from hornfels.refusals import ForbiddenError, NotFoundError
from hornfels.service import access, doors, tokens
from hornfels.settings import read_settings
from hornfels.store import own_page, people, sessions
from hornfels.store.models import TokenRow
from hornfels.store.sessions import Visitor
from hornfels.store.trail import note

router = APIRouter(prefix="/api/session", tags=["session"], route_class=Route)

Token = Annotated[str | None, Cookie(alias=COOKIE)]

_WAY = "hornfels_way"
_ELSEWHERE = "/api/session/elsewhere"
_AWAY = 900
"""Seconds that somebody may take at the provider."""


def _provider(request: Request) -> Provider:
    found = request.app.state.provider
    if not isinstance(found, Provider):
        raise NotFoundError("No provider is set here: sign in with name and password.")
    return found


@router.get("", dependencies=[OPEN])
def who(request: Request, database: Database, token: Token = None) -> SignedIn:
    """Who is signed in in this browser; nobody is an answer too."""
    found = sessions.visitor(database, token) if token else None
    database.commit()
    signed_in = _signed_in(found, request)
    signed_in.own_page = bool(own_page.domains_open(database))
    return signed_in


def _signed_in(visitor: Visitor | None, request: Request) -> SignedIn:
    provider = request.app.state.provider
    title = provider.title if isinstance(provider, Provider) else ""
    if visitor is None:
        return SignedIn(name=None, provider=title)
    anywhere, everywhere = allowed(visitor, None), allowed(visitor, EVERYWHERE)
    return SignedIn(
        elsewhere=visitor.elsewhere,
        directory=visitor.directory,
        provider=title,
        name=visitor.name,
        one_time=visitor.one_time,
        rights=[right for right in RIGHTS if right in anywhere],
        everywhere=[right for right in RIGHTS if right in everywhere],
    )


@router.post("", responses=answers(429), dependencies=[OPEN])
async def sign_in(
    body: SignIn, request: Request, response: Response, token: Token = None
) -> SignedIn:
    """Open a session; the one that this browser had ends. After too many bad tries no more are
    taken for a while, the right one neither.
    """
    engine, origin = request.app.state.engine, origin_of(request)
    password = body.password.get_secret_value()
    agent = request.headers.get("user-agent", "")
    asking = request.app.state.asking
    domain = await asking.run(doors.domain_at, engine, body.name)
    if domain is not None:
        async with same_time_for_refusals(), asking.place():
            name = doors.one_spelling(body.name)
            await asking.run(access.begin, engine, name, origin)
            current = await asking.run(request.app.state.snapshots.of, domain)
            ask = partial(doors.ask, engine, current, domain, name, password, read_settings())
            come = await asking.run(ask)
            let_in = partial(
                doors.come_in,
                engine,
                name,
                come,
                origin,
                earlier=token,
                agent=agent,
            )
            fresh = await asking.run(let_in)
            found = await asking.run(access.visitor_of, engine, fresh)
        _keep(request, response, fresh)
        return _signed_in(found, request)
    # A tenth of a second of every processor it gets, and much memory: few at a time, and no
    # connection in hand meanwhile.
    comparing = request.app.state.comparing
    async with comparing.place():
        hashed = await comparing.run(access.begin, engine, body.name, origin)
        good = await comparing.run(people.matches, hashed, password)
        end = partial(
            access.end,
            engine,
            body.name,
            origin,
            hashed,
            good=good,
            earlier=token,
            agent=agent,
        )
        fresh = await comparing.run(end)
        found = await comparing.run(access.visitor_of, engine, fresh)
    _keep(request, response, fresh)
    return _signed_in(found, request)


def _keep(request: Request, response: Response, token: str) -> None:
    """Let the browser keep the token of its session."""
    secure = request.url.scheme == "https"
    response.set_cookie(COOKIE, token, httponly=True, samesite="strict", secure=secure, path="/")


@router.post("/elsewhere", responses=answers(404), dependencies=[OPEN])
async def go_elsewhere(
    body: ElsewhereAsked, request: Request, response: Response
) -> ElsewherePlace:
    """Begin to sign in at the provider: the browser goes there, and comes back to the page
    `/signed-in`.
    """
    provider = _provider(request)
    asking = request.app.state.asking
    async with asking.place():
        begin = partial(provider.begin, _back(request), again=body.again)
        address, way = await asking.run(begin)
    secure = request.url.scheme == "https"
    response.set_cookie(
        _WAY,
        way.text(),
        max_age=_AWAY,
        httponly=True,
        samesite="strict",
        secure=secure,
        path=_ELSEWHERE,
    )
    return ElsewherePlace(address=address)


def _back(request: Request) -> str:
    return f"{request.url.scheme}://{request.headers['host']}/signed-in"


@router.post("/elsewhere/back", responses=answers(404), dependencies=[OPEN])
async def come_back(
    body: ElsewhereBack,
    request: Request,
    response: Response,
    token: Token = None,
    kept: Annotated[str | None, Cookie(alias=_WAY)] = None,
) -> SignedIn:
    """Open a session for whom the provider has sent back, or take it that they are there still."""
    provider, way = _provider(request), Way.of(kept or "")
    if body.error or not body.code:
        raise ForbiddenError("The provider did not let you in. Begin once more.")
    if way is None:
        raise ForbiddenError("This sign-in was begun elsewhere or long ago. Begin it once more.")
    engine, origin = request.app.state.engine, origin_of(request)
    asking = request.app.state.asking
    async with asking.place():
        end = partial(provider.end, _back(request), way, body.state, body.code, body.iss)
        claimed = await asking.run(end)
        if way.again:
            found = await asking.run(access.visitor_of, engine, token or "")
            origin = origin._replace(person=found.name)
            await asking.run(access.proven_at_provider, engine, found, claimed, origin)
        else:
            come = partial(
                access.come_from_provider,
                engine,
                claimed,
                origin,
                earlier=token,
                agent=request.headers.get("user-agent", ""),
            )
            fresh = await asking.run(come)
            found = await asking.run(access.visitor_of, engine, fresh)
            _keep(request, response, fresh)
    # A code is taken once.
    response.delete_cookie(_WAY, path=_ELSEWHERE)
    return _signed_in(found, request)


@router.delete("", status_code=204, dependencies=[OPEN])
def sign_out(response: Response, database: Database, token: Token = None) -> None:
    if token:
        access.sign_out(database, token)
    response.delete_cookie(COOKIE, path="/")


@router.post(
    "/proof",
    status_code=204,
    responses=answers(429),
    dependencies=[signed_in(proof=False, in_person=True)],
)
async def prove_oneself(body: PasswordGiven, request: Request, visitor: Person) -> None:
    """Give one's password once more, before something that takes it."""
    engine, origin = request.app.state.engine, origin_of(request)
    given = body.password.get_secret_value()
    if visitor.directory is not None:
        asking = request.app.state.asking
        domain = visitor.directory
        async with asking.place():
            await asking.run(access.begin, engine, visitor.name, origin)
            current = await asking.run(request.app.state.snapshots.of, domain)
            ask = partial(doors.ask, engine, current, domain, visitor.name, given, read_settings())
            come = await asking.run(ask)
            await asking.run(doors.proven, engine, visitor, come, origin)
        return
    comparing = request.app.state.comparing
    async with comparing.place():
        hashed = await comparing.run(access.begin, engine, visitor.name, origin)
        good = await comparing.run(people.matches, hashed, given)
        end = partial(access.proven, engine, visitor, origin, hashed, good=good)
        await comparing.run(end)


@router.post(
    "/password",
    status_code=204,
    responses=answers(429),
    dependencies=[signed_in(proof=False, in_person=True)],
)
async def change_password(
    body: PasswordChange, request: Request, visitor: Person, token: Token = None
) -> None:
    """Give oneself another password; one's other sessions end."""
    present, fresh = body.present.get_secret_value(), body.fresh.get_secret_value()
    access.refuse_weak(visitor.name, fresh, "fresh", unlike=present)
    engine, origin = request.app.state.engine, origin_of(request)
    comparing = request.app.state.comparing
    async with comparing.place():
        hashed = await comparing.run(access.begin, engine, visitor.name, origin)
        good = await comparing.run(people.matches, hashed, present)
        value = await comparing.run(people.hashed, fresh)
        end = partial(
            access.change_password,
            engine,
            visitor,
            origin,
            hashed,
            value,
            good=good,
            token=token or "",
        )
        await comparing.run(end)


@router.get("/all", dependencies=[IN_PERSON])
def list_sessions(visitor: Person, database: Database) -> list[SessionInfo]:
    """One's own sessions, the latest used first."""
    return [
        SessionInfo(
            id=row.id,
            here=row.id == visitor.session,
            opened_at=row.opened_at.isoformat(),
            seen_at=row.seen_at.isoformat(),
            ends_at=min(row.expires_at, row.seen_at + sessions.IDLE).isoformat(),
            address=row.address,
            agent=row.agent,
        )
        for row in sessions.of_person(database, visitor.name)
    ]


@router.delete("/all", status_code=204, dependencies=[signed_in(proof=False, in_person=True)])
def sign_out_elsewhere(visitor: Person, database: Database) -> None:
    """End all of one's sessions but the one that asks."""
    sessions.end_all(database, visitor.name, but=visitor.session)
    note(database, "sign-out", "all other sessions")
    database.commit()


@router.delete(
    "/all/{session}", status_code=204, dependencies=[signed_in(proof=False, in_person=True)]
)
def end_session(session: UUID, visitor: Person, database: Database) -> None:
    """End one of one's own sessions."""
    sessions.end_one(database, visitor.name, session)
    note(database, "sign-out", "another session")
    database.commit()


@router.get("/tokens", dependencies=[IN_PERSON])
def list_tokens(visitor: Person, database: Database) -> list[TokenInfo]:
    """One's own tokens, the latest first."""
    return [_token(row) for row in sessions.tokens_of(database, visitor.name)]


@router.post("/tokens", status_code=201, dependencies=[signed_in(proof=True, in_person=True)])
def make_token(body: TokenNew, visitor: Person, database: Database) -> TokenMade:
    """Make a token by which a script acts for oneself. It is shown this once."""
    prove(visitor)
    row, text = tokens.make(
        database, visitor, body.title, body.domain, body.rights, body.days, allowed
    )
    return TokenMade(token=_token(row), text=text)


@router.delete(
    "/tokens/{token}", status_code=204, dependencies=[signed_in(proof=False, in_person=True)]
)
def drop_token(token: UUID, visitor: Person, database: Database) -> None:
    """Let a token open nothing any more."""
    tokens.drop(database, visitor, token)


def _token(row: TokenRow) -> TokenInfo:
    return TokenInfo(
        id=row.id,
        title=row.title,
        domain=row.domain,
        rights=row.rights,
        made_at=row.made_at.isoformat(),
        ends_at=row.ends_at.isoformat(),
        used_at=row.used_at.isoformat() if row.used_at else None,
        ended=tokens.ended(row),
    )
