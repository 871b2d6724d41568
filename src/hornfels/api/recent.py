"""Who asks and how a domain stands, as the last moment showed it, so that verdicts as somebody types cost no database."""

from __future__ import annotations

import asyncio
import threading
import time
from concurrent.futures import Future, ThreadPoolExecutor
from typing import Annotated

from fastapi import Depends, Request
from sqlalchemy import Engine
from sqlalchemy.orm import Session

from hornfels.api.deps import COOKIE, get_snapshot, get_user
from hornfels.api.snapshot import Snapshot, Snapshots

LIFETIME = 0.25
"""Seconds after which the database is asked again: so late may a verdict learn what another process changed."""

_Key = tuple[str | None, str]


class Recent:
    """Snapshots by session and place in the address. Whatever changes through this process empties it: see `forget`."""

    def __init__(self, snapshots: Snapshots, engine: Engine) -> None:
        self._snapshots, self._engine = snapshots, engine
        self._pool = ThreadPoolExecutor(max_workers=4, thread_name_prefix="recent")
        self._lock = threading.Lock()
        self._reading: dict[_Key, Future[Snapshot]] = {}
        self._held: dict[_Key, tuple[float, Snapshot]] = {}

    def forget(self) -> None:
        """Ask the database at the next verdict. What is being read just now is not kept either."""
        with self._lock:
            self._held.clear()
            self._reading.clear()

    async def of(self, token: str | None, place: str) -> Snapshot:
        """The snapshot at a place for a session; raises what `get_user` and `get_snapshot` raise."""
        key = token, place
        held = self._held.get(key)
        if held and held[0] > time.monotonic():
            return held[1]
        with self._lock:
            joined = self._reading.get(key)
            reading = joined or self._reading.setdefault(key, self._pool.submit(self._read, token, place))
        if joined is None:
            # Without the lock: a reading that is already done is kept right here.
            reading.add_done_callback(lambda done: self._keep(key, done))
        # Others wait for the same reading: it goes on if this request is given up.
        return await asyncio.shield(asyncio.wrap_future(reading))

    def _read(self, token: str | None, place: str) -> Snapshot:
        with Session(self._engine) as database:
            snapshot = get_snapshot(place, database, get_user(database, token), self._snapshots)
        # Here, where nobody else waits for it: resolving a million accounts would hold up every request.
        _ = snapshot.resolution.winner_of_account, snapshot.rules
        return snapshot

    def _keep(self, key: _Key, done: Future[Snapshot]) -> None:
        with self._lock:
            if self._reading.get(key) is done:
                del self._reading[key]
                if not done.cancelled() and done.exception() is None:
                    self._held[key] = time.monotonic() + LIFETIME, done.result()
                self._held = {k: v for k, v in self._held.items() if v[0] > time.monotonic()}


async def get_recent(domain: str, request: Request) -> Snapshot:
    recent = request.app.state.recent
    assert isinstance(recent, Recent)  # noqa: S101
    return await recent.of(request.cookies.get(COOKIE), domain)


RecentSnapshot = Annotated[Snapshot, Depends(get_recent)]
