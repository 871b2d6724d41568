"""The job of writing to the people under a domain's policies."""

from __future__ import annotations

from datetime import UTC, datetime

from sqlalchemy import Engine
from sqlalchemy.orm import Session

from hornfels.service import mailing
from hornfels.settings import read_settings
from hornfels.store import jobs
from hornfels.store.models import JobRow
from hornfels.store.trail import act_for, note
from hornfels.worker.guarded import failing, guarded
from hornfels.worker.loading import origin_of


def write(engine: Engine, job: JobRow) -> None:
    """Write to whoever is due in the job's domain."""
    guarded(engine, job, _write, failing("letters not handed over", mailing.failed))


def _write(engine: Engine, job: JobRow, progress: jobs.Progress) -> None:
    told = mailing.write_due(engine, job.domain, read_settings(), datetime.now(UTC), progress)
    with Session(engine) as session, session.begin():
        act_for(session, origin_of(job))
        if told != mailing.NOBODY:
            note(session, "letters handed over", told, domain=job.domain)
        jobs.complete(session, job.id, {"domain": job.domain, "told": told})
