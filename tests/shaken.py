"""Answers out of their order: each waits a while, so that what must not depend on it shows."""

from __future__ import annotations

import asyncio
import random

from starlette.types import ASGIApp, Message, Receive, Scope, Send


class Shaken:
    """An application whose answers of the API each wait up to so many seconds, some before they are
    worked out and some after, most of them hardly.
    """

    def __init__(self, app: ASGIApp, most: float) -> None:
        self._app, self._most, self._dice = app, most, random.Random()

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http" or not scope["path"].startswith("/api"):
            await self._app(scope, receive, send)
            return
        await asyncio.sleep(self._wait())
        after = self._wait()

        async def later(message: Message) -> None:
            if message["type"] == "http.response.start":
                await asyncio.sleep(after)
            await send(message)

        await self._app(scope, receive, later)

    def _wait(self) -> float:
        return self._dice.random() ** 4 * self._most
