"""Trials: invented candidates and stories kept with what must come of them, run on whatever is
shown.
"""

from __future__ import annotations

from typing import Any

from fastapi import APIRouter, Request

from hornfels.api.address import Route
from hornfels.api.bench_schemas import TrialInfo, TrialNew, TrialsAnswer
from hornfels.api.deps import Current, Database, Rights, User
from hornfels.api.rights import needs
from hornfels.core.trials.trial import Trial
from hornfels.service import trials
from hornfels.service.snapshots import Snapshot, Told
from hornfels.service.trials import Tried

router = APIRouter(
    prefix="/api/domains/{domain}/trials",
    tags=["trials"],
    route_class=Route,
    dependencies=[needs("see")],
)


@router.get("")
def list_trials(current: Current, database: Database, user: User, request: Request) -> TrialsAnswer:
    """Every trial and what comes of it, here and live. Those that take long are said to be running;
    ask again.
    """
    tried = trials.every(database, request.app.state.engine, current, user)
    found = [_info(current, one) for one in tried]
    return TrialsAnswer(
        required=current.trials_required,
        running=sum(t.running for t in found),
        unmet=sum(not t.met and not t.running for t in found),
        trials=found,
    )


@router.post("", status_code=201, dependencies=[needs("draft", proof=False)])
def keep_trial(
    body: TrialNew, current: Current, database: Database, user: User, request: Request
) -> TrialInfo:
    """Keep an invented candidate or a story with what must come of it."""
    candidate = body.candidate.get_secret_value() if body.candidate else ""
    present = body.present.get_secret_value() if body.present else ""
    story = body.story or ""
    trial = Trial(candidate, body.kind, body.target, body.expected, body.rule, story, present)
    engine = request.app.state.engine
    return _info(current, trials.keep(database, engine, current, user, body.title.strip(), trial))


@router.delete("/{trial}", status_code=204, dependencies=[needs("draft", proof=False)])
def drop_trial(
    trial: int, current: Current, database: Database, user: User, rights: Rights
) -> None:
    trials.drop(database, current, user, trial, of_others="settings" in rights)


def _info(current: Snapshot, tried: Tried) -> TrialInfo:
    estate, row, trial = current.estate, tried.row, tried.trial
    here, live = tried.here, tried.live
    name = trial.target
    if trial.kind == "group":
        rows = estate.groups.dn.find(trial.target)
        name = estate.groups.name[int(rows[0])] if len(rows) else trial.target
    known: dict[str, Any] = {
        "kind": trial.kind,
        "expected": trial.expected,
        "rule": trial.rule,
        "candidate": trial.candidate,
        "present": trial.present,
        "story": trial.story,
    }
    running = here is None or live is None
    told = here if here is not None and live is not None else Told(None, 0, "Running …", None)
    return TrialInfo(
        id=row.id,
        title=row.title,
        target=trial.target,
        target_name=name,
        author=row.author,
        at=row.at.isoformat(),
        accounts=told.accounts,
        running=running,
        met=told.met,
        met_live=live.met if live is not None and not running else None,
        said=told.said,
        account=told.account,
        **known,
    )
