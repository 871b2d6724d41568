"""The page of the people under the policies. Whoever comes here is known by what they have in the
directory, and comes nowhere else by it.
"""

from __future__ import annotations

from functools import partial
from typing import Annotated

from anyio.to_thread import run_sync
from fastapi import APIRouter, Cookie, Depends, Request, Response
from sqlalchemy.orm import Session

from hornfels.api.address import Route
from hornfels.api.bench_schemas import CardWay
from hornfels.api.guard import YOUR_COOKIE, YOURS
from hornfels.api.own_page_schemas import (
    OwnBand,
    OwnChange,
    OwnInfo,
    OwnLock,
    OwnPageInfo,
    OwnSignIn,
    OwnSuggestion,
    OwnTick,
    OwnTry,
    OwnVerdict,
)
from hornfels.api.refusals import answers
from hornfels.api.rights import OPEN, UNDER_POLICY, address_of, origin_of
from hornfels.api.routes.advice import card_lines
from hornfels.api.same_time import same_time_for_refusals
from hornfels.api.snapshot_cache import cached_snapshot
from hornfels.api.views import iso
from hornfels.core.passwords.card import in_words
from hornfels.service import own_page
from hornfels.service.own_page import OwnPage
from hornfels.settings import read_settings
from hornfels.store.own_page import Person, domains_open, end

router = APIRouter(prefix=YOURS, tags=["own page"], route_class=Route)

Token = Annotated[str | None, Cookie(alias=YOUR_COOKIE)]


async def get_person(request: Request) -> Person:
    found = request.state.own_person
    assert isinstance(found, Person)  # noqa: S101
    return found


Themselves = Annotated[Person, Depends(get_person)]


@router.get("", dependencies=[OPEN])
async def you(request: Request, token: Token = None) -> OwnPageInfo:
    """Who is known in this browser, and what holds for their password; nobody is an answer too."""
    state = request.app.state
    person: Person | None = request.state.own_person
    found = None
    async with state.asking_own.share(address_of(request)):
        domains = await state.asking_own.run(_domains, request)
        if person is not None and token is not None:
            current = await cached_snapshot(person.domain, request)
            page = partial(own_page.page_of, state.engine, current, person, token, read_settings())
            found = await state.asking_own.run(page)
    return OwnPageInfo(person=_info(found) if found else None, domains=domains)


def _domains(request: Request) -> list[str]:
    with Session(request.app.state.engine) as session:
        return domains_open(session)


def _info(page: OwnPage) -> OwnInfo:
    told = page.card
    return OwnInfo(
        name=page.person.name,
        display_name=page.display_name,
        domain=page.person.domain,
        must_change=page.person.must_change,
        must=card_lines(told.must),
        ways=[CardWay(path=way.path, lines=card_lines(way.lines)) for way in told.ways],
        refusals=list(told.refusals),
        later=list(told.later),
        set_at=iso(page.password_set) if page.password_set > 0 else None,
        ends_at=None if page.ends is None else iso(page.ends),
        ends_why=page.why,
        changes_from=None if page.changes_from is None else iso(page.changes_from),
        lock=OwnLock(until=None if page.lock.until is None else iso(page.lock.until))
        if page.lock.locked
        else None,
        bands=[OwnBand(length=one.length, lasts=in_words(one.lifetime)) for one in page.bands],
    )


@router.post("/session", status_code=204, responses=answers(404, 429), dependencies=[OPEN])
async def sign_in(
    body: OwnSignIn, request: Request, response: Response, token: Token = None
) -> None:
    """Sign in to the self-service page with the name and password of the directory. All refusals
    sound alike and take as long.
    """
    state = request.app.state
    async with same_time_for_refusals(), state.asking_own.share(address_of(request)):
        domain = await state.asking_own.run(
            own_page.domain_for, state.engine, body.name, body.domain
        )
        current = await cached_snapshot(domain, request)
        come = partial(
            own_page.sign_in,
            state.engine,
            current,
            body.name,
            body.password.get_secret_value(),
            origin_of(request),
            read_settings(),
            earlier=token,
        )
        fresh = await state.asking_own.run(come)
    response.set_cookie(
        YOUR_COOKIE,
        fresh,
        httponly=True,
        samesite="strict",
        secure=request.url.scheme == "https",
        path=YOURS,
    )


@router.delete("/session", status_code=204, dependencies=[OPEN])
async def sign_out(request: Request, response: Response, token: Token = None) -> None:
    """Be known here no more."""
    if token:
        asking = request.app.state.asking_own
        async with asking.share(address_of(request)):
            await asking.run(_end, request, token)
    response.delete_cookie(YOUR_COOKIE, path=YOURS)


def _end(request: Request, token: str) -> None:
    with Session(request.app.state.engine) as session, session.begin():
        end(session, token)


@router.post("/verdicts", dependencies=[UNDER_POLICY])
async def verdict(body: OwnTry, person: Themselves, request: Request) -> OwnVerdict:
    """What the rules say to a candidate for one's own change."""
    current = await cached_snapshot(person.domain, request)
    candidate, present = body.candidate.get_secret_value(), body.present.get_secret_value()
    found = await run_sync(own_page.tried, current, person, candidate, present)
    request.app.state.metrics.verdicts.inc()
    return OwnVerdict(
        accepted=found.verdict.accepted,
        certain=found.verdict.certain,
        told=found.verdict.told,
        ticks=[
            OwnTick(rule=one.rule, path=one.path, status=one.status)
            for one in found.verdict.judgements
        ],
        band=found.band,
    )


@router.post("/suggestions", dependencies=[UNDER_POLICY])
async def suggestions(person: Themselves, request: Request) -> list[OwnSuggestion]:
    """Passwords that one could choose."""
    current = await cached_snapshot(person.domain, request)
    found = await run_sync(own_page.suggestions, current, person)
    return [OwnSuggestion(text=one.text) for one in found]


@router.post(
    "/password", status_code=204, responses=answers(404, 409, 429), dependencies=[UNDER_POLICY]
)
async def change(
    body: OwnChange, person: Themselves, request: Request, token: Token = None
) -> None:
    """Change one's own password in the directory; one is known in no other browser then."""
    state = request.app.state
    current = await cached_snapshot(person.domain, request)
    async with state.asking_own.share(address_of(request)):
        change_it = partial(
            own_page.change,
            state.engine,
            current,
            person,
            token or "",
            body.present.get_secret_value(),
            body.fresh.get_secret_value(),
            origin_of(request)._replace(person=f"{person.name}@{person.domain}"),
            read_settings(),
        )
        await state.asking_own.run(change_it)
