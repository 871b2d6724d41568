"""Long work: loading an uploaded dump, following a job, stopping it, beginning it again."""

from __future__ import annotations

import asyncio
from collections.abc import AsyncIterator
from typing import Annotated, Literal
from uuid import UUID

from anyio.to_thread import run_sync
from fastapi import APIRouter, HTTPException, Query, Request, Response
from sqlalchemy import Engine
from sqlalchemy.orm import Session
from sse_starlette import EventSourceResponse

from hornfels.api.address import Route
from hornfels.api.deps import Database
from hornfels.api.exporting import sent_as
from hornfels.api.rights import (
    SIGNED_IN,
    Person,
    allowed,
    domains_where,
    needs,
    origin_of,
    prove,
    signed_in,
)
from hornfels.api.schemas import Confirmation, JobInfo
from hornfels.api.views import job_info
from hornfels.api.watching import Watch
from hornfels.core.domain.estate import LinkedGroups
from hornfels.service import loading
from hornfels.store import jobs, uploads
from hornfels.store.models import JobRow
from hornfels.store.sessions import Visitor
from hornfels.store.trail import Origin, act_for

router = APIRouter(prefix="/api", tags=["jobs"], route_class=Route)

LARGEST_UPLOAD = 4 << 30
"""Bytes of an uploaded dump."""
SILENCE = 30.0
"""Seconds within which more of an upload has to come."""
MOST_SHOWN = 5

_BODY = {
    "requestBody": {
        "required": True,
        "content": {"application/octet-stream": {"schema": {"type": "string", "format": "binary"}}},
    }
}


@router.post(
    "/loads", status_code=202, openapi_extra=_BODY, dependencies=[needs("load", proof=True)]
)
async def load(
    request: Request,
    visitor: Person,
    name: Annotated[str, Query(max_length=255)] = "upload",
    linked_groups: Annotated[Literal["global", "any"], Query()] = "global",
) -> JobInfo:
    """Take an LDIF dump (the request's body, which may be packed by gzip); a worker stores its
    domain. The answer is the job.
    """
    announced = request.headers.get("content-length", "0")
    if not announced.isdecimal() or int(announced[:20]) > LARGEST_UPLOAD:
        raise HTTPException(
            413,
            f"The file is too large: at most {LARGEST_UPLOAD >> 30} GB are taken. Pack it by gzip.",
        )
    engine: Engine = request.app.state.engine
    async with request.app.state.uploading.place():
        upload = await run_sync(loading.begin, engine, name)
        try:
            size = await _receive(request, engine, upload)
            return await run_sync(
                _hand_over, engine, upload, size, name, linked_groups, visitor, origin_of(request)
            )
        except BaseException:
            # Whatever happened, also if the browser is gone: nothing of it stays.
            await asyncio.shield(run_sync(loading.drop, engine, upload, abandon_on_cancel=True))
            raise


async def _receive(request: Request, engine: Engine, upload: UUID) -> int:
    """Store the body part by part; no connection is held while it comes in."""
    held, number, size = bytearray(), 0, 0
    stream = request.stream()
    while True:
        try:
            async with asyncio.timeout(SILENCE):
                piece = await anext(stream, b"")
        except TimeoutError:
            raise HTTPException(
                408, "The upload stopped coming. Nothing was stored; send it again."
            ) from None
        held += piece
        size += len(piece)
        if size > LARGEST_UPLOAD:
            raise HTTPException(
                413,
                (
                    f"The file is too large: at most {LARGEST_UPLOAD >> 30} GB are taken. Pack "
                    "it by gzip."
                ),
            )
        while len(held) >= uploads.PART or (held and not piece):
            part = bytes(held[: uploads.PART])
            del held[: uploads.PART]
            await run_sync(loading.add, engine, upload, number, part)
            number += 1
        if not piece:
            return size


def _hand_over(
    engine: Engine,
    upload: UUID,
    size: int,
    name: str,
    linked_groups: LinkedGroups,
    visitor: Visitor,
    origin: Origin,
) -> JobInfo:
    with Session(engine) as session:
        act_for(session, origin)
        row = loading.hand_over(session, upload, size, name, linked_groups, visitor.name)
        return job_info(row)


@router.get("/loads/ready", status_code=204, dependencies=[needs("load", proof=True)])
def may_load() -> None:
    """Return whether a dump may be sent now. Asked before a large file is sent for nothing."""


@router.get("/loads", dependencies=[needs("load")])
def list_loads(database: Database, visitor: Person) -> list[JobInfo]:
    """The latest loads that are one's own or of domains one may load, the newest first: those under
    way too.
    """
    mine = domains_where(visitor, "load")
    found = jobs.latest(database, "load", 10 * MOST_SHOWN)
    shown = [row for row in found if row.user_name == visitor.name or loading.is_theirs(row, mine)]
    return [job_info(row) for row in shown[:MOST_SHOWN]]


@router.get("/jobs/{job}", dependencies=[SIGNED_IN])
def get_job(job: UUID, database: Database, visitor: Person) -> JobInfo:
    return job_info(_seen(database, job, visitor))


@router.get(
    "/jobs/{job}/events",
    dependencies=[SIGNED_IN],
    response_class=Response,
    responses=sent_as("text/event-stream", "One `JobInfo` an event."),
)
async def follow_job(job: UUID, request: Request, visitor: Person) -> EventSourceResponse:
    """How a job goes on, as server-sent events named "job", until it has ended."""
    engine: Engine = request.app.state.engine
    first = await run_sync(_read, engine, job, visitor)
    watch: Watch = request.app.state.watch

    async def events() -> AsyncIterator[dict[str, str]]:
        yield {"event": "job", "data": first.model_dump_json()}
        if first.state in jobs.ACTIVE:
            async for found in watch.follow(job):
                yield {"event": "job", "data": found.model_dump_json()}

    return EventSourceResponse(events(), ping=15)


@router.post("/jobs/{job}/cancel", dependencies=[signed_in(proof=False)])
def cancel_job(job: UUID, database: Database, visitor: Person) -> JobInfo:
    """Stop a job, one's own or of a domain that one may load: at once while it waits, as soon as
    its worker sees it while it runs.
    """
    return job_info(loading.stop(database, _theirs(database, job, visitor)))


@router.post("/jobs/{job}/retry", dependencies=[signed_in(proof=False)])
def retry_job(job: UUID, database: Database, visitor: Person) -> JobInfo:
    """Begin a job that failed or was stopped once more: one's own, or of a domain that one may
    load.
    """
    return job_info(loading.begin_again(database, _theirs(database, job, visitor)))


@router.post("/jobs/{job}/confirm", dependencies=[needs("load", proof=True)])
def confirm_job(job: UUID, body: Confirmation, database: Database, visitor: Person) -> JobInfo:
    """Let a load go on that is held since the domain would lose accounts by it. Where approval is
    required, a second person has to agree.
    """
    prove(visitor)
    row = _theirs(database, job, visitor)
    return job_info(loading.confirm(database, row, visitor.name, body.reason))


def _theirs(database: Session, job: UUID, visitor: Visitor) -> JobRow:
    # A script has no loads of its own: it may load, or it may not.
    name = "" if visitor.token else visitor.name
    return loading.find(database, job, name, domains_where(visitor, "load"))


def _seen(database: Session, job: UUID, visitor: Visitor) -> JobRow:
    """Work on what one may see is nobody's in particular, but for loads."""
    row = jobs.find(database, job)
    if row.kind != "load" and "see" in allowed(visitor, row.domain):
        return row
    return _theirs(database, job, visitor)


def _read(engine: Engine, job: UUID, visitor: Visitor) -> JobInfo:
    with Session(engine) as session:
        return job_info(_seen(session, job, visitor))
