"""The job of holding accounts against corpora."""

from __future__ import annotations

from datetime import UTC, datetime

from sqlalchemy import Engine
from sqlalchemy.orm import Session

from hornfels.service import exposure, exposure_orders, reading
from hornfels.settings import read_settings
from hornfels.store import jobs
from hornfels.store.models import JobRow
from hornfels.store.trail import act_for, note
from hornfels.worker.guarded import guarded
from hornfels.worker.loading import origin_of


def look(engine: Engine, job: JobRow) -> None:
    """Compare the accounts of the job's domain."""
    guarded(engine, job, _look, _fail)


def _look(engine: Engine, job: JobRow, progress: jobs.Progress) -> None:
    now, where, origin = datetime.now(UTC), read_settings(), origin_of(job)
    found = exposure.look(engine, job.domain, where, now, progress)
    told_to = exposure_orders.by_standing_order(engine, job.domain, now, where, origin)
    with Session(engine) as session, session.begin():
        act_for(session, origin)
        told = f"{found.compared:,} accounts, {found.exposed:,} exposed"
        note(session, "accounts compared with corpora", told, domain=job.domain)
        jobs.complete(session, job.id, {"domain": job.domain, "told": told})
        if told_to and jobs.active(session, "read", job.domain) is None:
            arguments = {"name": "the directory", "whole": False}
            jobs.start(session, "read", reading.BY_ITSELF, domain=job.domain, arguments=arguments)


def _fail(engine: Engine, job: JobRow, error: str) -> None:
    with Session(engine) as session, session.begin():
        act_for(session, origin_of(job))
        exposure.failed(session, job.domain, error)
        note(session, "accounts not compared with corpora", domain=job.domain, error=error)
        jobs.fail(session, job.id, error)
