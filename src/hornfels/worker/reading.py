"""The jobs of reading a directory, and of asking it for its own word on everybody."""

from __future__ import annotations

import logging
from typing import Any

from sqlalchemy import Engine
from sqlalchemy.orm import Session

from hornfels.directory.reach import DirectoryError
from hornfels.directory.rehearsing import PREFIX
from hornfels.refusals import ChangedMeanwhileError, RefusalError
from hornfels.service import import_review, reading, rehearsing
from hornfels.settings import read_settings
from hornfels.store import jobs
from hornfels.store.models import JobRow
from hornfels.store.trail import act_for, note
from hornfels.worker.guarded import guarded
from hornfels.worker.loading import may_go_on, origin_of

_log = logging.getLogger(__name__)


def read(engine: Engine, job: JobRow) -> None:
    """Read the job's domain from its directory, compare a sample with the directory's own word,
    and store it, all in one transaction or not at all.
    """
    guarded(engine, job, _read, _fail)


def compare(engine: Engine, job: JobRow) -> None:
    """Ask the directory for its own word on everybody."""
    guarded(engine, job, _compare, _fail)


def _read(engine: Engine, job: JobRow, progress: jobs.Progress) -> None:
    where, whole = read_settings(), bool(job.arguments.get("whole"))
    brought = reading.read(engine, job.domain, where, progress, whole=whole)
    if brought is None:
        with Session(engine) as session, session.begin():
            act_for(session, origin_of(job))
            reading.nothing_new(session, job.domain)
            note(session, "directory read", job.domain, domain=job.domain, changes=0)
            jobs.complete(session, job.id, {"domain": job.domain})
        return
    by_itself = job.user_name == reading.BY_ITSELF
    reviewed = may_go_on(engine, job, brought.dump, by_itself=by_itself)
    if not reviewed:
        return
    estate = brought.dump.estate
    _swept(engine, job, brought)
    rows = len(estate.accounts) + len(estate.groups)
    agreement = _sampled(engine, job, brought, progress)
    progress("storing", 0, rows)
    with Session(engine) as session, session.begin():
        act_for(session, origin_of(job))
        if import_review.state_of(session, job.domain, for_writing=True) != reviewed:
            raise ChangedMeanwhileError(
                "The domain was changed while the directory was read. Nothing was stored; sync "
                "once more."
            )
        found = reading.store(
            session,
            job.domain,
            brought,
            job.user_name,
            lambda done: progress("storing", done, rows),
        )
        if agreement:
            reading.keep_agreement(session, job.domain, agreement)
        note(session, "directory read", brought.server, domain=job.domain, changes=len(found))
        jobs.complete(session, job.id, {"domain": job.domain})


def _swept(engine: Engine, job: JobRow, brought: reading.Brought) -> None:
    """Accounts that a crash has left behind after a rehearsal go with the next reading."""
    if not any(name.startswith(PREFIX) for name in brought.dump.estate.accounts.name):
        return
    try:
        gone = rehearsing.sweep(engine, job.domain, read_settings())
    except (DirectoryError, RefusalError) as error:
        _log.warning("What was left of rehearsals in %s still is: %s", job.domain, error)
        return
    with Session(engine) as session, session.begin():
        act_for(session, origin_of(job))
        for name in gone:
            note(session, "left behind by a rehearsal, deleted", name, domain=job.domain)


def _sampled(
    engine: Engine, job: JobRow, brought: reading.Brought, progress: jobs.Progress
) -> dict[str, Any] | None:
    try:
        estate, where = brought.dump.estate, read_settings()
        return reading.compared(engine, job.domain, estate, where, progress, everybody=False)
    except DirectoryError as error:
        # What was read stands; only the comparison waits for the next time.
        _log.warning("The sample of %s was not compared: %s", job.domain, error)
        return None


def _compare(engine: Engine, job: JobRow, progress: jobs.Progress) -> None:
    found = reading.compare_everybody(engine, job.domain, read_settings(), progress)
    with Session(engine) as session, session.begin():
        act_for(session, origin_of(job))
        reading.keep_agreement(session, job.domain, found)
        note(session, "directory compared", domain=job.domain, disagree=found["disagree"])
        jobs.complete(session, job.id, {"domain": job.domain})


def _fail(engine: Engine, job: JobRow, error: str) -> None:
    with Session(engine) as session, session.begin():
        act_for(session, origin_of(job))
        reading.failed(session, job.domain, error)
        note(session, "reading failed", job.domain, domain=job.domain, error=error)
        jobs.fail(session, job.id, error)
