"""Addresses with any name in them: a slash inside a name is no separator, and what no text can hold
is refused.
"""

from __future__ import annotations

from collections.abc import Callable, Coroutine
from typing import Any
from urllib.parse import unquote_to_bytes

from fastapi import Request, Response
from fastapi.routing import APIRoute
from starlette.routing import Match
from starlette.types import Scope

from hornfels.api.repeats import once

_SLASH = "\0"
"""Stands for a slash inside a part of a path, where NUL itself never comes."""


class UnreadableAddressError(ValueError):
    """The address holds what is no text."""


def canonical(scope: Scope) -> str:
    """The path of a request with the slashes inside its parts kept apart. Raises
    `UnreadableAddressError`.
    """
    raw: bytes = scope.get("raw_path") or scope["path"].encode()
    query: bytes = scope.get("query_string", b"")
    try:
        parts = [unquote_to_bytes(part).decode("utf-8") for part in raw.split(b"?")[0].split(b"/")]
        asked = unquote_to_bytes(query).decode("utf-8")
    except UnicodeDecodeError:
        raise UnreadableAddressError("The address is not UTF-8 text.") from None
    if "\0" in asked or any("\0" in part for part in parts):
        raise UnreadableAddressError("The address holds a NUL character. Take it out.")
    return "/".join(part.replace("/", _SLASH) for part in parts)


class Route(APIRoute):
    """A route whose parameters are the names as they were meant, and whose writes are done once for
    each idempotency key.
    """

    def get_route_handler(self) -> Callable[[Request], Coroutine[Any, Any, Response]]:
        return once(self, super().get_route_handler())

    def matches(self, scope: Scope) -> tuple[Match, Scope]:
        match, found = super().matches(scope)
        values = found.get("path_params")
        if values:
            found["path_params"] = {
                k: v.replace(_SLASH, "/") if isinstance(v, str) else v for k, v in values.items()
            }
        return match, found
