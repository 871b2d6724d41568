"""The job of mailing a domain's report that was ordered."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import Engine
from sqlalchemy.orm import Session

from hornfels.service import report_orders
from hornfels.settings import read_settings
from hornfels.store import jobs
from hornfels.store.models import JobRow
from hornfels.store.trail import act_for, note
from hornfels.worker.guarded import failing, guarded
from hornfels.worker.loading import origin_of


def report(engine: Engine, job: JobRow) -> None:
    """Send the report of the job's domain to those to whom it goes."""
    guarded(engine, job, _send, failing("report not handed over", report_orders.failed))


def _send(engine: Engine, job: JobRow, progress: jobs.Progress) -> None:
    due, asked = datetime.fromisoformat(job.arguments["due"]), bool(job.arguments.get("asked"))
    told = report_orders.send(engine, job.domain, due, read_settings(), progress, asked=asked)
    with Session(engine) as session, session.begin():
        act_for(session, origin_of(job))
        note(session, "report handed over", told, domain=job.domain)
        jobs.complete(session, job.id, {"domain": job.domain, "told": told})
