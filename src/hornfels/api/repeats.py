"""Writes that come twice are done once: a write carries an idempotency key, and its answer is kept
for a day (draft-ietf-httpapi-idempotency-key-header).
"""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Coroutine
from typing import Any

from anyio.to_thread import run_sync
from fastapi.routing import APIRoute
from sqlalchemy import Engine
from sqlalchemy.orm import Session
from starlette.requests import Request
from starlette.responses import JSONResponse, Response

from hornfels.api.schemas import ShownOnce
from hornfels.refusals import ConflictError
from hornfels.store import repeats

HEADER = "Idempotency-Key"
MAX_KEY_LENGTH = 100
_KEPT_HEADERS = ("content-type", "draft-moved", "location")

_READS = (
    "/verdicts",
    "/verdicts/many",
    "/drill",
    "/suggestions",
    "/boundaries",
    "/adjustments",
    "/effects",
    "/mailing/planned",
    "/mailing/sample",
    "/policy-file/plan",
    "/what-if",
    "/what-if/edit",
    "/tradeoff/moved",
)
"""Ends of addresses that take a body and only compute."""
_APART = ("/api/session", "/api/you", "/api/gate", "/api/loads")
"""Beginnings of addresses that take no key: sign-in, the self-service page, the gate, and files."""
Handler = Callable[[Request], Coroutine[Any, Any, Response]]


def keeps_answers(route: APIRoute) -> bool:
    """Return whether the writes of a route are done once for each key."""
    writes = not (route.methods or set()) <= {"GET", "HEAD"}
    return (
        writes
        and not route.path.endswith(_READS)
        and (not route.path.startswith(_APART) or shows_once(route))
    )


def shows_once(route: APIRoute) -> bool:
    """Return whether the answers of a route may hold a secret, and are never kept."""
    model = route.response_model
    return isinstance(model, type) and issubclass(model, ShownOnce)


def once(route: APIRoute, handler: Handler) -> Handler:
    """Let a handler do a write once for each key that a visitor sends; a repeat gets the answer of
    the first.
    """
    if not keeps_answers(route):
        return handler
    secret = shows_once(route)

    async def handle(request: Request) -> Response:
        key = request.headers.get(HEADER, "")
        visitor = request.headers.get("cookie", "") + request.headers.get("authorization", "")
        is_file = request.headers.get("content-type") == "application/octet-stream"
        if not key or not visitor or is_file:
            return await handler(request)
        if len(key) > MAX_KEY_LENGTH:
            raise ConflictError(f"{HEADER} has more than {MAX_KEY_LENGTH} characters. Shorten it.")
        engine: Engine = request.app.state.engine
        whose = _digest(visitor, key)
        # A body may hold a password: nobody can guess the body without the visitor's token.
        body = (await request.body()).hex()
        asked = _digest(visitor, key, request.method, str(request.url), body)
        found = await run_sync(_begun, engine, whose, asked)
        if found is not None:
            return _answer(found, asked)
        try:
            response = await handler(request)
        except BaseException:
            # Refused, or failed: nothing was written, and a repeat is a new try.
            await run_sync(_forgotten, engine, whose)
            raise
        answer = None if secret else bytes(response.body)
        headers = {k: v for k, v in response.headers.items() if k in _KEPT_HEADERS}
        await run_sync(_done, engine, whose, response.status_code, headers, answer)
        return response

    return handle


def _digest(*parts: str) -> bytes:
    return hashlib.sha256("\0".join(parts).encode("utf-8", "replace")).digest()


def _begun(engine: Engine, key: bytes, asked: bytes) -> repeats.Kept | None:
    with Session(engine) as session, session.begin():
        return repeats.begin(session, key, asked)


def _done(
    engine: Engine, key: bytes, status: int, headers: dict[str, str], body: bytes | None
) -> None:
    with Session(engine) as session, session.begin():
        repeats.complete(session, key, status, headers, body)


def _forgotten(engine: Engine, key: bytes) -> None:
    with Session(engine) as session, session.begin():
        repeats.forget(session, key)


def _answer(found: repeats.Kept, asked: bytes) -> Response:
    if found.asked != asked:
        raise ConflictError(
            f"This {HEADER} belongs to another request. Send a new key with each request."
        )
    if found.status is None:
        raise ConflictError("The same change is under way. Reload the page in a moment.")
    if found.body is None:
        return JSONResponse(
            {
                "detail": "This was done already. An answer that can hold a secret is shown once. "
                "Reload the page."
            },
            409,
        )
    return Response(found.body, found.status, found.headers)
