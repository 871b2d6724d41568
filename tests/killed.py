"""Jobs that other processes do, which are killed in the middle."""

from __future__ import annotations

import os
import signal
from collections.abc import Callable, Mapping, Sequence
from typing import Any
from uuid import UUID

from sqlalchemy import Engine, select
from sqlalchemy.orm import Session

from hornfels.directory.link import Link
from hornfels.service import exposure_orders, unlocking
from hornfels.store import jobs
from hornfels.store.database import connect
from hornfels.store.models import JobRow
from hornfels.worker.work import do

Moment = Callable[[list[str]], bool]
"""Return whether to be killed after what has happened in this process."""
Watched = Mapping[tuple[Any, str], Callable[..., str]]
"""How a call of a function or method (an owner and its name) is written down once it has returned,
by its arguments.
"""
TELLING: Watched = {
    (unlocking, "have_changed"): lambda *_, **__: "asked for",
    (Link, "do"): lambda _, what, *__: what.partition(" ")[0],
    (unlocking, "carry_out"): lambda *_: "carried out",
    (exposure_orders, "carry_out"): lambda *_: "kept",
}
"""What happens on the way of accounts that have to change their passwords."""


def killed_at(
    engine: Engine, job: UUID, moment: Moment, watched: Watched, victim: int | None = None
) -> int:
    """Let another process do a job until a moment, at which the process kills itself, or kills the
    process of the number `victim`. Return how the process ended, as a return code: 1 if the job
    failed.
    """
    return ended(until(engine, job, moment, watched, victim))


def until(
    engine: Engine, job: UUID, moment: Moment, watched: Watched, victim: int | None = None
) -> int:
    """Begin what `killed_at` describes; return the number of the process."""
    child = os.fork()
    if child == 0:
        try:
            address = engine.url.render_as_string(hide_password=False)
            _do_until(connect(address), job, moment, watched, victim)
            os._exit(0)
        finally:
            os._exit(1)
    return child


def ended(child: int) -> int:
    """Wait for a process; return how the process ended, as a return code."""
    return os.waitstatus_to_exitcode(os.waitpid(child, 0)[1])


def _do_until(
    engine: Engine, job: UUID, moment: Moment, watched: Watched, victim: int | None
) -> None:
    seen: list[str] = []

    def after(call: Callable[..., Any], what: Callable[..., str]) -> Callable[..., Any]:
        def called(*given: Any, **named: Any) -> Any:
            result = call(*given, **named)
            seen.append(what(*given, **named))
            if moment(seen):
                os.kill(victim or os.getpid(), signal.SIGKILL)
            return result

        return called

    for (owner, name), what in watched.items():
        setattr(owner, name, after(getattr(owner, name), what))
    do(engine, job)


def killed_after_each(engine: Engine, kind: str, happenings: Sequence[str]) -> None:
    """Have the latest job of a kind killed after each of these happenings, one after the other."""
    with Session(engine) as session:
        latest = select(JobRow.id).where(JobRow.kind == kind).order_by(JobRow.created_at.desc())
        job = session.scalars(latest).first()
    assert job, f"no job of the kind {kind}"
    for happening in happenings:
        ended = killed_at(engine, job, lambda seen, at=happening: seen[-1:] == [at], TELLING)  # type: ignore[misc]
        assert ended == -signal.SIGKILL, happening
    with Session(engine) as session:
        assert session.get_one(JobRow, job).state in jobs.ACTIVE
