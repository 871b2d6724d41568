"""A domain's report that is mailed by itself."""

from __future__ import annotations

from datetime import UTC, datetime

from fastapi import APIRouter

from hornfels.api.address import Route
from hornfels.api.deps import Current, Database, User
from hornfels.api.people_schemas import ActAnswer
from hornfels.api.refusals import answers
from hornfels.api.report_order_schemas import CopyInfo, ReportOrderEdit, ReportOrderInfo
from hornfels.api.rights import needs
from hornfels.api.views import job_info
from hornfels.refusals import ConflictError
from hornfels.service import report_orders
from hornfels.service.mailing import needed
from hornfels.settings import read_settings
from hornfels.store import jobs

router = APIRouter(
    prefix="/api/domains/{domain}/report-order",
    tags=["reports"],
    route_class=Route,
    dependencies=[needs("settings")],
)


@router.get("")
def get_order(current: Current, database: Database) -> ReportOrderInfo:
    """What is ordered, and what came of the last report."""
    live, trouble = current.live, ""
    held = report_orders.held(database, live, datetime.now(UTC))
    try:
        needed(read_settings())
    except ConflictError as error:
        trouble = str(error)
    job = jobs.last_of(database, ("report",), live.estate.domain.dns_name)
    return ReportOrderInfo(
        order=held.order,
        version=held.version,
        trouble=trouble,
        due=held.due.isoformat() if held.due else None,
        next=held.next.isoformat() if held.next else None,
        copies=[CopyInfo(to=one.to, state=one.state, told=one.told) for one in held.copies],
        told=held.told,
        job=job_info(job) if job else None,
    )


@router.put("", responses=answers(409), dependencies=[needs("settings", proof=True)])
def put_order(body: ReportOrderEdit, current: Current, database: Database, user: User) -> ActAnswer:
    """Order reports, or none any more. Where approval is required, a second person has to agree."""
    live, where = current.live, read_settings()
    done = report_orders.choose(database, live, body.order, body.version, body.reason, where, user)
    return ActAnswer(waits=not done)


@router.post(
    "/now", status_code=204, responses=answers(409), dependencies=[needs("settings", proof=True)]
)
def send_now(current: Current, database: Database, user: User) -> None:
    """Send the report at once to everybody to whom it goes."""
    needed(read_settings())
    report_orders.begin_now(database, current.live, user, datetime.now(UTC))
