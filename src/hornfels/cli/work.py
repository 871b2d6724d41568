"""`hornfels worker`: long work, until it is told to end."""

from __future__ import annotations

import asyncio
import os
import signal
import sys
import threading

from sqlalchemy import Engine

from hornfels.cli.database import database
from hornfels.cli.settings import settings
from hornfels.logs import set_up

_MOST_TO_END = 8.0
"""Seconds that a worker may take to end in good order."""


def run_worker(*, while_parent: bool) -> None:
    """Work until Ctrl+C or SIGTERM, or until the parent is gone."""
    held = settings()
    set_up(held.log, "hornfels worker")
    with database(held) as engine:
        asyncio.run(_worked(engine, while_parent=while_parent))


async def _worked(engine: Engine, *, while_parent: bool) -> None:
    from hornfels.worker.work import keep_working

    loop, ending = asyncio.get_running_loop(), asyncio.Event()
    for told in (signal.SIGINT, signal.SIGTERM):
        loop.add_signal_handler(told, ending.set)
    if while_parent:
        loop.add_reader(sys.stdin, _end_of_parent, loop, ending)
    working = asyncio.create_task(keep_working(engine))
    await asyncio.wait(
        (working, asyncio.create_task(ending.wait())), return_when=asyncio.FIRST_COMPLETED
    )
    # Whatever does not let go, such as a pool whose database is gone: it ends all the same, and
    # others take up what it did.
    hard_end = threading.Timer(_MOST_TO_END, os._exit, (0,))
    hard_end.daemon = True
    hard_end.start()
    working.cancel()
    await asyncio.wait((working,), timeout=3)
    if working.done() and not working.cancelled():
        working.result()
    # What is being done in a thread cannot be told to stop, and is taken up again by another
    # worker. Nor is anything else waited for: a pool that was cancelled while it opened never
    # lets go.
    os._exit(0)


def _end_of_parent(loop: asyncio.AbstractEventLoop, ending: asyncio.Event) -> None:
    loop.remove_reader(sys.stdin)
    ending.set()
