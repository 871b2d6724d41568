"""The job of having passwords changed on the day on which they end by their band."""

from __future__ import annotations

from datetime import UTC, datetime

from sqlalchemy import Engine
from sqlalchemy.orm import Session

from hornfels.core.values.time import moment_from_datetime
from hornfels.service import lifetimes, reading
from hornfels.settings import read_settings
from hornfels.store import jobs
from hornfels.store.models import JobRow
from hornfels.store.trail import act_for, note
from hornfels.worker.guarded import failing, guarded
from hornfels.worker.loading import origin_of


def end(engine: Engine, job: JobRow) -> None:
    """Go through the job's domain, and have the directory read afterwards."""
    guarded(engine, job, _end, failing("ended passwords not gone through", lifetimes.failed))


def _end(engine: Engine, job: JobRow, progress: jobs.Progress) -> None:
    now = moment_from_datetime(datetime.now(UTC))
    origin = origin_of(job)
    # By its day: what is tried again later on the day goes on with what was begun.
    task = f"passwords that end by length, {job.created_at:%Y-%m-%d}"
    told = lifetimes.end_due(engine, job.domain, read_settings(), now, origin, progress, task)
    with Session(engine) as session, session.begin():
        act_for(session, origin)
        note(session, "ended passwords gone through", told, domain=job.domain)
        jobs.complete(session, job.id, {"domain": job.domain, "told": told})
        reading.begin_after(session, job.domain)
