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
from hornfels.api.deps import Database, User
from hornfels.api.schemas import JobInfo
from hornfels.api.views import job_info
from hornfels.api.watching import Watch
from hornfels.core.domain.estate import LinkedGroups
from hornfels.service import loading
from hornfels.store import jobs, uploads

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


@router.post("/loads", status_code=202, openapi_extra=_BODY)
async def load(
    request: Request,
    user: User,
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
            return await run_sync(_hand_over, engine, upload, size, name, linked_groups, user)
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
    engine: Engine, upload: UUID, size: int, name: str, linked_groups: LinkedGroups, user: str
) -> JobInfo:
    with Session(engine) as session:
        return job_info(loading.hand_over(session, upload, size, name, linked_groups, user))


@router.get("/loads")
def list_loads(database: Database, _user: User) -> list[JobInfo]:
    """The latest loads, the newest first: those under way too, whoever began them."""
    return [job_info(row) for row in jobs.latest(database, "load", MOST_SHOWN)]


@router.get("/jobs/{job}")
def get_job(job: UUID, database: Database, _user: User) -> JobInfo:
    return job_info(jobs.find(database, job))


@router.get(
    "/jobs/{job}/events",
    response_class=Response,
    responses={
        200: {
            "content": {"text/event-stream": {"schema": {"type": "string"}}},
            "description": "One `JobInfo` an event.",
        }
    },
)
async def follow_job(job: UUID, request: Request, _user: User) -> EventSourceResponse:
    """How a job goes on, as server-sent events named "job", until it has ended."""
    engine: Engine = request.app.state.engine
    first = await run_sync(_read, engine, job)
    watch: Watch = request.app.state.watch

    async def events() -> AsyncIterator[dict[str, str]]:
        yield {"event": "job", "data": first.model_dump_json()}
        if first.state in jobs.ACTIVE:
            async for found in watch.follow(job):
                yield {"event": "job", "data": found.model_dump_json()}

    return EventSourceResponse(events(), ping=15)


@router.post("/jobs/{job}/cancel")
def cancel_job(job: UUID, database: Database, _user: User) -> JobInfo:
    """Stop a job: at once while it waits, as soon as its worker sees it while it runs."""
    return job_info(loading.stop(database, job))


@router.post("/jobs/{job}/retry")
def retry_job(job: UUID, database: Database, _user: User) -> JobInfo:
    """Begin a job that failed or was stopped once more."""
    return job_info(loading.begin_again(database, job))


def _read(engine: Engine, job: UUID) -> JobInfo:
    with Session(engine) as session:
        return job_info(jobs.find(session, job))
