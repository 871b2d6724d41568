"""What the people under a domain's policies are written."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from pathlib import Path as Folder
from typing import Annotated, cast
from uuid import UUID

from fastapi import APIRouter, Path, Query, Request
from fastapi.responses import HTMLResponse, Response

from hornfels.api.address import Route
from hornfels.api.deps import Current, Database, User
from hornfels.api.exporting import sent_as
from hornfels.api.mailing_schemas import (
    AboutCount,
    KeptLetter,
    LetterInfo,
    LetterShown,
    MailingEdit,
    MailingInfo,
    MailingTried,
    PlannedInfo,
    PlannedLetter,
    PolicyChoice,
    SampleAsked,
    SampleLooked,
    TestAsked,
)
from hornfels.api.people_schemas import ActAnswer
from hornfels.api.refusals import answers
from hornfels.api.rights import needs
from hornfels.api.views import job_info
from hornfels.core.mailing.due import KINDS
from hornfels.core.resolution.engine import DOMAIN_POLICY
from hornfels.mail import mailbox as kept
from hornfels.refusals import ConflictError, NotFoundError
from hornfels.service import mailing
from hornfels.service.naming import policy_name, policy_ref
from hornfels.service.places import snapshot_at
from hornfels.settings import read_settings
from hornfels.store import jobs, letters
from hornfels.store.letters import State

router = APIRouter(
    prefix="/api/domains/{domain}/mailing",
    tags=["mailing"],
    route_class=Route,
    dependencies=[needs("settings")],
)

LATELY = timedelta(hours=24)
MOST_SHOWN = 100
MOST_LETTERS = 200
_LOOKS_ONLY = {
    "Content-Security-Policy": (
        "default-src 'none'; style-src 'unsafe-inline'; sandbox; frame-ancestors 'self'"
    )
}
"""A letter brings its looks in itself, as mail programs want it; it may do nothing else."""
_A_PAGE = sent_as("text/html", "The letter.")


@router.get("")
def get_mailing(current: Current, database: Database) -> MailingInfo:
    """What is chosen, how letters get out, and what came of it."""
    where, live = read_settings(), current.live
    held = mailing.held(database, live)
    try:
        server, trouble = mailing.needed(where), ""
    except ConflictError as error:
        server, trouble = None, str(error)
    job = jobs.last_of(database, ("mailing",), live.estate.domain.dns_name)
    return MailingInfo(
        mailing=held.mailing,
        version=held.version,
        server=str(server) if server else "",
        security=where.smtp_security,
        sender=where.smtp_sender,
        trouble=trouble,
        stand_in=where.mailbox is not None,
        languages=mailing.texts(where).languages,
        policies=[
            PolicyChoice(ref=policy_ref(live, one), name=policy_name(live, one))
            for one in (*range(len(live.estate.policies)), DOMAIN_POLICY)
        ],
        looked_at=held.looked_at.isoformat() if held.looked_at else None,
        told=held.told,
        job=job_info(job) if job else None,
        lately=letters.counted(database, live.domain_id, datetime.now(UTC) - LATELY),
    )


@router.put("", responses=answers(409), dependencies=[needs("settings", proof=True)])
def put_mailing(body: MailingEdit, current: Current, database: Database, user: User) -> ActAnswer:
    """Choose what people are written about, or that nobody is. Where approval is required, a second
    person has to agree.
    """
    done = mailing.choose(
        database,
        current.live,
        body.mailing,
        body.version,
        body.reason,
        read_settings(),
        user,
        confirmed_host=body.confirmed_host,
    )
    return ActAnswer(waits=not done)


@router.post("/planned", dependencies=[needs("settings", proof=False)])
def planned(body: MailingTried, current: Current, database: Database) -> PlannedInfo:
    """Who would be written to just now. Nothing is sent."""
    live = current.live
    mailing.refuse(body.mailing, live)
    plan = mailing.planned(database, live, body.mailing, datetime.now(UTC))
    accounts, counts = live.estate.accounts, plan.by_kind
    texts = mailing.texts(read_settings())
    return PlannedInfo(
        people=len(plan.to),
        by_kind=[AboutCount(kind=kind, people=counts[kind]) for kind in KINDS if counts[kind]],
        first=[
            PlannedLetter(
                account=accounts.name[row],
                display_name=accounts.display_name[row],
                address=accounts.mail[row],
                language=texts.language_for(accounts.language[row]),
                about=[one.kind for one in notices],
            )
            for row, notices in list(plan.to.items())[:MOST_SHOWN]
        ],
        unreachable=len(plan.unreachable),
        without_address=[accounts.name[row] for row in plan.unreachable[:MOST_SHOWN]],
    )


@router.post("/sample", responses=answers(409), dependencies=[needs("settings", proof=False)])
def sample(body: SampleAsked, current: Current) -> LetterShown:
    """What an account would be written about something. Nothing is sent."""
    live = current.live
    mailing.refuse(body.mailing, live)
    letter, to = mailing.sample(
        live, body.account, body.kind, body.language, body.mailing, read_settings()
    )
    return LetterShown(
        to=to,
        language=letter.language,
        subject=letter.subject,
        lines=letter.text.splitlines(),
    )


@router.get("/sample", response_class=Response, responses={**_A_PAGE, **answers(409)})
def sample_page(asked: Annotated[SampleLooked, Query()], current: Current) -> HTMLResponse:
    """What an account would be written about something, as a mail program shows it."""
    live, given = current.live, asked.mailing
    mailing.refuse(given, live)
    letter, _ = mailing.sample(
        live, asked.account, asked.kind, asked.language, given, read_settings()
    )
    return HTMLResponse(letter.html, headers=_LOOKS_ONLY)


@router.post(
    "/test", status_code=204, responses=answers(409), dependencies=[needs("settings", proof=False)]
)
async def send_test(body: TestAsked, domain: str, user: User, request: Request) -> None:
    """Hand over one letter that says it is a test."""
    asking = request.app.state.asking
    async with asking.place():
        await asking.run(_test, request, domain, body, user)


def _test(request: Request, domain: str, body: TestAsked, user: str) -> None:
    live = snapshot_at(domain, request.app.state.snapshots).live
    mailing.refuse(body.mailing, live)
    mailing.send_test(live, body.address, body.mailing, user, read_settings())


@router.post(
    "/now", status_code=204, responses=answers(409), dependencies=[needs("settings", proof=True)]
)
def write_now(current: Current, database: Database, user: User) -> None:
    """Look at once whom to write to, and write, also in quiet hours."""
    if not mailing.held(database, current.live).mailing.on:
        raise ConflictError("Nobody is written to: switch it on first.")
    mailing.begin_now(database, current.live, user)
    database.commit()


@router.get("/letters")
def list_letters(
    current: Current, database: Database, account: Annotated[str, Query(max_length=1000)] = ""
) -> list[LetterInfo]:
    """The latest letters and what became of them, those to one account where it is named."""
    found = letters.latest(database, current.domain_id, account, MOST_LETTERS)
    return [
        LetterInfo(
            id=row.id,
            account=row.account,
            address=row.address,
            language=row.language,
            about=[one.kind for one in letters.about_of(row)],
            state=cast(State, row.state),
            tries=row.tries,
            told=row.told,
            made_at=row.made_at.isoformat(),
            changed_at=row.changed_at.isoformat(),
        )
        for row in found
    ]


@router.post(
    "/letters/{letter}/again",
    status_code=204,
    responses=answers(404, 409),
    dependencies=[needs("settings", proof=False)],
)
def send_again(letter: UUID, current: Current, database: Database) -> None:
    """Have a letter handed over once more that was refused, or may have gone."""
    mailing.again(database, current.live, letter)


@router.get("/mailbox", responses=answers(404))
def mailbox(current: Current) -> list[KeptLetter]:
    """What the stand-in for a mail server has kept, the latest first."""
    assert current  # noqa: S101 - the domain is there
    return [
        KeptLetter(
            name=one.name,
            at=one.at.isoformat(),
            to=one.to,
            sender=one.sender,
            subject=one.subject,
            language=one.language,
            lines=one.text.splitlines(),
        )
        for one in kept.letters(_kept_in(), MOST_SHOWN)
    ]


@router.get("/mailbox/{letter}", response_class=Response, responses={**_A_PAGE, **answers(404)})
def kept_page(letter: Annotated[str, Path(max_length=40)], current: Current) -> HTMLResponse:
    """A letter that the stand-in has kept, as a mail program shows it."""
    assert current  # noqa: S101 - the domain is there
    found = kept.page(_kept_in(), letter)
    if found is None:
        raise NotFoundError("The stand-in keeps this letter no longer.")
    return HTMLResponse(found, headers=_LOOKS_ONLY)


def _kept_in() -> Folder:
    folder = read_settings().mailbox
    if folder is None:
        raise NotFoundError("Letters go to a mail server; no stand-in keeps them.")
    return folder
