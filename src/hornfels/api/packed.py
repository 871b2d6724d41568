"""Answers of some size go out compressed to those who take it."""

from __future__ import annotations

import gzip

from anyio.to_thread import run_sync
from starlette.types import Message, Send

SMALLEST = 1500
"""Bytes; less than this fits one packet anyway."""
_LARGE = 1 << 18
_KINDS = (b"application/json", b"text/")
_LEVEL = 4


class Packed:
    """Sends a whole answer, its body compressed where that is worth it."""

    def __init__(self, send: Send, accepted: str) -> None:
        self._send = send
        self._accepted = "gzip" in accepted
        self._start: Message | None = None

    async def __call__(self, message: Message) -> None:
        if message["type"] == "http.response.start":
            kind = next(
                (value for name, value in message["headers"] if name == b"content-type"), b""
            )
            if self._accepted and kind.startswith(_KINDS):
                self._start = message
                return
        elif self._start is not None:
            start, self._start = self._start, None
            body = message.get("body", b"")
            if len(body) >= SMALLEST and not message.get("more_body", False):
                packed = (
                    await run_sync(gzip.compress, body, _LEVEL)
                    if len(body) > _LARGE
                    else gzip.compress(body, _LEVEL)
                )
                kept = [
                    (name, value) for name, value in start["headers"] if name != b"content-length"
                ]
                added = {
                    b"content-length": str(len(packed)).encode(),
                    b"content-encoding": b"gzip",
                    b"vary": b"accept-encoding",
                }
                start, message = (
                    {**start, "headers": [*kept, *added.items()]},
                    {**message, "body": packed},
                )
            await self._send(start)
        await self._send(message)
