"""The job of writing a draft into a directory."""

from __future__ import annotations

import logging
import traceback

from sqlalchemy import Engine
from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session

from hornfels.directory.reach import DirectoryError
from hornfels.refusals import RefusalError
from hornfels.service import publications
from hornfels.settings import read_settings
from hornfels.store import jobs
from hornfels.store.models import JobRow
from hornfels.store.trail import act_for, note
from hornfels.worker.loading import origin_of

_log = logging.getLogger(__name__)


def publish(engine: Engine, job: JobRow) -> None:
    """Do what is left of the publication's steps, then make the draft live and have the directory
    read. Where it cannot go on it stops, and says why; a worker that takes it up after another was
    killed goes on.
    """
    number = int(job.arguments["publication"])
    progress = jobs.Progress(engine, job.id)
    try:
        publications.write(engine, number, job.domain, read_settings(), progress)
    except jobs.StoppedError:
        _stop(engine, job, number, f"{job.user_name} began it; somebody stopped it.")
        raise
    except DBAPIError:
        # The database is away: what is done is found done when it is back.
        raise
    except (DirectoryError, RefusalError) as error:
        _stop(engine, job, number, str(error))
        return
    except Exception as error:
        # Where it happened, never what was in hand.
        place = "".join(traceback.format_tb(error.__traceback__)[-6:])
        _log.error("Publishing failed with %s at\n%s", type(error).__name__, place)
        _stop(engine, job, number, "It failed unexpectedly. Please report it.")
        return
    with Session(engine) as session, session.begin():
        act_for(session, origin_of(job))
        publications.ended(session, number)
        jobs.complete(session, job.id, {"domain": job.domain})
        if jobs.active(session, "read", job.domain) is None:
            arguments = {"name": "the directory", "whole": False}
            jobs.start(session, "read", job.user_name, domain=job.domain, arguments=arguments)


def _stop(engine: Engine, job: JobRow, number: int, why: str) -> None:
    with Session(engine) as session, session.begin():
        act_for(session, origin_of(job))
        publications.stopped(session, number, why)
        note(session, "publishing stopped", domain=job.domain, error=why)
        jobs.fail(session, job.id, why)
