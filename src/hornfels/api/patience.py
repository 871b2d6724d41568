"""HTTP connections that do not stand for ever: who sends too slowly, too much before the body, or
does not read, is let go.
"""

from __future__ import annotations

import asyncio
import json
from asyncio.events import TimerHandle
from typing import Any

from uvicorn.protocols.http.httptools_impl import HttpToolsProtocol

HEAD_SECONDS = 10.0
"""From the first byte of a request, or from the connection being made, to the end of its headers.
"""
REST_SECONDS = 30.0
"""For the rest of a body that nobody reads any more because the answer is given."""
LINGER_SECONDS = 1.0
"""For the rest of a head that is too long."""
STALLED_SECONDS = 60.0
"""For somebody who does not read the answer."""
LONGEST_HEAD = 32 << 10
"""Bytes of address and headers."""
MOST_CONNECTIONS = 1000


def _refusal(status: str, words: str, more: str = "") -> bytes:
    body = json.dumps({"detail": words}).encode()
    head = (
        f"HTTP/1.1 {status}\r\nContent-Type: application/json\r\nContent-Length: "
        f"{len(body)}\r\n{more}Connection: close\r\n\r\n"
    )
    return head.encode() + body


_FULL = _refusal(
    "503 Service Unavailable",
    "Too many are connected just now. Try again in a moment.",
    "Retry-After: 1\r\n",
)
_TOO_LONG = _refusal(
    "431 Request Header Fields Too Large",
    f"Address and headers are longer than {LONGEST_HEAD >> 10} KB.",
)


_waiting: dict[PatientProtocol, None] = {}
"""The connections on which a request has yet to come, in the order in which they began to wait."""


class PatientProtocol(HttpToolsProtocol):
    """Uvicorn's protocol with time-outs and limits before an application sees anything."""

    _timer: TimerHandle | None = None
    _stall: TimerHandle | None = None
    _head = _unfinished = 0
    _in_head = _arriving = False
    _too_long = False
    _refused = False

    def connection_made(self, transport: asyncio.Transport) -> None:  # type: ignore[override]
        super().connection_made(transport)
        if len(self.connections) > MOST_CONNECTIONS:
            # Who has sent no request for longest makes room; whoever is being served never does.
            oldest = next(iter(_waiting), None)
            if oldest is None:
                transport.write(_FULL)
                transport.close()
                return
            oldest._give_up()
        self._wait(HEAD_SECONDS)

    def connection_lost(self, exc: Exception | None) -> None:
        self._stop_waiting()
        self._stop_stalling()
        super().connection_lost(exc)

    def data_received(self, data: bytes) -> None:
        if self._refused:
            return
        super().data_received(data)
        if self._in_head:
            # A single line without an end is not told of until it ends.
            self._unfinished += len(data)
            self._too_long = self._too_long or self._unfinished > LONGEST_HEAD
        if self._too_long and not self.transport.is_closing():
            self._refused = True
            self.transport.write(_TOO_LONG)
            # Closed a little later: what is still coming in would make the answer get lost.
            self._wait(LINGER_SECONDS)
        elif self._timer is None and not self._serving():
            # Something has come that is no request yet, such as empty lines.
            self._wait(HEAD_SECONDS)

    def on_message_begin(self) -> None:
        self._head, self._unfinished, self._in_head, self._arriving = 0, 0, True, True
        if not self._serving():
            self._wait(HEAD_SECONDS)
        super().on_message_begin()

    def on_url(self, url: bytes) -> None:
        self._count(len(url))
        super().on_url(url)

    def on_header(self, name: bytes, value: bytes) -> None:
        self._count(len(name) + len(value) + 4)
        super().on_header(name, value)

    def on_headers_complete(self) -> None:
        if self._too_long:
            raise ValueError("the headers are too long")
        self._in_head = False
        self._stop_waiting()
        super().on_headers_complete()

    def on_message_complete(self) -> None:
        self._arriving = False
        super().on_message_complete()

    def on_response_complete(self) -> None:
        super().on_response_complete()
        if self._arriving and not self._serving():
            self._wait(REST_SECONDS)

    def pause_writing(self) -> None:
        super().pause_writing()
        self._stop_stalling()
        self._stall = self.loop.call_later(STALLED_SECONDS, self.transport.abort)

    def resume_writing(self) -> None:
        self._stop_stalling()
        super().resume_writing()

    def send_400_response(self, msg: str) -> None:
        # What was said about the headers being too long is said once.
        if not self._too_long:
            super().send_400_response(msg)

    def _count(self, size: int) -> None:
        self._head += size
        if self._head > LONGEST_HEAD:
            self._too_long = True
            raise ValueError("the headers are too long")

    def _serving(self) -> bool:
        return self.cycle is not None and not self.cycle.response_complete

    def _wait(self, seconds: float) -> None:
        self._stop_waiting()
        _waiting[self] = None
        self._timer = self.loop.call_later(seconds, self._give_up)

    def _give_up(self) -> None:
        self._stop_waiting()
        if not self.transport.is_closing():
            self.transport.close()

    def _stop_waiting(self) -> None:
        _waiting.pop(self, None)
        if self._timer is not None:
            self._timer.cancel()
            self._timer = None

    def _stop_stalling(self) -> None:
        if self._stall is not None:
            self._stall.cancel()
            self._stall = None


def settings() -> dict[str, Any]:
    """How Uvicorn is to serve the application."""
    # The access log would hold names of accounts; requests are not logged.
    return {
        "http": PatientProtocol,
        "log_level": "warning",
        "access_log": False,
        "server_header": False,
        "ws": "none",
        "timeout_keep_alive": 30,
        "timeout_graceful_shutdown": 10,
        "backlog": 512,
    }
