"""Request bodies: how large they may be where, read whole before anybody waits for a place
at work.
"""

from __future__ import annotations

import asyncio
import json
import re
from typing import Any

from starlette.datastructures import Headers
from starlette.responses import JSONResponse
from starlette.types import Message, Receive

from hornfels.api.refusals import invalid, refusal
from hornfels.formats.template import MOST_BYTES as LARGEST_TEMPLATE
from hornfels.formats.yaml_tree import MOST_BYTES as LARGEST_POLICY_FILE

_KB, _MB = 1 << 10, 1 << 20
LIMITS: tuple[tuple[str, int], ...] = (
    ("/api/session", 8 * _KB),
    ("/session/elsewhere", 8 * _KB),
    ("/session/elsewhere/back", 8 * _KB),
    ("/you/session", 8 * _KB),
    ("/you/password", 32 * _KB),
    ("/you/verdicts", 32 * _KB),
    ("/verdicts/many", 8 * _MB),
    ("/verdicts", 8 * _MB),
    ("/suggestions", 8 * _MB),
    ("/sources/template", LARGEST_TEMPLATE),
    ("/servers/template", LARGEST_TEMPLATE),
    ("/policy-file", LARGEST_POLICY_FILE),
    ("/policy-file/plan", LARGEST_POLICY_FILE),
    ("/effects", 8 * _MB),
    ("/gate/v1/check", 128 * _KB),
    ("/gate/v1/records", 4 * _MB),
)
"""By the end of the path, the first that fits."""
USUAL = 1 * _MB
SECONDS = 30.0
"""For a whole body to arrive."""
STREAMED = "/api/loads"
"""What reads its body itself, piece by piece."""

SECRET_PATHS = (
    "/verdicts",
    "/verdicts/many",
    "/suggestions",
    "/trials",
    "/effects",
    "/gate/v1/check",
    "/you/password",
    "/session",
    "/session/proof",
    "/session/password",
)
"""Whose bodies may hold a password anywhere, in the name of a field that does not exist
too.
"""

_SECRET_FIELDS = (
    "candidate",
    "candidates",
    "previous",
    "accounts",
    "policies",
    "account",
    "policy",
    "title",
    "target",
    "addition",
    "sample",
    "present",
    "fresh",
    "display_name",
    "names",
)
INVENTED_PATHS = ("/suggestions", "/boundaries", "/effects")
"""Whose answers hold candidates, which are shown exactly as they are."""

_SUSPECT = re.compile(rb"\\u0000|\\ud[89a-f]", re.IGNORECASE)


class RefusedBodyError(Exception):
    """The body is not taken; ``answer`` says why."""

    def __init__(self, answer: JSONResponse) -> None:
        super().__init__()
        self.answer = answer


_TERM_LIST = re.compile(r"/blocked-terms/[^/]+$")
LARGEST_TERM_LIST = 32 * _MB


def limit_of(path: str) -> int:
    if _TERM_LIST.search(path):
        return LARGEST_TERM_LIST
    return next((most for end, most in LIMITS if path.endswith(end)), USUAL)


async def whole(path: str, headers: Headers, receive: Receive) -> bytes:
    """The body of a request. Raises `RefusedBodyError` if it is too large, too slow, or holds text
    that nothing can store.
    """
    most = limit_of(path)
    if _announced(headers) > most:
        raise RefusedBodyError(_too_large(most))
    try:
        async with asyncio.timeout(SECONDS):
            body = await _collected(receive, most)
    except TimeoutError:
        raise RefusedBodyError(
            refusal(408, "The request did not arrive in time. Send it again.")
        ) from None
    if body and "json" in headers.get("content-type", "json") and _SUSPECT.search(body):
        _refuse_unstorable(body, named=not path.endswith(SECRET_PATHS))
    return body


def _announced(headers: Headers) -> int:
    written = headers.get("content-length", "0")
    return (
        int(written)
        if written.isdecimal() and len(written) < 16
        else 0
        if not written.isdecimal()
        else 1 << 62
    )


async def _collected(receive: Receive, most: int) -> bytes:
    pieces, size = [], 0
    while True:
        message = await receive()
        if message["type"] == "http.disconnect":
            raise RefusedBodyError(refusal(400, "The request was cut off."))
        pieces.append(message.get("body", b""))
        size += len(pieces[-1])
        if size > most:
            raise RefusedBodyError(_too_large(most))
        if not message.get("more_body", False):
            return b"".join(pieces)


def _too_large(most: int) -> JSONResponse:
    shown = f"{most // _MB} MB" if most >= _MB else f"{most // _KB} KB"
    return refusal(413, f"The request is too large: at most {shown} are taken here.")


def _refuse_unstorable(body: bytes, *, named: bool) -> None:
    """NUL and halves of surrogate pairs can be written in JSON, and no text anywhere may
    hold them.
    """
    try:
        place = _unstorable(json.loads(body))
    except (ValueError, RecursionError):
        return  # said better by who parses it
    if place is not None:
        message = "Take out the character that no text can hold (NUL, or half of a surrogate pair)."
        raise RefusedBodyError(invalid(place if named else _known(place), message))


def _known(place: str) -> str:
    """The field of a secret body that a place lies in, if it is one that there is."""
    return next((field for field in _SECRET_FIELDS if place.split(".")[0] == field), "")


def storable(text: str) -> bool:
    return "\0" not in text and not any("\ud800" <= c <= "\udfff" for c in text)


def _unstorable(value: Any) -> str | None:
    """The place of the first text that cannot be stored, without its own name where that is the
    culprit.
    """
    if isinstance(value, str):
        return None if storable(value) else ""
    if isinstance(value, dict):
        for key, inner in value.items():
            if not storable(key):
                return ""
            found = _unstorable(inner)
            if found is not None:
                return f"{key}.{found}" if found else str(key)
    elif isinstance(value, list):
        for number, inner in enumerate(value):
            found = _unstorable(inner)
            if found is not None:
                return f"{number}.{found}" if found else str(number)
    return None


def replayed(body: bytes, receive: Receive) -> Receive:
    """A `receive` that gives the body once more."""
    given = False

    async def again() -> Message:
        nonlocal given
        if given:
            return await receive()
        given = True
        return {"type": "http.request", "body": body, "more_body": False}

    return again
