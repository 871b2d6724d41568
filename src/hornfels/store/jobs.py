"""Long work with progress that a browser can follow."""

from __future__ import annotations

import uuid
from typing import Any
from uuid import UUID

from sqlalchemy import update
from sqlalchemy.orm import Session

from hornfels.store.models import JobRow


def start(session: Session, kind: str, user: str) -> UUID:
    job = JobRow(id=uuid.uuid4(), kind=kind, state="running", user_name=user)
    session.add(job)
    session.commit()
    return job.id


def report(session: Session, job: UUID, progress: str) -> None:
    session.execute(update(JobRow).where(JobRow.id == job).values(progress=progress))
    session.commit()


def finish(session: Session, job: UUID, result: dict[str, Any]) -> None:
    session.execute(update(JobRow).where(JobRow.id == job).values(state="done", result=result))
    session.commit()


def fail(session: Session, job: UUID, error: str) -> None:
    session.execute(update(JobRow).where(JobRow.id == job).values(state="failed", error=error))
    session.commit()


def fail_abandoned(session: Session) -> None:
    """Jobs of a process that is gone cannot go on."""
    session.execute(
        update(JobRow)
        .where(JobRow.state == "running")
        .values(state="failed", error="Hornfels was stopped while this ran; nothing was changed. Start it again.")
    )
    session.commit()
