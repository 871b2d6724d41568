"""The job of telling the accounts of a wave to choose another password."""

from __future__ import annotations

from datetime import UTC, datetime

from sqlalchemy import Engine
from sqlalchemy.orm import Session

from hornfels.service import reading, spreading
from hornfels.settings import read_settings
from hornfels.store import jobs
from hornfels.store.models import JobRow
from hornfels.store.trail import act_for, note
from hornfels.worker.guarded import failing, guarded
from hornfels.worker.loading import origin_of


def go_on(engine: Engine, job: JobRow) -> None:
    """Carry out what is due in the job's domain, and have the directory read afterwards."""
    guarded(engine, job, _go_on, failing("wave not carried out", spreading.failed))


def _go_on(engine: Engine, job: JobRow, progress: jobs.Progress) -> None:
    origin = origin_of(job)
    now = datetime.now(UTC)
    told = spreading.carry_out(engine, job.domain, read_settings(), now, origin, progress)
    with Session(engine) as session, session.begin():
        act_for(session, origin)
        note(session, "wave carried out", told, domain=job.domain)
        jobs.complete(session, job.id, {"domain": job.domain, "told": told})
        reading.begin_after(session, job.domain)
