"""Domains' own directories: how they are reached, and reading them."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Annotated, Any

from fastapi import APIRouter, Path, Query, Request
from sqlalchemy import Engine
from sqlalchemy.orm import Session

from hornfels.api.address import Route
from hornfels.api.deps import Database, User
from hornfels.api.directory_schemas import (
    ConnectionAnswer,
    ConnectionAsked,
    ConnectionTried,
    DirectoryInfo,
    DumpsAllowed,
    ReadAsked,
    ReadingInfo,
    StepInfo,
)
from hornfels.api.refusals import answers
from hornfels.api.rights import Person, allowed, needs
from hornfels.api.schemas import MOST_REASON, JobInfo
from hornfels.api.turnstile import Turnstile
from hornfels.api.views import job_info
from hornfels.directory.testing import Step
from hornfels.refusals import NotFoundError
from hornfels.service import acts, connections, reading
from hornfels.service.snapshots import Snapshot
from hornfels.settings import Settings, read_settings
from hornfels.store import jobs, readings
from hornfels.store.models import ReadingRow

router = APIRouter(prefix="/api/directories/{domain}", tags=["directories"], route_class=Route)

Name = Annotated[str, Path(max_length=255)]


@router.get("", dependencies=[needs("see")])
def get_directory(domain: Name, visitor: Person, database: Database) -> DirectoryInfo:
    """How the domain's directory is reached, and what the last reading brought."""
    may_set = "settings" in allowed(visitor, domain)
    job = jobs.last_of(database, ("read", "agreement"), domain)
    row = readings.of_domain(database, domain)
    shares = read_settings().sysvol is not None
    try:
        found, connection = connections.find(database, domain)
    except NotFoundError:
        return DirectoryInfo(
            connected=False,
            version=0,
            changed_by="",
            connection=None,
            reading=None,
            job=None,
            stage="",
            dumps_until=None,
            shares=shares,
        )
    return DirectoryInfo(
        connected=True,
        version=found.version,
        changed_by=found.changed_by,
        connection=connection if may_set else None,
        reading=_reading(row) if row else None,
        job=job_info(job) if job else None,
        stage=connection.stage,
        dumps_until=_until(found.dumps_until),
        shares=shares,
    )


def _until(moment: datetime | None) -> str | None:
    return moment.isoformat() if moment and moment > datetime.now(UTC) else None


def _reading(row: ReadingRow) -> ReadingInfo:
    told: dict[str, Any] = {
        "error": "",
        "objects": 0,
        "whole": False,
        "first": False,
        "news": [],
        "templates": [],
        "agreement": None,
        **row.told,
    }
    moments = {
        name: moment.isoformat() if moment else None
        for name, moment in (
            ("read_at", row.read_at),
            ("whole_at", row.whole_at),
            ("tried_at", row.tried_at),
        )
    }
    return ReadingInfo.model_validate({"server": row.server, **moments, **told})


@router.put("", dependencies=[needs("settings", proof=True)])
def connect(
    domain: Name, body: ConnectionAsked, visitor: Person, database: Database
) -> ConnectionAnswer:
    """Connect the domain's directory, or reach it otherwise. Where approval is required, a second
    person has to agree.
    """
    done = connections.propose(
        database,
        visitor.name,
        domain,
        body.connection,
        body.version,
        body.reason,
        read_settings(),
    )
    return ConnectionAnswer(waits=not done)


@router.delete("", status_code=204, dependencies=[needs("settings", proof=True)])
def disconnect(
    domain: Name,
    database: Database,
    user: User,
    reason: Annotated[str, Query(max_length=MOST_REASON)] = "",
) -> None:
    """Forget how the directory is reached. What was read of it stays. Where approval is required, a
    second person has to agree.
    """
    connections.drop(database, domain, reason, user)


@router.post("/dumps", dependencies=[needs("settings", proof=True)])
def allow_dumps(
    domain: Name, body: DumpsAllowed, visitor: Person, database: Database
) -> ConnectionAnswer:
    """Let dumps of the domain be imported for an hour though its directory is connected. Where
    approval is required, a second person has to agree.
    """
    connections.find(database, domain)
    done = acts.ask(database, visitor.name, "dumps", domain, body.reason)
    return ConnectionAnswer(waits=not isinstance(done, acts.Done))


@router.post("/test", responses=answers(409), dependencies=[needs("settings", proof=True)])
async def try_connection(domain: Name, body: ConnectionTried, request: Request) -> list[StepInfo]:
    """What works of a connection, step by step; nothing is changed."""
    engine: Engine = request.app.state.engine
    asking: Turnstile = request.app.state.asking
    # It may take a while: those who wait for a server take no place from anybody else.
    async with asking.place():
        current = await asking.run(request.app.state.snapshots.of, domain)
        found = await asking.run(_tried, engine, current, domain, body.connection, read_settings())
    return [StepInfo(title=s.title, state=s.state, told=s.told) for s in found]


def _tried(
    engine: Engine,
    current: Snapshot | None,
    domain: str,
    given: connections.Connection,
    where: Settings,
) -> list[Step]:
    with Session(engine) as session:
        connections.refuse_elsewhere(session, domain, given)
    return connections.tried(engine, current, given, domain, where)


@router.post("/read", status_code=202, dependencies=[needs("load", proof=False)])
def read_directory(domain: Name, body: ReadAsked, visitor: Person, database: Database) -> JobInfo:
    """Read what has changed in the directory, or everything. The answer is the job."""
    return job_info(reading.begin(database, domain, visitor.name, whole=body.whole))


@router.post("/compare", status_code=202, dependencies=[needs("load", proof=False)])
def compare_with_directory(domain: Name, visitor: Person, database: Database) -> JobInfo:
    """Ask the directory for its own word on every account. The answer is the job."""
    return job_info(reading.begin_comparing(database, domain, visitor.name))
