"""Only so many requests at work at a time, and a short queue: who cannot be served soon is told so
at once.
"""

from __future__ import annotations

import asyncio
from collections import Counter
from collections.abc import AsyncIterator, Callable
from contextlib import asynccontextmanager
from typing import TypeVar, TypeVarTuple

from anyio import CapacityLimiter
from anyio.to_thread import run_sync

T = TypeVar("T")
A = TypeVarTuple("A")

AT_WORK = 6
"""Requests at work, each with at most one thread and one connection. More would only take turns on
one processor.
"""
WAITING = 40
SHARE = 16
"""Requests of one address at the self-service page that wait or are at work."""
PATIENCE = 2.0
"""Seconds that one waits for its turn: a machine that is slow for a moment refuses nobody who would
have been served within them.
"""


class FullError(Exception):
    """Too many requests are waiting already."""


class Turnstile:
    """Places for requests at work."""

    def __init__(
        self,
        at_work: int = AT_WORK,
        waiting: int = WAITING,
        patience: float = PATIENCE,
        share: int | None = None,
    ) -> None:
        self._share, self._of = share, Counter[str]()
        self._places = asyncio.Semaphore(at_work)
        self._threads = CapacityLimiter(at_work)
        self._waiting, self._most_waiting, self._patience = 0, waiting, patience

    @asynccontextmanager
    async def share(self, address: str) -> AsyncIterator[None]:
        """A place for a client by its address, of which only so many may wait or be at work: one
        client shuts no others out. Raises `FullError`.
        """
        if self._share is not None and self._of[address] >= self._share:
            raise FullError
        self._of[address] += 1
        try:
            async with self.place():
                yield
        finally:
            self._of[address] -= 1
            if not self._of[address]:
                del self._of[address]

    @asynccontextmanager
    async def place(self) -> AsyncIterator[None]:
        """A place until the block ends. Raises `FullError` if none comes free soon."""
        if self._places.locked():
            await self._queue()
        else:
            await self._places.acquire()
        try:
            yield
        finally:
            self._places.release()

    async def run(self, work: Callable[[*A], T], *args: *A) -> T:
        """Work done in a thread that these places have for themselves."""
        return await run_sync(work, *args, limiter=self._threads)

    async def _queue(self) -> None:
        if self._waiting >= self._most_waiting:
            raise FullError
        self._waiting += 1
        try:
            await asyncio.wait_for(self._places.acquire(), self._patience)
        except TimeoutError:
            raise FullError from None
        finally:
            self._waiting -= 1
