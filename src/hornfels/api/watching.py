"""How far jobs are, for everybody who looks on: one look at the database for all of them, a few
times a second.
"""

from __future__ import annotations

import asyncio
import contextlib
import logging
from collections.abc import AsyncIterator
from uuid import UUID

from anyio.to_thread import run_sync
from sqlalchemy import Engine, select
from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.orm import Session

from hornfels.api.schemas import JobInfo
from hornfels.api.views import job_info
from hornfels.store.jobs import ACTIVE
from hornfels.store.models import JobRow

EVERY = 0.3
"""Seconds between two looks, while anybody looks on."""

_log = logging.getLogger(__name__)


class Watch:
    """Tells how jobs go on. Runs only while somebody looks on."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine
        self._watched: dict[UUID, list[asyncio.Queue[JobInfo | None]]] = {}
        self._task: asyncio.Task[None] | None = None

    async def follow(self, job: UUID) -> AsyncIterator[JobInfo]:
        """How the job is, now and whenever that changes, until it has ended."""
        told: asyncio.Queue[JobInfo | None] = asyncio.Queue()
        self._watched.setdefault(job, []).append(told)
        if self._task is None or self._task.done():
            self._task = asyncio.create_task(self._look())
        last: JobInfo | None = None
        try:
            while (found := await told.get()) is not None:
                if found != last:
                    yield found
                    last = found
                if found.state not in ACTIVE:
                    return
        finally:
            self._watched[job].remove(told)
            if not self._watched[job]:
                del self._watched[job]

    async def close(self) -> None:
        if self._task:
            self._task.cancel()
            with contextlib.suppress(asyncio.CancelledError):
                await self._task

    async def _look(self) -> None:
        while self._watched:
            wanted = list(self._watched)
            try:
                found = await run_sync(self._read, wanted)
            except SQLAlchemyError as error:
                # Who looks on sees how it was; it goes on when the database is back.
                _log.warning("Jobs cannot be followed just now: %s", type(error).__name__)
                await asyncio.sleep(1.0)
                continue
            for job in wanted:
                for told in self._watched.get(job, ()):
                    told.put_nowait(found.get(job))
            await asyncio.sleep(EVERY)

    def _read(self, wanted: list[UUID]) -> dict[UUID, JobInfo]:
        with Session(self._engine) as session:
            return {
                row.id: job_info(row)
                for row in session.scalars(select(JobRow).where(JobRow.id.in_(wanted)))
            }
