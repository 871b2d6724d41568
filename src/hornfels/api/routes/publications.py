"""Drafts on their way into a directory: what they would write, how far they are, how to go on."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Annotated

from fastapi import APIRouter, Query, Request
from fastapi.responses import Response
from sqlalchemy import Engine
from sqlalchemy.orm import Session

from hornfels.api.address import Route
from hornfels.api.deps import Current, Database, User
from hornfels.api.exporting import attached, exported, sent_as
from hornfels.api.publication_schemas import (
    ClosedInfo,
    CloseReason,
    GoOn,
    PreviewInfo,
    PreviewStep,
    PublicationInfo,
    PublicationStep,
    SaidInfo,
    TemplateFile,
)
from hornfels.api.rights import needs, origin_of
from hornfels.api.schemas import JobInfo
from hornfels.api.turnstile import Turnstile
from hornfels.api.views import job_info
from hornfels.directory.writing import Ahead
from hornfels.formats.changes import exact_record_of, record_of
from hornfels.formats.writes import Said, Step
from hornfels.service import closing, mailing, template_files
from hornfels.service import publications as service
from hornfels.service.editing import domain_for_writing, shown_draft
from hornfels.settings import read_settings

router = APIRouter(
    prefix="/api/domains/{domain}",
    tags=["publications"],
    route_class=Route,
    dependencies=[needs("see")],
)


@router.get("/draft/preview")
async def preview_draft(current: Current, request: Request) -> PreviewInfo:
    """What publishing the draft would write into the directory, step by step, as it is there now.
    Nothing is written.
    """
    shown_draft(current)
    engine: Engine = request.app.state.engine
    asking: Turnstile = request.app.state.asking

    def looked() -> tuple[service.Preview, int | None]:
        with Session(engine) as session:
            told = mailing.would_be_told(session, current)
        return service.preview(engine, current, read_settings()), told

    # It may take a while: those who wait for a server take no place from anybody else.
    async with asking.place():
        found, written_to = await asking.run(looked)
    plan = found.plan
    ahead = found.ahead or [None] * len(plan.steps)
    domain = current.estate.domain
    return PreviewInfo(
        server=found.server,
        problem=found.problem,
        steps=[_step(step, one) for step, one in zip(plan.steps, ahead, strict=True)],
        astray=plan.astray,
        templates=[
            TemplateFile(
                gpo=gpo,
                name=template_files.name_of(domain, gpo),
                place=template_files.place_of(domain, gpo),
            )
            for gpo in dict.fromkeys(op.gpo for op in plan.templates)
        ],
        written_to=written_to,
    )


def _step(step: Step, ahead: Ahead | None) -> PreviewStep:
    records = (
        [exact_record_of(request) for request in ahead.requests]
        if ahead and ahead.requests
        else []
        if ahead and (ahead.done or ahead.problem)
        else [record_of(step.write)]
    )
    return PreviewStep(
        said=_said(step.said),
        done=ahead is not None and ahead.done,
        problem=ahead.problem if ahead else "",
        ldif=b"".join(records).decode().strip().splitlines(),
    )


def _said(said: Iterable[Said]) -> list[SaidInfo]:
    return [
        SaidInfo(subject=one.subject, text=one.text, before=one.before, after=one.after)
        for one in said
    ]


@router.get(
    "/draft/template",
    dependencies=[exported("a security template as the draft has it")],
    response_class=Response,
    responses=sent_as("application/octet-stream", "A security template.", binary=True),
)
def get_template(current: Current, gpo: Annotated[str, Query(max_length=4000)]) -> Response:
    """The security template of one group policy object as the draft has it: the file in the domain
    share where that is mounted, with nothing else changed.
    """
    shown_draft(current)
    file = template_files.corrected(current.published.estate.domain, gpo, read_settings())
    return Response(
        file,
        media_type="application/octet-stream",
        headers=attached(template_files.FILE),
    )


@router.get("/publication")
def get_publication(current: Current, database: Database) -> PublicationInfo | None:
    """The draft that is being written into the directory, or has stopped on the way; null if there
    is none.
    """
    found = service.under_way(database, current.domain_id)
    if found is None:
        return None
    return PublicationInfo(
        draft=found.draft,
        title=found.title,
        author=found.row.author,
        begun_at=found.row.begun_at.isoformat(),
        state="going" if found.going else "stopped",
        back=found.row.back,
        told=found.why,
        job=job_info(found.job) if found.job else None,
        steps=[
            PublicationStep.model_validate({"said": _said(step.said), "state": row.state})
            for row, step in found.steps
        ],
    )


@router.post("/publication", status_code=202, dependencies=[needs("publish", proof=True)])
def go_on(body: GoOn, current: Current, database: Database, user: User) -> JobInfo:
    """Finish what has stopped on the way, or take back what is done of it. The answer is the
    job.
    """
    domain = domain_for_writing(database, current)
    return job_info(service.go_on(database, domain, user, back=body.back))


@router.post("/publication/close", dependencies=[needs("settings", proof=True)])
async def close(body: CloseReason, current: Current, request: Request) -> ClosedInfo:
    """Close a publication that has stopped on the way as the directory is: the history keeps what
    the directory holds of each step, the draft is open again, and the domain is synced.
    """
    engine: Engine = request.app.state.engine
    asking: Turnstile = request.app.state.asking
    name, origin = current.estate.domain.dns_name, origin_of(request)
    async with asking.place():
        job = await asking.run(closing.close, engine, name, body.reason, read_settings(), origin)
    return ClosedInfo(job=job_info(job) if job else None)
