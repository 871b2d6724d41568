"""The web application: routes, errors that say what to do, and the built front end."""

from __future__ import annotations

from collections.abc import Awaitable, Callable
from pathlib import Path
from urllib.parse import urlsplit

from fastapi import FastAPI, HTTPException, Request, Response
from fastapi.exceptions import RequestValidationError
from fastapi.responses import FileResponse, JSONResponse
from fastapi.staticfiles import StaticFiles
from sqlalchemy import Engine
from sqlalchemy.exc import DBAPIError, OperationalError
from sqlalchemy.orm import Session

from hornfels.api.routes import (
    accounts,
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
    whatif,
)
from hornfels.api.snapshot import Snapshots
from hornfels.store import jobs
from hornfels.store.drafts import RefusedError, StaleDraftError

STATIC = Path(__file__).parent / "static"

_HEADERS = {
    "Content-Security-Policy": "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; font-src 'self'; "
    "object-src 'none'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'",
    "X-Content-Type-Options": "nosniff",
    "Referrer-Policy": "no-referrer",
    "Cross-Origin-Opener-Policy": "same-origin",
}
_ROUTES = (session, domains, policies, accounts, bench, search, whatif, findings, groups, drafts, history, sources)
ROUTERS = (*(module.router for module in _ROUTES), sources.extended)
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

    app.middleware("http")(_guard)
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


async def _guard(request: Request, call_next: Callable[[Request], Awaitable[Response]]) -> Response:
    """Refuse writes that another site's page sends, and answer with safe headers."""
    origin = request.headers.get("origin")
    if request.method not in _SAFE and origin and urlsplit(origin).netloc != request.headers.get("host"):
        return JSONResponse({"detail": "This request came from another site."}, status_code=403)
    response = await call_next(request)
    response.headers.update(_HEADERS)
    if request.url.path.startswith("/api/"):
        response.headers["Cache-Control"] = "no-store"
    elif request.url.path.startswith("/assets/"):
        response.headers["Cache-Control"] = "public, max-age=31536000, immutable"
    return response


async def _invalid(_request: Request, error: Exception) -> JSONResponse:
    """What is wrong and where, without the value: it may be a candidate password."""
    assert isinstance(error, RequestValidationError)  # noqa: S101
    found = [{"field": ".".join(str(p) for p in e["loc"][1:]), "message": str(e["msg"])} for e in error.errors()]
    return JSONResponse({"detail": found}, status_code=422)


async def _database_down(_request: Request, error: Exception) -> JSONResponse:
    lost = isinstance(error, OperationalError) or (isinstance(error, DBAPIError) and error.connection_invalidated)
    if lost:
        return JSONResponse(
            {"detail": "The database does not answer. Nothing was changed; try again in a moment."}, status_code=503
        )
    return JSONResponse({"detail": "The database refused this. Nothing was changed."}, status_code=500)
