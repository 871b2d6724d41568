"""Who is signed in behind a request, known before anything of its body is read."""

from __future__ import annotations

import asyncio
import hashlib
import threading
import time
from concurrent.futures import Future, ThreadPoolExecutor

from sqlalchemy import Engine
from sqlalchemy.orm import Session

from hornfels.api.turnstile import FullError
from hornfels.store.people import signed_in

LIFETIME = 0.5
"""Seconds after which the database is asked again: so late may one process learn that another has signed somebody out."""
MOST_ASKED = 200
"""Questions to the database that may be open at a time."""


class Visitors:
    """Names by session token, as the last moment showed them. Tokens are held as digests."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine
        self._pool = ThreadPoolExecutor(max_workers=2, thread_name_prefix="visitors")
        self._lock = threading.Lock()
        self._held: dict[bytes, tuple[float, str | None]] = {}
        self._asked: dict[bytes, Future[str | None]] = {}

    async def name(self, token: str | None) -> str | None:
        """Who is signed in with this token, None for nobody. Raises `FullError` if too many ask at once."""
        if not token:
            return None
        key = hashlib.sha256(token.encode("utf-8", "replace")).digest()
        held = self._held.get(key)
        if held and held[0] > time.monotonic():
            return held[1]
        with self._lock:
            asked = self._asked.get(key)
            if asked is None:
                if len(self._asked) >= MOST_ASKED:
                    raise FullError
                asked = self._asked[key] = self._pool.submit(self._read, token)
                fresh = True
            else:
                fresh = False
        if fresh:
            asked.add_done_callback(lambda done: self._keep(key, done))
        return await asyncio.shield(asyncio.wrap_future(asked))

    def forget(self) -> None:
        """Somebody has signed in or out: ask again about everybody, and keep nothing of what is being asked."""
        with self._lock:
            self._held.clear()
            self._asked.clear()

    def close(self) -> None:
        self._pool.shutdown(wait=False, cancel_futures=True)

    def _read(self, token: str) -> str | None:
        with Session(self._engine) as database:
            return signed_in(database, token)

    def _keep(self, key: bytes, done: Future[str | None]) -> None:
        now = time.monotonic()
        with self._lock:
            if self._asked.get(key) is not done:
                return
            del self._asked[key]
            if len(self._held) > MOST_ASKED:
                self._held = {k: v for k, v in self._held.items() if v[0] > now}
            if not done.cancelled() and done.exception() is None:
                self._held[key] = now + LIFETIME, done.result()
