"""What was read a moment ago, and one reading for all who ask for the same at once."""

from __future__ import annotations

import asyncio
import threading
import time
from collections.abc import Callable, Hashable
from concurrent.futures import Future, ThreadPoolExecutor
from typing import Generic, TypeVar

from hornfels.api.turnstile import FullError

K = TypeVar("K", bound=Hashable)
V = TypeVar("V")

MOST_READINGS = 100
"""Readings that may be under way or waiting at a time."""


class ShortLived(Generic[K, V]):
    """Values by key, each good for `lifetime` seconds, read in a few threads of their own."""

    def __init__(self, name: str, lifetime: float, threads: int = 4) -> None:
        self._lifetime = lifetime
        self._pool = ThreadPoolExecutor(max_workers=threads, thread_name_prefix=name)
        self._lock = threading.Lock()
        self._reading: dict[K, Future[V]] = {}
        self._held: dict[K, tuple[float, V]] = {}

    async def of(self, key: K, read: Callable[[], V]) -> V:
        """The value at a key; raises what `read` raises, and `FullError` if too many ask for other
        keys at once.
        """
        held = self._held.get(key)
        if held and held[0] > time.monotonic():
            return held[1]
        with self._lock:
            joined = self._reading.get(key)
            if joined is None and len(self._reading) >= MOST_READINGS:
                raise FullError
            reading = joined or self._reading.setdefault(key, self._pool.submit(read))
        if joined is None:
            # Without the lock: a reading that is already done is kept right here.
            reading.add_done_callback(lambda done: self._keep(key, done))
        # Others wait for the same reading: it goes on if this request is given up.
        return await asyncio.shield(asyncio.wrap_future(reading))

    def forget(self) -> None:
        """Read anew whatever is asked for next. What is being read just now is not kept either."""
        with self._lock:
            self._held.clear()
            self._reading.clear()

    def close(self) -> None:
        self._pool.shutdown(wait=False, cancel_futures=True)

    def _keep(self, key: K, done: Future[V]) -> None:
        now = time.monotonic()
        with self._lock:
            if self._reading.get(key) is done:
                del self._reading[key]
                if not done.cancelled() and done.exception() is None:
                    self._held[key] = now + self._lifetime, done.result()
                self._held = {k: v for k, v in self._held.items() if v[0] > now}
