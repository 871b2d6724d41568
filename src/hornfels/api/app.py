"""The web application: its routes, what stands before them, and errors that say what to do."""

from __future__ import annotations

import contextlib
import sys
import threading
from collections.abc import AsyncIterator
from pathlib import Path
from typing import Any

import anyio.to_thread
from fastapi import FastAPI, HTTPException, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from sqlalchemy import Engine, event
from sqlalchemy.exc import DBAPIError
from sqlalchemy.exc import TimeoutError as PoolTimeoutError
from starlette.exceptions import HTTPException as StarletteHTTPException
from starlette.responses import Response
from starlette.routing import Match

from hornfels.api.bodies import SECRET_PATHS
from hornfels.api.description import describe
from hornfels.api.gatehouse import Gatehouse
from hornfels.api.guard import OWN_AT_WORK, Guard
from hornfels.api.health import Alive, Health, Readiness
from hornfels.api.metrics import Metrics
from hornfels.api.outages import handle_database
from hornfels.api.pages import Pages
from hornfels.api.refusals import answers, refusal, tell
from hornfels.api.rights import OPEN, refuse_undeclared
from hornfels.api.routes import (
    accounts,
    additions,
    advice,
    baselines,
    bench,
    burden,
    directories,
    domains,
    drafts,
    drill,
    exposure,
    findings,
    forecast,
    gate,
    gate_questions,
    groups,
    history,
    jobs,
    locks,
    lost_policies,
    mailing,
    metrics,
    own_page,
    people,
    policies,
    policy_files,
    publications,
    rehearsals,
    report_orders,
    reports,
    search,
    servers,
    session,
    sources,
    spreads,
    terms,
    trail,
    trials,
    whatif,
)
from hornfels.api.snapshot_cache import SnapshotCache
from hornfels.api.turnstile import AT_WORK, SHARE, Turnstile
from hornfels.api.visitors import Visitors
from hornfels.api.watching import Watch
from hornfels.api.wording import sentence
from hornfels.openid import Provider
from hornfels.refusals import RefusalError
from hornfels.service.policies import StalePolicyError
from hornfels.service.snapshots import Snapshots
from hornfels.store.own_page import person_of
from hornfels.store.sessions import visitor

STATIC = Path(__file__).parent / "static"

# The gate and the bench come first: routes are tried in this order, directories wait for the one,
# and the other is asked at every keystroke.
_ROUTES = (
    gate_questions,
    bench,
    burden,
    drill,
    advice,
    trials,
    session,
    own_page,
    domains,
    policies,
    additions,
    terms,
    exposure,
    mailing,
    gate,
    policy_files,
    lost_policies,
    accounts,
    locks,
    search,
    whatif,
    forecast,
    findings,
    baselines,
    servers,
    reports,
    groups,
    publications,
    rehearsals,
    report_orders,
    drafts,
    history,
    sources,
    spreads,
    directories,
    jobs,
    people,
    trail,
    metrics,
)
ROUTERS = tuple(module.router for module in _ROUTES)
_MOST_UPLOADS = 4


def create_app(
    engine: Engine, hosts: frozenset[str] | None = None, provider: Provider | None = None
) -> FastAPI:
    """The application on a database whose schema is up to date. ``hosts`` are the names it answers
    to, None for any; ``provider`` is where people may sign in besides here.
    """
    app = FastAPI(
        title="Hornfels",
        docs_url=None,
        redoc_url=None,
        openapi_url="/api/openapi.json",
        lifespan=_lifespan,
    )
    app.state.engine = engine
    app.state.snapshots = Snapshots(engine)
    app.state.snapshot_cache = SnapshotCache(app.state.snapshots)
    app.state.visitors = Visitors(engine, visitor)
    app.state.persons = Visitors(engine, person_of)
    app.state.gatehouse = Gatehouse(engine, app.state.snapshots)
    app.state.watch = Watch(engine)
    app.state.metrics = Metrics()
    app.state.provider = provider
    app.state.comparing = Turnstile(at_work=2, waiting=30, patience=8.0)
    app.state.asking = Turnstile(at_work=4, waiting=30, patience=8.0)
    app.state.asking_own = Turnstile(at_work=4, waiting=100, patience=8.0, share=SHARE)
    app.state.uploading = Turnstile(at_work=_MOST_UPLOADS, waiting=0)
    include(app)
    health = Health(engine)

    @app.get("/healthz", tags=["health"], dependencies=[OPEN])
    def alive() -> Alive:
        """That the process answers, whatever else may be away."""
        return Alive()

    @app.get("/readyz", tags=["health"], responses=answers(503), dependencies=[OPEN])
    def ready() -> Readiness:
        """Whether Hornfels can work just now, and how many workers do its long work."""
        found = health.look()
        if isinstance(found, str):
            raise HTTPException(503, found, headers={"Retry-After": "2"})
        return found

    app.add_middleware(
        Guard,
        visitors=app.state.visitors,
        persons=app.state.persons,
        gatehouse=app.state.gatehouse,
        cache=app.state.snapshot_cache,
        hosts=hosts,
        pages=Pages(STATIC),
        metrics=app.state.metrics,
    )
    app.add_exception_handler(StarletteHTTPException, _refused)
    app.add_exception_handler(RequestValidationError, _invalid)
    app.add_exception_handler(StalePolicyError, policies.answer_conflict)
    app.add_exception_handler(RefusalError, tell)
    for away in (DBAPIError, PoolTimeoutError):
        app.add_exception_handler(away, handle_database)
    return app


def include(app: FastAPI) -> None:
    """Give an application the routes and the description of what they answer."""
    for router in ROUTERS:
        refuse_undeclared(router.routes)
        # As they stand: including them would make each ready once more at its first request.
        app.router.routes.extend(router.routes)
    describe(app)


@contextlib.asynccontextmanager
async def _lifespan(app: FastAPI) -> AsyncIterator[None]:
    # One thread for each request and upload at work, so that none waits for a thread with a
    # connection in hand.
    threads = AT_WORK + OWN_AT_WORK + _MOST_UPLOADS
    anyio.to_thread.current_default_thread_limiter().total_tokens = threads
    # The event loop gets its turn soon, however busy the threads are.
    sys.setswitchinterval(0.001)
    loop_thread = threading.get_ident()

    def refuse_on_the_loop(*_: Any) -> None:
        # Waiting here would stop everybody, also whoever holds what is waited for.
        if threading.get_ident() == loop_thread:
            raise RuntimeError("the database is asked on the event loop")

    engine: Engine = app.state.engine
    event.listen(engine, "engine_connect", refuse_on_the_loop)
    app.state.gatehouse.record.start()
    try:
        yield
    finally:
        event.remove(engine, "engine_connect", refuse_on_the_loop)
        await app.state.watch.close()
        app.state.snapshot_cache.close()
        await anyio.to_thread.run_sync(app.state.gatehouse.close)
        app.state.visitors.close()
        app.state.persons.close()


async def _refused(request: Request, error: Exception) -> Response:
    assert isinstance(error, StarletteHTTPException)  # noqa: S101
    headers = dict(error.headers or {})
    if error.status_code == 404 and error.detail == "Not Found":
        return refusal(404, f"There is nothing at {request.url.path[:100]}.")
    if error.status_code == 405:
        there = ("DELETE", "GET", "PATCH", "POST", "PUT")
        methods = [
            m
            for m in there
            if any(
                r.matches({**request.scope, "method": m})[0] == Match.FULL
                for r in request.app.routes
            )
        ]
        answer = refusal(405, f"Nothing is done by {request.method} here.")
        answer.headers["Allow"] = ", ".join(methods)
        return answer
    if error.status_code == 204:
        return Response(status_code=204, headers=headers)
    return JSONResponse({"detail": error.detail}, status_code=error.status_code, headers=headers)


async def _invalid(request: Request, error: Exception) -> JSONResponse:
    """What is wrong and where, without the value, which may be a candidate password; nor may its
    name where it is surplus.
    """
    assert isinstance(error, RequestValidationError)  # noqa: S101
    secret = request.url.path.endswith(SECRET_PATHS)
    found = []
    for e in error.errors():
        place = [part for part in e["loc"][1:] if part != "[key]"]
        if secret and e["type"] == "extra_forbidden":
            place[-1] = "(surplus field)"
        found.append({"field": ".".join(map(str, place)), "message": sentence(e)})
    return JSONResponse({"detail": found}, status_code=422)
