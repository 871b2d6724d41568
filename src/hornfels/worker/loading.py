"""The job of loading a dump that somebody has uploaded."""

from __future__ import annotations

import logging
import traceback
from typing import BinaryIO, cast

from sqlalchemy import Engine
from sqlalchemy.exc import DBAPIError, OperationalError
from sqlalchemy.orm import Session

from hornfels.formats.dump import DumpError, LdifError, load_dump
from hornfels.store import jobs, uploads
from hornfels.store.estates import save_dump
from hornfels.store.models import JobRow, UploadRow

_log = logging.getLogger(__name__)


def load(engine: Engine, job: JobRow) -> None:
    """Read the job's upload and store its domain, and end the job, all in one transaction or not at
    all.
    """
    name = str(job.arguments["name"])
    progress = jobs.Progress(engine, job.id)
    try:
        if job.upload_id is None:
            raise DumpError("the file is no longer here; choose it again")
        with Session(engine) as session:
            size = session.get_one(UploadRow, job.upload_id).size or 0
        source = uploads.UploadReader(engine, job.upload_id)
        dump = load_dump(
            cast(BinaryIO, source),
            linked_groups=job.arguments["linked_groups"],
            progress=lambda _entries: progress("reading", source.at, size),
        )
        rows = len(dump.estate.accounts) + len(dump.estate.groups)
        progress("storing", 0, rows)
        with Session(engine) as session, session.begin():
            domain = save_dump(
                session,
                dump,
                name,
                job.user_name,
                progress=lambda done: progress("storing", done, rows),
            )
            uploads.drop(session, job.upload_id)
            jobs.complete(session, job.id, {"domain": domain.dns_name})
    except (LdifError, DumpError) as error:
        _fail(engine, job, f"{name}: {error}")
    except (OperationalError, jobs.StoppedError):
        raise
    except DBAPIError:
        _fail(engine, job, f"{name}: the database did not take it; nothing was stored. Try again.")
    except Exception as error:
        # Where it happened, never what was in hand.
        place = "".join(traceback.format_tb(error.__traceback__)[-6:])
        _log.error("Loading failed with %s at\n%s", type(error).__name__, place)
        _fail(
            engine,
            job,
            f"{name}: reading it failed unexpectedly; nothing was stored. Please report it.",
        )


def _fail(engine: Engine, job: JobRow, error: str) -> None:
    with Session(engine) as session, session.begin():
        jobs.fail(session, job.id, error)
