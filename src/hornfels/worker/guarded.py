"""How a job on a domain ends where it fails: in words."""

from __future__ import annotations

import logging
import traceback
from collections.abc import Callable

from sqlalchemy import Engine
from sqlalchemy.exc import DBAPIError, OperationalError
from sqlalchemy.orm import Session

from hornfels.directory.reach import DirectoryError
from hornfels.formats.dump import DumpError, LdifError
from hornfels.refusals import RefusalError
from hornfels.settings import read_settings
from hornfels.store import jobs
from hornfels.store.models import JobRow
from hornfels.store.trail import act_for, note
from hornfels.worker.loading import origin_of

Fail = Callable[[Engine, JobRow, str], None]
"""Ends a job, and is told why."""

_log = logging.getLogger(__name__)


def guarded(
    engine: Engine,
    job: JobRow,
    work: Callable[[Engine, JobRow, jobs.Progress], None],
    fail: Fail,
) -> None:
    """Do it; `fail` ends the job and is told why. While the database is away, or when somebody
    stops it, the job is left as it is.
    """
    try:
        work(engine, job, jobs.Progress(engine, job.id, read_settings().job_hours))
    except (DirectoryError, RefusalError, DumpError) as error:
        fail(engine, job, str(error))
    except LdifError as error:
        fail(engine, job, f"The directory holds what cannot be read: {error.reason}.")
    except jobs.OverdueError:
        fail(engine, job, overdue())
    except (OperationalError, jobs.StoppedError):
        raise
    except DBAPIError:
        fail(engine, job, "The database did not take it; nothing was stored. Try again.")
    except Exception as error:
        # Where it happened, never what was in hand.
        place = "".join(traceback.format_tb(error.__traceback__)[-6:])
        _log.error("The job “%s” failed with %s at\n%s", job.kind, type(error).__name__, place)
        fail(engine, job, "It failed unexpectedly. Please report it.")


def overdue() -> str:
    """Why a job ended that took too long, and what to do."""
    return (
        f"The job took longer than {read_settings().job_hours:g} hours and was stopped. Set "
        "HORNFELS_JOB_HOURS higher if that is meant."
    )


def failing(what: str, failed: Callable[[Session, str, str], None]) -> Fail:
    """How a job of a domain ends that failed: `failed` keeps why where people look for it, and the
    trail says `what` was not done.
    """

    def fail(engine: Engine, job: JobRow, error: str) -> None:
        with Session(engine) as session, session.begin():
            act_for(session, origin_of(job))
            failed(session, job.domain, error)
            note(session, what, domain=job.domain, error=error)
            jobs.fail(session, job.id, error)

    return fail
