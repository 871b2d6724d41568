"""The bench: candidate passwords against accounts. Candidates come in request bodies and go nowhere
else.
"""

from __future__ import annotations

from fastapi import APIRouter, Request, Response
from fastapi.concurrency import run_in_threadpool
from pydantic_core import to_json

from hornfels.api.address import Route
from hornfels.api.bench_schemas import (
    Attempt,
    AttemptAnswer,
    BriefVerdict,
    Circumstances,
    ManyAnswer,
    ManyAttempts,
)
from hornfels.api.rights import needs
from hornfels.api.snapshot_cache import CachedSnapshot, cached_snapshot
from hornfels.api.views import now_moment
from hornfels.core.domain.estate import UNKNOWN_TIME
from hornfels.core.passwords.characters import Candidate, strip
from hornfels.core.passwords.judge import Verdict
from hornfels.core.passwords.rules.rule import Occasion
from hornfels.core.values.time import TICKS_PER_SECOND, moment_from_datetime
from hornfels.refusals import FieldsError
from hornfels.service.bench_columns import Tried, account_on_bench, at_hand, on_bench

router = APIRouter(
    prefix="/api/domains/{domain}", tags=["bench"], route_class=Route, dependencies=[needs("bench")]
)


@router.post("/verdicts", response_model=AttemptAnswer, dependencies=[needs("bench", proof=False)])
async def verdicts(domain: str, body: Attempt, request: Request) -> Response:
    """What each rule says to the candidate for each account."""
    current = await cached_snapshot(
        domain, request
    )  # not as a dependency: that alone would be a tenth of the time
    candidate = Candidate(body.candidate.get_secret_value())
    moment = moment_of(body)
    tried = dict.fromkeys(
        [
            *(Tried("account", name) for name in body.accounts),
            *(Tried("policy", key) for key in body.policies),
        ]
    )
    if at_hand(current, tried):
        found = [on_bench(current, one) for one in tried]
    else:
        found = await run_in_threadpool(lambda: [on_bench(current, one) for one in tried])
    columns, unknown = [], []
    for asked, one in zip(tried, found, strict=True):
        if one is None:
            unknown.append(asked.key)
        else:
            columns.append(one.column(moment)(candidate))
    answer = {
        "length": candidate.units,
        "strip": [{"group": p.group, "units": p.units} for p in strip(candidate.text)],
        "lenient_elsewhere": candidate.variety.lenient,
        "columns": columns,
        "unknown": unknown,
    }
    request.app.state.metrics.verdicts.inc(len(columns))
    # Plain data, since every keystroke comes through here; a test holds it against the model.
    return Response(to_json(answer), media_type="application/json")


@router.post("/verdicts/many", dependencies=[needs("bench", proof=False)])
def many_verdicts(body: ManyAttempts, current: CachedSnapshot, request: Request) -> ManyAnswer:
    """Accepted or refused, and by which rules, for many candidates on many accounts."""
    moment = moment_of(body)
    judges = []
    for number, name in enumerate(body.accounts):
        one = account_on_bench(current, name)
        if one is None:
            message = f"There is no account '{name[:100]}' in this domain."
            raise FieldsError((f"accounts.{number}", message))
        judges.append(one.judge(moment, _brief))
    candidates = [Candidate(c.get_secret_value()) for c in body.candidates]
    request.app.state.metrics.verdicts.inc(len(candidates) * len(judges))
    return ManyAnswer(
        accounts=body.accounts,
        verdicts=[[judge(candidate) for judge in judges] for candidate in candidates],
    )


def _brief(verdict: Verdict) -> BriefVerdict:
    return BriefVerdict(
        accepted=verdict.accepted, certain=verdict.certain, refused_by=list(verdict.refused_by)
    )


def moment_of(asked: Circumstances) -> Occasion:
    """The circumstances of a trial. Where no time set is given, `UNKNOWN_TIME` stands for the
    account's own.

    Now is taken to the second, downwards, so that what is typed within one shares its answers.
    """
    previous = (
        None
        if asked.previous is None
        else [None if p is None else p.get_secret_value() for p in asked.previous]
    )
    now = (
        moment_from_datetime(asked.now)
        if asked.now
        else now_moment() // TICKS_PER_SECOND * TICKS_PER_SECOND
    )
    return Occasion(
        asked.operation,
        now,
        moment_from_datetime(asked.password_set) if asked.password_set else UNKNOWN_TIME,
        previous,
    )
