"""Loads: a dump handed over to a worker, part by part, and what can be done about it."""

from __future__ import annotations

from uuid import UUID

from sqlalchemy import Engine
from sqlalchemy.orm import Session

from hornfels.core.domain.estate import LinkedGroups
from hornfels.refusals import ConflictError
from hornfels.store import jobs, uploads
from hornfels.store.models import JobRow


def begin(engine: Engine, name: str) -> UUID:
    """An upload that nothing has come of yet."""
    with Session(engine) as session, session.begin():
        return uploads.begin(session, name)


def add(engine: Engine, upload: UUID, number: int, part: bytes) -> None:
    with Session(engine) as session, session.begin():
        uploads.add(session, upload, number, part)


def drop(engine: Engine, upload: UUID) -> None:
    with Session(engine) as session, session.begin():
        uploads.drop(session, upload)


def hand_over(
    database: Session, upload: UUID, size: int, name: str, linked_groups: LinkedGroups, person: str
) -> JobRow:
    """Give an upload that is whole to a worker."""
    uploads.finish(database, upload, size)
    arguments = {"name": name, "linked_groups": linked_groups}
    return _saved(
        database, jobs.start(database, "load", person, arguments=arguments, upload=upload)
    )


def stop(database: Session, job: UUID) -> JobRow:
    """Stop a job: at once while it waits, as soon as its worker sees it while it runs."""
    row = jobs.find(database, job, for_writing=True)
    if row.state not in jobs.ACTIVE:
        raise ConflictError("This has ended already; there is nothing to stop.")
    jobs.cancel(row)
    return _saved(database, row)


def begin_again(database: Session, job: UUID) -> JobRow:
    """Begin a job that failed or was stopped once more."""
    row = jobs.find(database, job, for_writing=True)
    if not jobs.can_retry(row):
        raise ConflictError(
            "This cannot be begun again: it runs, is done, or its file is no longer here."
        )
    jobs.retry(database, row)
    return _saved(database, row)


def _saved(database: Session, row: JobRow) -> JobRow:
    database.commit()
    database.refresh(row)
    return row
