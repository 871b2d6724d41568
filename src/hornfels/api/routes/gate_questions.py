"""The gate itself, version 1: a directory server or a portal asks about a candidate, or fetches the
rules and judges by itself (docs/gate.md). Candidates come in request bodies and go nowhere else.
"""

from __future__ import annotations

import time
import uuid
from typing import Annotated

from anyio.to_thread import run_sync
from fastapi import APIRouter, Depends, Header, Request, Response

from hornfels.api.address import Route
from hornfels.api.deps import Database, Renewal
from hornfels.api.exporting import sent_as
from hornfels.api.gate_schemas import GateQuestion, GateRecords, GateRule, GateVerdict
from hornfels.api.gatehouse import AtTheGate, Gatehouse
from hornfels.api.rights import CALLER
from hornfels.api.views import now_moment
from hornfels.core.gate.record import record_of
from hornfels.service import gate
from hornfels.service.places import snapshot_at

router = APIRouter(prefix="/api/gate/v1", tags=["gate"], route_class=Route, dependencies=[CALLER])


async def get_at_the_gate(request: Request) -> AtTheGate:
    found = getattr(request.state, "at_the_gate", None)
    assert isinstance(found, AtTheGate)  # noqa: S101
    return found


Asking = Annotated[AtTheGate, Depends(get_at_the_gate)]


@router.post("/check")
async def check(body: GateQuestion, at: Asking, request: Request) -> GateVerdict:
    """Whether the candidate may be set, and what to tell the person."""
    began = time.perf_counter()
    inquiry = body.inquiry()
    answer = at.gate(inquiry)
    took = int((time.perf_counter() - began) * 1e6)
    house: Gatehouse = request.app.state.gatehouse
    house.record.add(at.caller, record_of(uuid.uuid4(), now_moment(), inquiry, answer, took))
    request.app.state.metrics.verdicts.inc()
    return GateVerdict(
        accepted=answer.verdict.accepted,
        told=answer.verdict.told,
        rules=[
            GateRule(rule=f.rule, path=f.path, status=f.status, told=f.plain)
            for f in answer.verdict.judgements
        ],
        policy=answer.policy,
        known=answer.known,
    )


@router.get(
    "/rules",
    response_class=Response,
    responses={
        **sent_as("application/octet-stream", "The rule set as a file.", binary=True),
        304: {"description": "These are the rules still."},
    },
)
async def rules(
    at: Asking,
    request: Request,
    snapshots: Renewal,
    if_none_match: Annotated[str, Header(max_length=200)] = "",
) -> Response:
    """The rules of the caller's domain as a file, to judge by where nobody answers; its ETag tells
    them from others.
    """
    if if_none_match.strip('"') == at.version:
        return Response(status_code=304, headers={"ETag": f'"{at.version}"'})
    current = await run_sync(snapshot_at, at.caller.domain, snapshots)
    file = await run_sync(gate.rule_file, request.app.state.engine, current)
    headers = {"ETag": f'"{gate.version_of(current)}"'}
    return Response(file, media_type="application/octet-stream", headers=headers)


@router.post("/records", status_code=204)
def take_records(body: GateRecords, at: Asking, database: Database) -> None:
    """What the caller has answered by itself, and how it stands: sent every half minute, also
    without any answers.
    """
    records = [one.record() for one in body.records]
    gate.take_records(database, at.caller, body.rules, body.otherwise, records)
