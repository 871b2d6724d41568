"""Figures for a monitoring system, which comes with a token."""

from __future__ import annotations

from fastapi import APIRouter, Request
from fastapi.responses import Response

from hornfels.api.address import Route
from hornfels.api.deps import Database
from hornfels.api.exporting import sent_as
from hornfels.api.metrics import CONTENT_TYPE
from hornfels.api.rights import Person, domains_where, needs

router = APIRouter(prefix="/api/metrics", tags=["health"], route_class=Route)


@router.get(
    "",
    dependencies=[needs("see")],
    response_class=Response,
    responses=sent_as("text/plain", "Figures of this process."),
)
def get_metrics(request: Request, visitor: Person, database: Database) -> Response:
    """Requests, verdicts, jobs, and how old what was read of each domain is."""
    domains = domains_where(visitor, "see")
    written = request.app.state.metrics.written(database, domains)
    return Response(written, media_type=CONTENT_TYPE)
