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
from hornfels.worker.guarded import failing, guarded
from hornfels.worker.loading import origin_of


def look(engine: Engine, job: JobRow) -> None:
    """Compare the accounts of the job's domain."""
    guarded(engine, job, _look, failing("accounts not compared with corpora", exposure.failed))


def _look(engine: Engine, job: JobRow, progress: jobs.Progress) -> None:
    now, where, origin = datetime.now(UTC), read_settings(), origin_of(job)
    found = exposure.look(engine, job.domain, where, now, progress)
    task = f"standing orders of job {job.id}"
    told_to = exposure_orders.by_standing_order(engine, job.domain, now, where, origin, task)
    with Session(engine) as session, session.begin():
        act_for(session, origin)
        told = f"{found.compared:,} accounts, {found.exposed:,} exposed"
        note(session, "accounts compared with corpora", told, domain=job.domain)
        jobs.complete(session, job.id, {"domain": job.domain, "told": told})
        if told_to:
            reading.begin_after(session, job.domain)
