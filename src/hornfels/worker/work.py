"""A worker: takes jobs from the queue, does them in a thread, and looks after those of workers that
are gone.
"""

from __future__ import annotations

import asyncio
import contextlib
import logging
import traceback
from collections.abc import Callable, Mapping
from datetime import UTC, datetime
from uuid import UUID

import procrastinate
from procrastinate import exceptions
from sqlalchemy import Engine
from sqlalchemy.exc import OperationalError, SQLAlchemyError
from sqlalchemy.orm import Session

from hornfels.service import (
    exposure,
    lifetimes,
    mailing,
    reading,
    report_orders,
    server_folder,
    spreading,
)
from hornfels.settings import read_settings
from hornfels.store import gate, jobs, lost_policies, repeats
from hornfels.store.anchors import Anchor, keep, key_in
from hornfels.store.database import libpq
from hornfels.store.models import JobRow
from hornfels.store.queue import TASK
from hornfels.store.trail import head
from hornfels.worker.exposure import look
from hornfels.worker.guarded import overdue
from hornfels.worker.lifetimes import end
from hornfels.worker.loading import load
from hornfels.worker.mailing import write
from hornfels.worker.publishing import publish
from hornfels.worker.reading import compare, read
from hornfels.worker.reporting import report
from hornfels.worker.spreading import go_on
from hornfels.worker.weighing import weigh

CONCURRENCY = 3
"""Jobs that one worker does at a time."""
HEARTBEAT = 2.0
GONE = 8.0
"""Seconds without a heartbeat after which a worker is taken for gone. Should it live after all, its
work is dropped at its end.
"""
ROUND = 3.0
"""Seconds between two looks for jobs of workers that are gone."""
_SWEEP_EVERY = 20
"""Rounds between two sweeps of what is no longer needed."""
_HEAD_EVERY = 1200
"""Rounds after which the log says again where the trail stands: an hour."""

UNEXPECTED = "The job ended unexpectedly; the log of the worker says where. Please report it."

Do = Callable[[Engine, JobRow], None]
KINDS: Mapping[str, Do] = {
    "load": load,
    "findings": weigh,
    "trials": weigh,
    "read": read,
    "agreement": compare,
    "publish": publish,
    "lifetimes": end,
    "exposure": look,
    "mailing": write,
    "report": report,
    "spread": go_on,
}
"""What does each kind of job. It ends the job itself; what it raises is tried again."""

_log = logging.getLogger(__name__)


def do(engine: Engine, number: UUID, kinds: Mapping[str, Do] = KINDS) -> None:
    """Do a job, unless it is done or stopped already."""
    try:
        with Session(engine, expire_on_commit=False) as session, session.begin():
            job = jobs.take(session, number)
        if job.state == "running":
            kinds[job.kind](engine, job)
    except jobs.StoppedError:
        with Session(engine) as session, session.begin():
            jobs.end_stopped(session, number)
    except jobs.OverdueError:
        with Session(engine) as session, session.begin():
            jobs.fail(session, number, overdue())
    except OperationalError:
        raise  # the database is away: the job is tried again
    except Exception as error:
        # A job ends its own failures. What comes through is a failure that could not be stored.
        place = "".join(traceback.format_tb(error.__traceback__)[-6:])
        _log.error("A job failed with %s at\n%s", type(error).__name__, place)
        with Session(engine) as session, session.begin():
            jobs.fail(session, number, UNEXPECTED)


def _queue(engine: Engine, kinds: Mapping[str, Do]) -> procrastinate.App:
    app = procrastinate.App(
        connector=procrastinate.PsycopgConnector(
            kwargs=libpq(engine), min_size=1, max_size=4, timeout=5
        )
    )

    @app.task(
        name=TASK,
        retry=procrastinate.RetryStrategy(
            max_attempts=jobs.MOST_TAKEN, wait=1, retry_exceptions={OperationalError}
        ),
    )
    def job(job: str) -> None:
        do(engine, UUID(job), kinds)

    return app


async def work(engine: Engine, *, once: bool = False, kinds: Mapping[str, Do] = KINDS) -> None:
    """Do jobs until cancelled, or (`once`) until the queue is empty. Ends with an error if the
    database goes away.
    """
    app = _queue(engine, kinds)
    async with app.open_async():
        while once:
            await app.run_worker_async(
                wait=False,
                concurrency=CONCURRENCY,
                listen_notify=False,
                install_signal_handlers=False,
                delete_jobs="always",
            )
            # Those with one lock are not seen while one of them is done.
            if not list(await app.job_manager.list_jobs_async(status="todo")):
                return
        looking = asyncio.create_task(_look_after(engine, app))
        reading_folders = asyncio.create_task(_read_folders(engine))
        working = asyncio.create_task(
            app.run_worker_async(
                concurrency=CONCURRENCY,
                install_signal_handlers=False,
                delete_jobs="always",
                fetch_job_polling_interval=1.0,
                update_heartbeat_interval=HEARTBEAT,
                stalled_worker_timeout=10 * GONE,
                shutdown_graceful_timeout=1.0,
            )
        )
        tasks = (looking, working, reading_folders)
        try:
            done, _ = await asyncio.wait(tasks, return_when=asyncio.FIRST_COMPLETED)
            for ended in done:
                ended.result()
        finally:
            for task in tasks:
                task.cancel()
            await asyncio.gather(*tasks, return_exceptions=True)


async def _look_after(engine: Engine, app: procrastinate.App) -> None:
    turn = 0
    while True:
        for stalled in await app.job_manager.get_stalled_jobs(seconds_since_heartbeat=GONE):
            _log.warning("A worker is gone; its job is taken up again.")
            await app.job_manager.retry_job(stalled)
        await asyncio.to_thread(_look_round, engine, sweep=turn % _SWEEP_EVERY == 0)
        if turn % _HEAD_EVERY == 0:
            await asyncio.to_thread(sign_anchor, engine)
        turn += 1
        await asyncio.sleep(ROUND)


async def _read_folders(engine: Engine) -> None:
    """Apart from all else, since a folder on another machine may take long to answer."""
    while True:
        try:
            await asyncio.to_thread(server_folder.read_every_folder, engine, read_settings())
        except OperationalError:
            raise
        except Exception as error:
            # Whatever lies in a folder, the worker goes on.
            _log.error("The folders of servers were not read (%s).", type(error).__name__)
        await asyncio.sleep(server_folder.EVERY)


def _look_round(engine: Engine, *, sweep: bool) -> None:
    with Session(engine) as session, session.begin():
        jobs.take_up_lost(session)
        reading.begin_due(session, datetime.now(UTC))
        lifetimes.begin_due(session, datetime.now(UTC))
        spreading.begin_due(session, datetime.now(UTC))
        exposure.begin_due(session, datetime.now(UTC), read_settings())
        mailing.begin_due(session, datetime.now(UTC), read_settings())
        report_orders.begin_due(session, datetime.now(UTC), read_settings())
        if sweep:
            jobs.sweep(session)
            gate.sweep(session)
            lost_policies.sweep(session)
            repeats.sweep(session)


def sign_anchor(engine: Engine) -> None:
    """Entries of the trail that are cut off later show only against what is kept elsewhere: in the
    log, and in a signed file.
    """
    held = read_settings()
    with Session(engine) as session:
        number, digest = head(session)
    _log.info("The trail stands at %d:%s.", number, digest)
    try:
        keep(held.anchor_file, key_in(held.home), Anchor(datetime.now(UTC), number, digest))
    except OSError as error:
        _log.warning("The anchor of the trail was not kept: %s.", error)


async def keep_working(engine: Engine) -> None:
    """Work, and begin again with more and more patience whenever the database has gone away."""
    pause = 0.5
    while True:
        begun = asyncio.get_running_loop().time()
        try:
            await work(engine)
        except (exceptions.ConnectorException, SQLAlchemyError, OSError) as error:
            _log.warning("The worker waits for the database (%s).", type(error).__name__)
        with contextlib.suppress(SQLAlchemyError):
            engine.dispose()
        pause = 0.5 if asyncio.get_running_loop().time() - begun > 30 else min(pause * 2, 10.0)
        await asyncio.sleep(pause)
