"""The web application: routes, errors that say what to do, and the built front end."""

from __future__ import annotations

import logging
from pathlib import Path
from urllib.parse import urlsplit

from fastapi import FastAPI, HTTPException, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import FileResponse, JSONResponse
from fastapi.staticfiles import StaticFiles
from sqlalchemy import Engine
from sqlalchemy.exc import DBAPIError, OperationalError
from sqlalchemy.orm import Session
from starlette.datastructures import Headers
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from hornfels.api.recent import Recent
from hornfels.api.routes import (
    accounts,
    advice,
    bench,
    domains,
    drafts,
    findings,
    groups,
    history,
    policies,
    search,
    session,
    sources,
    trials,
    whatif,
)
from hornfels.api.snapshot import Snapshots
from hornfels.api.wording import sentence
from hornfels.store import jobs
from hornfels.store.drafts import RefusedError, StaleDraftError

STATIC = Path(__file__).parent / "static"

_log = logging.getLogger(__name__)

_HEADERS = [
    (b"content-security-policy", b"default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; font-src 'self'; "
     b"object-src 'none'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'"),
    (b"x-content-type-options", b"nosniff"),
    (b"referrer-policy", b"no-referrer"),
    (b"cross-origin-opener-policy", b"same-origin"),
]  # fmt: skip
_UNKEPT = [*_HEADERS, (b"cache-control", b"no-store")]
_KEPT = [*_HEADERS, (b"cache-control", b"public, max-age=31536000, immutable")]
# The bench comes first: routes are tried in this order, and it is asked at every keystroke.
_ROUTES = (bench, advice, trials, session, domains, policies, accounts, search, whatif, findings, groups, drafts, history, sources)
ROUTERS = (*(module.router for module in _ROUTES), sources.extended)
RECENT_PATHS = ("/verdicts", "/verdicts/many")
"""What reads `Recent` and changes nothing. Any other request empties it."""
_SECRET_PATHS = (*RECENT_PATHS, "/suggestions", "/trials")
_OUT_OF_RANGE = "22003"
"""PostgreSQL's code for a number too large for its column: nothing can have it."""
_SAFE = {"GET", "HEAD", "OPTIONS"}


def create_app(engine: Engine) -> FastAPI:
    """The application on a database whose schema is up to date."""
    app = FastAPI(title="Hornfels", docs_url=None, redoc_url=None, openapi_url="/api/openapi.json")
    app.state.engine = engine
    app.state.snapshots = Snapshots(engine)
    with Session(engine) as database:
        jobs.fail_abandoned(database)

    for router in ROUTERS:
        app.include_router(router)

    app.state.recent = Recent(app.state.snapshots, engine)
    app.add_middleware(Guard, recent=app.state.recent)
    app.add_exception_handler(RequestValidationError, _invalid)
    app.add_exception_handler(policies.StalePolicyError, policies.answer_conflict)
    for refusal in (StaleDraftError, RefusedError):
        app.add_exception_handler(refusal, drafts.answer_refusal)
    app.add_exception_handler(DBAPIError, _database_down)

    @app.api_route("/api/{rest:path}", methods=["GET", "POST", "PUT", "PATCH", "DELETE"], include_in_schema=False)
    def unknown(rest: str) -> None:
        raise HTTPException(404, f"There is nothing at /api/{rest[:100]}.")

    if STATIC.is_dir():
        app.mount("/assets", StaticFiles(directory=STATIC / "assets"))

        @app.get("/{page:path}", include_in_schema=False)
        def page(page: str) -> FileResponse:
            wanted = STATIC / page
            if page and wanted.is_file() and wanted.resolve().is_relative_to(STATIC.resolve()):
                return FileResponse(wanted)
            return FileResponse(STATIC / "index.html", headers={"Cache-Control": "no-cache"})

    return app


class Guard:
    """Refuses writes that another site's page sends, answers with safe headers, and lets `Recent` know what may have changed."""

    def __init__(self, app: ASGIApp, recent: Recent) -> None:
        self._app, self._recent = app, recent

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        path: str = scope["path"]
        kept = _KEPT if path.startswith("/assets/") else _UNKEPT if path.startswith("/api/") else _HEADERS
        changes = not path.endswith(RECENT_PATHS)

        async def answer(message: Message) -> None:
            if message["type"] == "http.response.start":
                if changes:
                    self._recent.forget()
                message["headers"] = [*message["headers"], *kept]
            await send(message)

        if scope["method"] not in _SAFE and _from_elsewhere(Headers(scope=scope)):
            refusal = JSONResponse({"detail": "This request came from another site."}, status_code=403)
            await refusal(scope, receive, answer)
            return
        await self._app(scope, receive, answer)


def _from_elsewhere(headers: Headers) -> bool:
    origin = headers.get("origin")
    return bool(origin) and urlsplit(origin).netloc != headers.get("host")


async def _invalid(request: Request, error: Exception) -> JSONResponse:
    """What is wrong and where, without the value, which may be a candidate password; nor may its name where it is surplus."""
    assert isinstance(error, RequestValidationError)  # noqa: S101
    secret = request.url.path.endswith(_SECRET_PATHS)
    found = []
    for e in error.errors():
        place = list(e["loc"][1:])
        if secret and e["type"] == "extra_forbidden":
            place[-1] = "(surplus field)"
        found.append({"field": ".".join(map(str, place)), "message": sentence(e)})
    return JSONResponse({"detail": found}, status_code=422)


async def _database_down(_request: Request, error: Exception) -> JSONResponse:
    lost = isinstance(error, OperationalError) or (isinstance(error, DBAPIError) and error.connection_invalidated)
    if lost:
        return JSONResponse(
            {"detail": "The database does not answer. Nothing was changed; try again in a moment."}, status_code=503
        )
    if getattr(getattr(error, "orig", None), "sqlstate", None) == _OUT_OF_RANGE:
        return JSONResponse({"detail": "There is nothing with such a number."}, status_code=404)
    # Only what PostgreSQL calls the primary message: the details may quote values.
    diagnosis = getattr(getattr(error, "orig", None), "diag", None)
    _log.error("The database refused a request: %s", getattr(diagnosis, "message_primary", None) or type(error).__name__)
    return JSONResponse({"detail": "The database refused this. Nothing was changed."}, status_code=500)
