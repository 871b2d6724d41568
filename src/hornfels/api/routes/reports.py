"""Files for people who look at no screen: the report of a domain, of a publish, the drawing."""

from __future__ import annotations

from datetime import date
from typing import Annotated

from fastapi import APIRouter, Path, Query, Request
from fastapi.responses import HTMLResponse, Response

from hornfels.api.address import Route
from hornfels.api.deps import Current, Database, User
from hornfels.api.exporting import attached, exported, sent_as
from hornfels.api.rights import needs
from hornfels.api.schemas import Number
from hornfels.formats.reports.html import domain_html
from hornfels.refusals import NotYetError
from hornfels.service import baselines, reports
from hornfels.service.long_answers import findings_of
from hornfels.settings import read_settings

router = APIRouter(prefix="/api/domains/{domain}", tags=["reports"], route_class=Route)


@router.get(
    "/report",
    dependencies=[needs("see"), exported("a report of the domain")],
    response_class=Response,
    responses=sent_as("text/html", "An HTML file that stands alone."),
)
def get_report(
    current: Current,
    database: Database,
    user: User,
    request: Request,
    since: Annotated[date | None, Query(description="changes from this day on, UTC")] = None,
    baseline: Annotated[
        list[Annotated[str, Query(max_length=60)]],
        Query(description="held against which baselines", max_length=20),
    ] = [],  # noqa: B006 - the framework copies it
) -> HTMLResponse:
    """The domain as it is shown, for management and auditors: policies, who is under which and why,
    findings, baselines, changes with approvals.
    """
    chosen = [baselines.find(name, read_settings()) for name in dict.fromkeys(baseline)]
    found = findings_of(request.app.state.engine, current, user)
    if found is None:
        raise NotYetError("The findings are still being looked for. Ask again in a moment.", 3)
    told = reports.domain_report(database, current, found, chosen, since)
    text = domain_html(told, reports.mark_of(current))
    return HTMLResponse(text, headers=attached(f"{current.estate.domain.dns_name}.html"))


@router.get(
    "/history/{point}/report",
    dependencies=[needs("see"), exported("a report of a publish")],
    response_class=Response,
    responses=sent_as("text/html", "An HTML file that stands alone."),
)
def get_change_report(
    point: Annotated[Number, Path()], current: Current, database: Database
) -> HTMLResponse:
    """What a publish changed, who approved it, and whom it hits."""
    text = reports.change_report(database, current, point)
    return HTMLResponse(
        text, headers=attached(f"{current.estate.domain.dns_name}-change-{point}.html")
    )


@router.get(
    "/strata.svg",
    dependencies=[needs("see"), exported("the section as a drawing")],
    response_class=Response,
    responses=sent_as("image/svg+xml", "An SVG file that stands alone."),
)
def get_drawing(current: Current) -> Response:
    """The section through the strata as a drawing."""
    name = f"{current.estate.domain.dns_name}-strata.svg"
    return Response(reports.drawing(current), media_type="image/svg+xml", headers=attached(name))
