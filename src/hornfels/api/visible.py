"""Names as they are shown: what moves a terminal's cursor, is not seen, or turns the direction of
text is written as an escape.

A directory may hold such names. They stay as they are inside; a look-up takes the shown form as
well (`TextColumn.find`).
"""

from __future__ import annotations

import json
import re
from typing import Any

from starlette.types import Message, Send

from hornfels.core.values.text import visible

_SUSPECT = re.compile(
    rb"\\(?:u00[01][0-9a-fA-F]|[nrtbf])|\x7f|\xc2[\x80-\x9f\xad]|\xd8\x9c|\xe2\x80[\x8b-\x8f\xa8-\xae]|\xe2\x81[\xa0-\xaf]|\xef\xbb\xbf|\xf3\xa0[\x80\x81]"
)
"""How JSON writes such characters in UTF-8."""
_FREE = {"reason", "authorities"}
"""Fields of several lines."""


class Visible:
    """Sends JSON answers in which every text can be seen."""

    def __init__(self, send: Send) -> None:
        self._send = send
        self._start: Message | None = None

    async def __call__(self, message: Message) -> None:
        if message["type"] == "http.response.start":
            if any(
                name == b"content-type" and value.startswith(b"application/json")
                for name, value in message["headers"]
            ):
                self._start = message
                return
        elif self._start is not None:
            start, self._start = self._start, None
            body = message.get("body", b"")
            if not message.get("more_body", False) and _SUSPECT.search(body):
                body = json.dumps(
                    _shown(json.loads(body)), ensure_ascii=False, separators=(",", ":")
                ).encode()
                message = {**message, "body": body}
                start["headers"] = [
                    (name, str(len(body)).encode() if name == b"content-length" else value)
                    for name, value in start["headers"]
                ]
            await self._send(start)
        await self._send(message)


def _shown(value: Any, lines: str = "") -> Any:
    if isinstance(value, str):
        return visible(value, lines)
    if isinstance(value, dict):
        return {
            key: _shown(inner, "\r\n\t" if key in _FREE else "") for key, inner in value.items()
        }
    return [_shown(inner) for inner in value] if isinstance(value, list) else value
