"""The bench: a candidate password against several accounts. Candidates come in request bodies and go nowhere else."""

from __future__ import annotations

from fastapi import APIRouter

from hornfels.api.deps import Current
from hornfels.api.schemas import RuleAnswer, Trial, TrialAnswer, TrialColumn
from hornfels.api.snapshot import Snapshot
from hornfels.api.views import now_moment, policy_guid, policy_mark, policy_name
from hornfels.core.characters import length, more_lenient_elsewhere
from hornfels.core.time import moment_from_datetime
from hornfels.core.verdict import Moment, Subject, judge

router = APIRouter(prefix="/api/domains/{domain}", tags=["bench"])


@router.post("/verdicts")
def verdicts(body: Trial, current: Current) -> TrialAnswer:
    """What each rule says to the candidate for each account."""
    candidate = body.candidate.get_secret_value()
    previous = None if body.previous is None else [p.get_secret_value() for p in body.previous]
    now = moment_from_datetime(body.now) if body.now else now_moment()
    columns, unknown = [], []
    for name in dict.fromkeys(body.accounts):
        row = current.estate.find_account(name)
        if row is None:
            unknown.append(name)
        else:
            moment = Moment(body.operation, now, int(current.estate.accounts.password_set[row]), previous)
            columns.append(_column(current, row, candidate, moment))
    return TrialAnswer(
        length=length(candidate), lenient_elsewhere=bool(more_lenient_elsewhere(candidate)), columns=columns, unknown=unknown
    )


def _column(current: Snapshot, row: int, candidate: str, moment: Moment) -> TrialColumn:
    accounts = current.estate.accounts
    policy = int(current.resolution.winner_of_account[row])
    rules = current.rules[policy]
    verdict = judge(rules, candidate, Subject(accounts.name[row], accounts.display_name[row]), moment)
    return TrialColumn(
        account=accounts.name[row],
        display_name=accounts.display_name[row],
        policy=policy_guid(current, policy),
        policy_name=policy_name(current, policy),
        mark=policy_mark(current, policy),
        accepted=verdict.accepted,
        certain=verdict.certain,
        rules=[
            RuleAnswer(rule=f.rule, label=rule.label, status=f.status, detail=f.detail, repair=f.repair)
            for rule, f in zip(rules, verdict.findings, strict=True)
        ],
    )
