"""A shorter maximum age that a draft brings, spread over weeks."""

from __future__ import annotations

from datetime import UTC, date, datetime, timedelta
from typing import Annotated

from fastapi import APIRouter, Path, Query

from hornfels.api.address import Route
from hornfels.api.deps import Current, Database, User
from hornfels.api.refusals import answers
from hornfels.api.rights import needs
from hornfels.api.schemas import Number
from hornfels.api.spread_schemas import (
    SpreadAsked,
    SpreadBegun,
    SpreadInfo,
    SpreadPlan,
    SpreadStopped,
    WaveInfo,
)
from hornfels.core.values.time import datetime_from_moment
from hornfels.service import lifetimes, spreading
from hornfels.service.snapshots import Snapshot
from hornfels.store import jobs, spreads
from hornfels.store.models import SpreadRow

router = APIRouter(prefix="/api/domains/{domain}/spreads", tags=["spreads"], route_class=Route)

_SHOWN = 10


@router.get("/plan", dependencies=[needs("see")], responses=answers(409))
def get_plan(
    current: Current, database: Database, asked: Annotated[SpreadAsked, Query()]
) -> SpreadPlan:
    """Who would be told to choose another password in which week, for the draft that is shown, so
    that hardly any password ends at once when it is published.
    """
    now = datetime.now(UTC)
    found = spreading.plan(database, current, asked.begins, asked.weeks, now)
    return SpreadPlan(
        waves=[
            WaveInfo(
                begins=_date(found.begin_of(number)),
                told=found.counts(number),
                by_themselves=int(found.by_themselves[number]),
                state="waiting",
                said="",
                point=None,
            )
            for number in range(found.weeks)
        ],
        told=len(found.rows),
        spared=found.spared,
        at_once=found.at_once,
        ends=_date(found.begin_of(found.weeks)),
        warning=found.warning,
        seen=spreading.seen(current, found),
    )


def _date(moment: int) -> date:
    at = datetime_from_moment(moment)
    assert at  # noqa: S101 - a day that somebody has given
    return at.date()


@router.get("", dependencies=[needs("see")])
def list_spreads(current: Current, database: Database) -> list[SpreadInfo]:
    """The latest ones, and how far they are."""
    latest = spreads.latest(database, current.domain_id, _SHOWN)
    return [_info(database, current, row) for row in latest]


def _info(database: Database, current: Snapshot, row: SpreadRow) -> SpreadInfo:
    job = jobs.active(database, "spread", current.estate.domain.dns_name)
    waves = spreads.waves_of(row)
    return SpreadInfo(
        id=row.id,
        draft=row.draft_id,
        title=row.title,
        state=row.state,
        begins=row.begins,
        ends=row.begins + timedelta(weeks=len(waves)),
        waves=[
            WaveInfo(
                begins=row.begins + timedelta(weeks=number),
                told=wave.told,
                by_themselves=wave.by_themselves,
                state=wave.state,
                said=wave.said,
                point=wave.point,
            )
            for number, wave in enumerate(waves)
        ],
        by=row.by,
        reason=row.reason,
        made_at=row.made_at.isoformat(),
        job=job.id if job else None,
        directory="told" if lifetimes.standing(database, current.live).possible else "waits",
    )


@router.post(
    "", status_code=201, dependencies=[needs("settings", proof=True)], responses=answers(409)
)
def begin(body: SpreadBegun, current: Current, database: Database, user: User) -> SpreadInfo:
    """Have it carried out as it was seen, wave by wave."""
    now = datetime.now(UTC)
    row = spreading.begin(
        database, current, body.begins, body.weeks, body.seen, user, body.reason, now
    )
    return _info(database, current, row)


@router.post("/{spread}/stop", status_code=204, dependencies=[needs("settings", proof=False)])
def stop(
    spread: Annotated[Number, Path()], body: SpreadStopped, current: Current, database: Database
) -> None:
    """Tell nobody more. Whoever was told has to choose another password all the same."""
    spreading.stop(database, current, spread, body.reason)
