"""Domains: what is stored, its strata, loading a dump."""

from __future__ import annotations

import tempfile
import threading
import uuid
from pathlib import Path
from typing import Annotated, Literal

from fastapi import APIRouter, Depends, HTTPException, Query, Request
from sqlalchemy import Engine, select
from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.orm import Session

from hornfels.api.deps import Current, Database, User, domain_for_writing, get_snapshots
from hornfels.api.routes.policies import merged
from hornfels.api.schemas import (
    CompanionInfo,
    CompanionsAsked,
    DomainEdit,
    DomainInfo,
    JobInfo,
    SettingInfo,
    StartingPointInfo,
    Strata,
)
from hornfels.api.snapshot import Snapshots
from hornfels.api.views import domain_info, strata
from hornfels.core.companions import companions
from hornfels.core.estate import LinkedGroups
from hornfels.core.policy import DEFAULTS
from hornfels.core.settings import BY_KEY, CATALOGUE
from hornfels.core.starting_points import STARTING_POINTS
from hornfels.core.time import TICKS_PER_SECOND, seconds
from hornfels.formats.dump import DumpError, LdifError, load_dump
from hornfels.store import jobs
from hornfels.store.estates import save_dump
from hornfels.store.models import DomainRow, JobRow

router = APIRouter(prefix="/api", tags=["domains"])


@router.get("/settings")
def settings(_user: User) -> list[SettingInfo]:
    """The catalogue of settings; spans in seconds."""
    return [
        SettingInfo(
            key=s.key, label=s.label, kind=s.kind, unit=s.unit, section=s.section, explanation=s.explanation,
            takes_effect=s.takes_effect, endless=s.endless,
            low=s.low // TICKS_PER_SECOND if s.kind == "span" else s.low,
            high=s.high // TICKS_PER_SECOND if s.kind == "span" else s.high,
        )
        for s in CATALOGUE
    ]  # fmt: skip


@router.get("/starting-points")
def starting_points(_user: User) -> list[StartingPointInfo]:
    """What a new policy can start from."""
    return [StartingPointInfo(key=p.key, label=p.label, settings=p.settings.plain(), reasons=p.reasons) for p in STARTING_POINTS]


@router.post("/companions")
def get_companions(body: CompanionsAsked, _user: User) -> list[CompanionInfo]:
    """What to change along with a setting that somebody changes."""
    found = companions(merged(DEFAULTS, body.settings), body.changed)
    return [
        CompanionInfo(key=c.key, value=seconds(c.value) if BY_KEY[c.key].kind == "span" else c.value, reason=c.reason)
        for c in found
    ]  # fmt: skip


@router.get("/domains")
def domains(database: Database, _user: User, snapshots: Annotated[Snapshots, Depends(get_snapshots)]) -> list[DomainInfo]:
    names = database.scalars(select(DomainRow.dns_name).order_by(DomainRow.dns_name)).all()
    return [domain_info(found) for name in names if (found := snapshots.of(database, name))]


@router.patch("/domains/{domain}")
def edit_domain(
    body: DomainEdit, current: Current, database: Database, snapshots: Annotated[Snapshots, Depends(get_snapshots)]
) -> DomainInfo:
    """Choose which linked groups count in this domain, and what publishing wants."""
    row = domain_for_writing(database, current)
    if row.version != body.version:
        raise HTTPException(409, "The domain changed meanwhile. Look at it again before choosing.")
    if body.linked_groups is not None:
        row.linked_groups = body.linked_groups
    if body.approval_required is not None:
        row.approval_required = body.approval_required
    if body.trials_required is not None:
        row.trials_required = body.trials_required
    row.version += 1
    database.commit()
    return domain_info(snapshots.of(database, row.dns_name) or current)


@router.get("/domains/{domain}/strata")
def get_strata(current: Current, show: Annotated[str, Query(max_length=2000)] = "") -> Strata:
    """The section; ``show`` lists keys of populations, comma-separated, that must not be summed up."""
    return strata(current, frozenset(show.split(",")))


@router.post("/loads", status_code=202)
async def load(
    request: Request,
    user: User,
    name: Annotated[str, Query(max_length=255)] = "upload",
    linked_groups: Annotated[Literal["global", "any"], Query()] = "global",
) -> JobInfo:
    """Read an uploaded LDIF dump (the request's body) and store its domain. Answers at once with the job to follow."""
    handle = tempfile.NamedTemporaryFile(prefix="hornfels-load-", suffix=".ldif", delete=False)  # noqa: SIM115 - the job closes it
    path = Path(handle.name)
    try:
        with handle:
            async for chunk in request.stream():
                handle.write(chunk)
    except BaseException:
        path.unlink(missing_ok=True)
        raise
    engine: Engine = request.app.state.engine
    with Session(engine) as session:
        job = jobs.start(session, "load", user)
    threading.Thread(target=_run_load, args=(engine, job, path, name, linked_groups, user), daemon=True).start()
    return JobInfo(id=str(job), state="running", progress="", error="", domain=None)


def _run_load(engine: Engine, job: uuid.UUID, path: Path, name: str, linked_groups: LinkedGroups, user: str) -> None:
    with Session(engine) as session:
        try:
            with path.open("rb") as source:
                dump = load_dump(
                    source,
                    linked_groups=linked_groups,
                    progress=lambda n: jobs.report(session, job, f"{n:,} entries read"),
                )
            jobs.report(session, job, f"storing {len(dump.estate.accounts):,} accounts")
            domain = save_dump(session, dump, name, user)
            dns_name = domain.dns_name
            session.commit()
            jobs.finish(session, job, {"domain": dns_name})
        except (LdifError, DumpError) as error:
            session.rollback()
            jobs.fail(session, job, f"{name}: {error}")
        except SQLAlchemyError:
            session.rollback()
            jobs.fail(session, job, f"{name}: the database did not take it; nothing was stored. Try again.")
        except Exception:
            session.rollback()
            jobs.fail(session, job, f"{name}: reading it failed unexpectedly; nothing was stored. Please report it.")
            raise
        finally:
            path.unlink(missing_ok=True)


@router.get("/jobs/{job}")
def get_job(job: uuid.UUID, database: Database, _user: User) -> JobInfo:
    row = database.get(JobRow, job)
    if row is None:
        raise HTTPException(404, "There is no such job.")
    return JobInfo(id=str(row.id), state=row.state, progress=row.progress, error=row.error, domain=row.result.get("domain"))
