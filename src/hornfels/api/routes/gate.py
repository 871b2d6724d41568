"""The gate of a domain as administrators see it: who may ask, how that stands, what came of it."""

from __future__ import annotations

from collections import Counter
from datetime import UTC, datetime
from typing import Annotated, cast
from uuid import UUID

from fastapi import APIRouter, Query
from sqlalchemy.orm import Session

from hornfels.api.address import Route
from hornfels.api.deps import Current, Database, User
from hornfels.api.gate_schemas import (
    AnswerInfo,
    CallerInfo,
    CallerMade,
    CallerNew,
    EndingDay,
    LifetimesEdit,
    LifetimesInfo,
)
from hornfels.api.rights import needs
from hornfels.api.schemas import MOST_REASON
from hornfels.api.views import now_moment
from hornfels.core.gate.judging import GateOperation
from hornfels.core.gate.record import Outcome
from hornfels.core.values.time import DAY, datetime_from_moment
from hornfels.service import acts, gate, lifetimes
from hornfels.service.gate import CallerStanding
from hornfels.service.snapshots import Snapshot
from hornfels.store import gate as kept
from hornfels.store.gate import CallerKind

router = APIRouter(prefix="/api/domains/{domain}/gate", tags=["gate"], route_class=Route)

MOST_ANSWERS = 500
_WEEKS = 28


@router.get("/callers", dependencies=[needs("see")])
def get_callers(current: Current, database: Database) -> list[CallerInfo]:
    """Who may ask at the gate, and how each stands."""
    return [_caller(one) for one in gate.standing(database, current, datetime.now(UTC))]


@router.post("/callers", status_code=201, dependencies=[needs("settings", proof=True)])
def make_caller(body: CallerNew, current: Current, database: Database, user: User) -> CallerMade:
    """Add a caller of the gate. The answer shows the token, once. Where approval is required,
    the token opens nothing before a second person agrees.
    """
    token, waits = gate.make_caller(database, current, user, body.title, body.kind, body.reason)
    return CallerMade(title=body.title.strip(), kind=body.kind, token=token, waits=waits)


@router.delete("/callers/{number}", status_code=204, dependencies=[needs("settings", proof=True)])
def drop_caller(
    number: UUID,
    current: Current,
    database: Database,
    user: User,
    reason: Annotated[str, Query(max_length=MOST_REASON)] = "",
) -> None:
    """Remove a caller of the gate. Where approval is required, a second person has to agree."""
    gate.drop_caller(database, current, number, reason, user)


@router.get("/answers", dependencies=[needs("see")])
def get_answers(
    current: Current,
    database: Database,
    account: Annotated[str, Query(max_length=256)] = "",
) -> list[AnswerInfo]:
    """What came of the latest questions, those about one account where it is named."""
    return [
        AnswerInfo(
            id=row.id,
            at=row.at.isoformat(),
            caller=row.caller,
            account=row.account,
            operation=cast(GateOperation, row.operation),
            outcome=cast(Outcome, row.outcome),
            policy=row.policy,
            rules=row.rules,
            took=row.took,
        )
        for row in kept.answers(database, current.domain_id, account.strip(), MOST_ANSWERS)
    ]


@router.get("/lifetimes", dependencies=[needs("see")])
def get_lifetimes(current: Current, database: Database) -> LifetimesInfo:
    """The passwords that end by the length bands of additions, and what becomes of them."""
    return _lifetimes(database, current)


@router.put("/lifetimes", dependencies=[needs("settings", proof=True)])
def set_lifetimes(
    body: LifetimesEdit, current: Current, database: Database, user: User
) -> LifetimesInfo:
    """Have passwords changed on the day on which they end by their band, or not."""
    lifetimes.choose(
        database, current, user, enforced=body.enforced, spared=body.spared, reason=body.reason
    )
    return _lifetimes(database, current)


def _caller(one: CallerStanding) -> CallerInfo:
    row = one.row
    return CallerInfo(
        id=row.id,
        title=row.title,
        kind=cast(CallerKind, row.kind),
        made_by=row.made_by,
        made_at=row.made_at.isoformat(),
        seen_at=row.seen_at.isoformat() if row.seen_at else None,
        judges="rules" in row.told,
        otherwise=row.told.get("otherwise", ""),
        accepted=one.accepted,
        refused=one.refused,
        unanswered=one.unanswered,
        slowest=one.slowest,
        trouble=one.trouble,
    )


def _lifetimes(database: Session, current: Snapshot) -> LifetimesInfo:
    found, now = lifetimes.standing(database, current), now_moment()
    ends = found.lifetimes.ends
    coming = Counter(ends[(ends > now) & (ends <= now + _WEEKS * DAY)].tolist())
    return LifetimesInfo(
        banded=len(found.lifetimes),
        from_gate=int(found.lifetimes.from_gate.sum()),
        due=len(found.lifetimes.due(now)),
        coming=[
            EndingDay(day=day.date(), accounts=count)
            for moment, count in sorted(coming.items())
            if (day := datetime_from_moment(moment))
        ],
        enforced=found.enforced,
        possible=found.possible,
        told=found.told,
        waits=acts.waits(database, "lifetimes", current.estate.domain.dns_name),
        spared=list(found.spared),
    )
