"""Loads: a dump handed over to a worker, part by part, and what can be done about it."""

from __future__ import annotations

from collections.abc import Collection
from uuid import UUID

from sqlalchemy import Engine
from sqlalchemy.orm import Session

from hornfels.core.domain.estate import LinkedGroups
from hornfels.core.rights.roles import EVERYWHERE
from hornfels.refusals import ConflictError, NotFoundError
from hornfels.service import acts
from hornfels.store import jobs, uploads
from hornfels.store.models import JobRow
from hornfels.store.trail import note


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
    note(database, "load begun", name, bytes=size)
    return _saved(
        database,
        jobs.start(
            database,
            "load",
            person,
            key=jobs.free_lane(database),
            arguments=arguments,
            upload=upload,
        ),
    )


def find(database: Session, job: UUID, person: str, may_load: Collection[str]) -> JobRow:
    """A job: one's own, or one about a domain that one may load. To everybody else it is not
    there.
    """
    row = jobs.find(database, job)
    if row.user_name != person and not is_theirs(row, may_load):
        raise NotFoundError("There is no such job any more.")
    return row


def is_theirs(row: JobRow, may_load: Collection[str]) -> bool:
    """Whether a job is about a domain that is among those that somebody may load."""
    return EVERYWHERE in may_load or (row.domain or row.result.get("domain")) in may_load


def stop(database: Session, row: JobRow) -> JobRow:
    """Stop a job: at once while it waits, as soon as its worker sees it while it runs."""
    row = jobs.find(database, row.id, for_writing=True)
    if row.state not in (*jobs.ACTIVE, "held"):
        raise ConflictError("This has ended already; there is nothing to stop.")
    jobs.cancel(row)
    _note(database, "job stopped", row)
    return _saved(database, row)


def confirm(database: Session, row: JobRow, person: str, reason: str) -> JobRow:
    """Let an import or a sync that is held go on though the domain loses protection by it."""
    if row.state != "held":
        raise ConflictError("This import or sync waits for no confirmation. Reload the page.")
    if acts.waits_for_job(database, row.id):
        raise ConflictError(
            "The losses were confirmed by one person already. A second person has to confirm the "
            "losses (People)."
        )
    acts.ask(
        database,
        person,
        "load",
        row.result["domain"],
        reason,
        job=str(row.id),
        name=row.arguments["name"],
        losses=row.result["losses"],
    )
    database.refresh(row)
    return row


def begin_again(database: Session, row: JobRow) -> JobRow:
    """Begin a job that failed or was stopped once more."""
    row = jobs.find(database, row.id, for_writing=True)
    if not jobs.can_retry(row):
        raise ConflictError(
            "This cannot be begun again: it runs, is done, or its file is no longer here."
        )
    jobs.retry(database, row)
    _note(database, "job begun again", row)
    return _saved(database, row)


def _note(database: Session, what: str, row: JobRow) -> None:
    about = str(row.arguments.get("name") or row.kind)
    note(database, what, about, domain=row.domain, job=str(row.id), of=row.user_name)


def _saved(database: Session, row: JobRow) -> JobRow:
    database.commit()
    database.refresh(row)
    return row
