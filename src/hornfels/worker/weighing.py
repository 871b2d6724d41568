"""The jobs of looking for findings and running trials on many accounts."""

from __future__ import annotations

import functools
import logging
import traceback

from sqlalchemy import Engine
from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session

from hornfels.service.long_answers import key_of, written_findings, written_outcomes
from hornfels.service.places import snapshot_at
from hornfels.service.snapshots import Snapshots
from hornfels.settings import read_settings
from hornfels.store import jobs, trials
from hornfels.store.models import JobRow

_log = logging.getLogger(__name__)


@functools.lru_cache(maxsize=1)
def _snapshots(engine: Engine) -> Snapshots:
    """What this worker has read of the domains, kept from job to job."""
    return Snapshots(engine)


def weigh(engine: Engine, job: JobRow) -> None:
    """Look for findings, or run the trials, at the place and in the state that the job names; if
    that has passed, stop.
    """
    progress = jobs.Progress(engine, job.id, read_settings().job_hours)
    progress("reading")
    try:
        current = snapshot_at(job.domain, _snapshots(engine))
        with Session(engine, expire_on_commit=False) as session:
            kept = trials.kept(session, current.domain_id) if job.kind == "trials" else None
        if key_of(current, kept) != job.key:
            raise jobs.StoppedError
        progress("weighing")
        result = (
            written_findings(current.findings) if kept is None else written_outcomes(current, kept)
        )
        with Session(engine) as session, session.begin():
            jobs.complete(session, job.id, result)
    except (DBAPIError, jobs.StoppedError):
        raise
    except Exception as error:
        # Where it happened, never what was in hand.
        place = "".join(traceback.format_tb(error.__traceback__)[-6:])
        _log.error("Weighing failed with %s at\n%s", type(error).__name__, place)
        with Session(engine) as session, session.begin():
            jobs.fail(
                session, job.id, "Going through all accounts failed unexpectedly. Please report it."
            )
