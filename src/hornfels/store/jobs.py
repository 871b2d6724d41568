"""Long work done by workers: begun, followed, stopped, begun again.

What a job does is written in the transaction that ends it.
"""

from __future__ import annotations

import math
import time
import uuid
from collections import Counter
from collections.abc import Collection
from datetime import timedelta
from typing import Any
from uuid import UUID

from sqlalchemy import Engine, and_, delete, func, or_, select, text, update
from sqlalchemy.orm import Session

from hornfels.refusals import NotFoundError
from hornfels.store import queue
from hornfels.store.models import JobRow, UploadRow

ACTIVE = ("queued", "running")
MOST_TAKEN = 25
"""How often a job is taken up again after its worker has gone without a word."""
_KEPT = timedelta(days=1)
"""How long an ended job, and the file it read, is kept."""
_ABANDONED = timedelta(hours=1)
"""How long an upload may lie without more of it coming."""
_LOST = timedelta(seconds=10)
_TRY_AGAIN = timedelta(minutes=1)
_SEEK_LOCK = 7183
_EVERY = 0.3
"""Seconds between two words on how far a job is."""


SIDE_BY_SIDE = 2
"""Imports that are done at a time."""


class OverdueError(Exception):
    """The job has taken longer than any job may."""


class StoppedError(Exception):
    """Somebody has cancelled the job, or it is done already: what was begun is to be dropped."""


def start(
    session: Session,
    kind: str,
    user: str,
    *,
    domain: str = "",
    key: str = "",
    arguments: dict[str, Any] | None = None,
    upload: UUID | None = None,
) -> JobRow:
    """Begin a job; a worker takes it up when the transaction is committed. There is one at a time
    of each kind for a domain.
    """
    job = JobRow(
        id=uuid.uuid4(),
        kind=kind,
        state="queued",
        user_name=user,
        domain=domain,
        key=key,
        arguments=arguments or {},
        upload_id=upload,
    )
    session.add(job)
    session.flush()
    queue.hand_over(session, job.id, _lock(job))
    return job


def _lock(job: JobRow) -> str:
    return f"{job.kind}:{job.key if job.kind == 'load' else job.domain}"


def free_lane(session: Session) -> str:
    """Return the lane of imports with the fewest jobs: those of one lane are done one by one."""
    asked = select(JobRow.key).where(JobRow.kind == "load", JobRow.state.in_(ACTIVE))
    held = Counter(session.scalars(asked))
    return min((f"lane {number}" for number in range(SIDE_BY_SIDE)), key=held.__getitem__)


def find(session: Session, job: UUID, *, for_writing: bool = False) -> JobRow:
    """Raises NotFoundError if there is no such job."""
    row = session.get(JobRow, job, with_for_update=for_writing, populate_existing=True)
    if row is None:
        raise NotFoundError("There is no such job any more.")
    return row


def latest(session: Session, kind: str, most: int) -> list[JobRow]:
    """The newest jobs of a kind, the newest first."""
    return list(
        session.scalars(
            select(JobRow).where(JobRow.kind == kind).order_by(JobRow.created_at.desc()).limit(most)
        )
    )


def active(session: Session, kind: str, domain: str) -> JobRow | None:
    """The job of this kind for the domain that waits, runs or is held, if there is one."""
    asked = select(JobRow).where(
        JobRow.kind == kind, JobRow.domain == domain, JobRow.state.in_((*ACTIVE, "held"))
    )
    return session.scalars(asked.order_by(JobRow.created_at.desc()).limit(1)).one_or_none()


def last_of(session: Session, kinds: Collection[str], domain: str) -> JobRow | None:
    """The newest job of these kinds for the domain."""
    asked = select(JobRow).where(JobRow.kind.in_(kinds), JobRow.domain == domain)
    return session.scalars(asked.order_by(JobRow.created_at.desc()).limit(1)).one_or_none()


def seek(session: Session, kind: str, domain: str, key: str, user: str) -> JobRow:
    """The job about one state of things, begun if there is none or it failed a while ago; those
    about others are stopped.
    """
    session.execute(text("SELECT pg_advisory_xact_lock(:key)"), {"key": _SEEK_LOCK})
    about = (
        select(JobRow)
        .where(JobRow.kind == kind, JobRow.domain == domain)
        .order_by(JobRow.created_at.desc())
    )
    for row in session.scalars(
        about.where(JobRow.key != key, JobRow.state.in_(ACTIVE)).with_for_update()
    ):
        cancel(row)
    too_old = func.now() - _TRY_AGAIN
    usable = or_(
        JobRow.state.in_(("queued", "running", "done")),
        and_(JobRow.state == "failed", JobRow.changed_at > too_old),
    )
    found = session.scalars(
        about.where(JobRow.key == key, usable, JobRow.stopping.is_(False)).limit(1)
    ).one_or_none()
    return found or start(session, kind, user, domain=domain, key=key)


def take(session: Session, job: UUID) -> JobRow:
    """Take a job up, perhaps again. Raises `StoppedError` if there is nothing left to do."""
    row = session.get(JobRow, job, with_for_update=True, populate_existing=True)
    if row is None or row.state not in ACTIVE:
        raise StoppedError
    row.taken += 1
    if row.stopping:
        _end(row, "cancelled")
    elif row.taken > MOST_TAKEN:
        _end(
            row,
            "failed",
            f"The worker ended {MOST_TAKEN} times while doing this. Nothing was changed.",
        )
    else:
        row.state, row.step, row.done, row.of, row.error, row.started_at = (
            "running",
            "",
            0,
            0,
            "",
            func.now(),
        )
    return row


def complete(session: Session, job: UUID, result: dict[str, Any]) -> None:
    """End a job in the transaction that holds what it did. Raises `StoppedError` if it has ended
    meanwhile: then roll back.
    """
    row = session.get(JobRow, job, with_for_update=True, populate_existing=True)
    if row is None or row.state != "running" or row.stopping:
        raise StoppedError
    row.result, row.done = result, row.of
    _end(row, "done")
    session.flush()


def fail(session: Session, job: UUID, error: str) -> None:
    row = session.get(JobRow, job, with_for_update=True, populate_existing=True)
    if row and row.state in ACTIVE:
        _end(row, "cancelled" if row.stopping else "failed", error)


def hold(session: Session, job: UUID, result: dict[str, Any], why: str) -> None:
    """A job goes no further before somebody has confirmed it: then it is begun again."""
    row = session.get(JobRow, job, with_for_update=True, populate_existing=True)
    if row and row.state in ACTIVE:
        row.result = result
        _end(row, "cancelled" if row.stopping else "held", why)


def end_stopped(session: Session, job: UUID) -> None:
    """A worker has dropped what it had begun."""
    row = session.get(JobRow, job, with_for_update=True, populate_existing=True)
    if row and row.state in ACTIVE:
        _end(row, "cancelled")


def _end(row: JobRow, state: str, error: str = "") -> None:
    row.state, row.error, row.changed_at = state, error, func.now()


def cancel(row: JobRow) -> None:
    """Stop a job held for writing: at once if no worker has it, else as soon as its worker
    sees it.
    """
    if row.state in ("queued", "held"):
        _end(row, "cancelled")
    elif row.state == "running":
        row.stopping = True


def can_retry(row: JobRow) -> bool:
    """What writes into a directory is gone on with by `hornfels.service.publications`."""
    ended = row.state in ("failed", "cancelled")
    return ended and row.kind != "publish" and (row.kind != "load" or row.upload_id is not None)


def retry(session: Session, row: JobRow) -> None:
    """Begin an ended job, held for writing, once more."""
    row.state, row.error, row.step, row.done, row.of, row.taken, row.stopping = (
        "queued",
        "",
        "",
        0,
        0,
        0,
        False,
    )
    row.started_at, row.changed_at = None, func.now()
    session.flush()
    queue.hand_over(session, row.id, _lock(row))


class Progress:
    """Says how far a running job is, now and then, each time in a transaction of its own."""

    def __init__(self, engine: Engine, job: UUID, most_hours: float = math.inf) -> None:
        self._engine, self._job = engine, job
        self._next = 0.0
        self._step = ""
        self._until = time.monotonic() + 3600 * most_hours

    def __call__(self, step: str, done: int = 0, of: int = 0) -> None:
        """Raises `StoppedError` if the job is to be stopped, `OverdueError` after too long."""
        now = time.monotonic()
        if now > self._until:
            raise OverdueError
        fresh = step != self._step
        if not fresh and now < self._next:
            return
        self._step, self._next = step, now + _EVERY
        said = update(JobRow).where(JobRow.id == self._job, JobRow.state == "running")
        values: dict[str, Any] = {"step": step, "done": done, "of": of, "changed_at": func.now()}
        if fresh:
            values["started_at"] = func.now()  # each step has a rate of its own
        said = said.values(values).returning(JobRow.stopping)
        with Session(self._engine) as session, session.begin():
            if session.scalar(said) is not False:
                raise StoppedError


def take_up_lost(session: Session) -> int:
    """Hand over again what should be done and is in no worker's queue; how many there were."""
    in_no_queue = text(
        "NOT EXISTS (SELECT 1 FROM procrastinate_jobs q WHERE q.args->>'job' = jobs.id::text "
        "AND q.status IN ('todo', 'doing'))"
    )
    lost = select(JobRow).where(
        JobRow.state.in_(ACTIVE), JobRow.changed_at < func.now() - _LOST, in_no_queue
    )
    rows = session.scalars(lost.with_for_update(skip_locked=True)).all()
    for row in rows:
        queue.hand_over(session, row.id, _lock(row))
        row.changed_at = func.now()
    return len(rows)


def sweep(session: Session) -> None:
    """Delete ended jobs after a day, and files that no job needs any more."""
    old, abandoned = func.now() - _KEPT, func.now() - _ABANDONED
    session.execute(delete(JobRow).where(JobRow.state.not_in(ACTIVE), JobRow.changed_at < old))
    # The rows of failed jobs are there for as long as the job can be begun again.
    needed = select(JobRow.id).where(JobRow.upload_id == UploadRow.id, JobRow.state != "done")
    session.execute(delete(UploadRow).where(~needed.exists(), UploadRow.at < abandoned))
