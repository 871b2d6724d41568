"""How a domain stands, as the last moment showed it, so that verdicts as somebody types cost no database."""

from __future__ import annotations

import asyncio
import threading
import time
from concurrent.futures import Future, ThreadPoolExecutor
from typing import Annotated

from fastapi import Depends, Request

from hornfels.api.deps import snapshot_at
from hornfels.api.snapshot import Snapshot, Snapshots

LIFETIME = 0.25
"""Seconds after which the database is asked again: so late may a verdict learn what another process changed."""

RECENT_PATHS = ("/verdicts", "/verdicts/many")
"""What reads `Recent` and changes nothing. Any other request empties it."""


class Recent:
    """Snapshots by their place in the address. Whatever changes through this process empties it: see `forget`."""

    def __init__(self, snapshots: Snapshots) -> None:
        self._snapshots = snapshots
        self._pool = ThreadPoolExecutor(max_workers=2, thread_name_prefix="recent")
        self._lock = threading.Lock()
        self._reading: dict[str, Future[Snapshot]] = {}
        self._held: dict[str, tuple[float, Snapshot]] = {}

    def forget(self) -> None:
        """Ask the database at the next verdict. What is being read just now is not kept either."""
        with self._lock:
            self._held.clear()
            self._reading.clear()

    def close(self) -> None:
        self._pool.shutdown(wait=False, cancel_futures=True)

    async def of(self, place: str) -> Snapshot:
        """The snapshot at a place; raises what `snapshot_at` raises."""
        held = self._held.get(place)
        if held and held[0] > time.monotonic():
            return held[1]
        with self._lock:
            joined = self._reading.get(place)
            reading = joined or self._reading.setdefault(place, self._pool.submit(self._read, place))
        if joined is None:
            # Without the lock: a reading that is already done is kept right here.
            reading.add_done_callback(lambda done: self._keep(place, done))
        # Others wait for the same reading: it goes on if this request is given up.
        return await asyncio.shield(asyncio.wrap_future(reading))

    def _read(self, place: str) -> Snapshot:
        snapshot = snapshot_at(place, self._snapshots)
        # Here, where nobody else waits for it: resolving a million accounts would hold up every request.
        _ = snapshot.resolution.winner_of_account, snapshot.rules
        return snapshot

    def _keep(self, place: str, done: Future[Snapshot]) -> None:
        with self._lock:
            if self._reading.get(place) is done:
                del self._reading[place]
                if not done.cancelled() and done.exception() is None:
                    self._held[place] = time.monotonic() + LIFETIME, done.result()
                self._held = {k: v for k, v in self._held.items() if v[0] > time.monotonic()}


async def get_recent(domain: str, request: Request) -> Snapshot:
    recent = request.app.state.recent
    assert isinstance(recent, Recent)  # noqa: S101
    return await recent.of(domain)


RecentSnapshot = Annotated[Snapshot, Depends(get_recent)]
