"""Trials: invented candidates kept with the verdicts they must get, run on whatever is shown."""

from __future__ import annotations

from concurrent.futures import wait
from typing import Any

from fastapi import APIRouter, HTTPException

from hornfels.api.address import Route
from hornfels.api.bench_schemas import TrialInfo, TrialNew, TrialsAnswer
from hornfels.api.deps import Current, Database, User
from hornfels.api.snapshot import Snapshot
from hornfels.core.trials import Outcome, Trial, sentence, targets
from hornfels.store import trials
from hornfels.store.models import TrialRow

router = APIRouter(prefix="/api/domains/{domain}/trials", tags=["trials"], route_class=Route)

MOST_TRIALS = 500
PATIENCE = 0.5
"""Seconds that an answer waits for trials that are still running."""


@router.get("")
def list_trials(current: Current, database: Database) -> TrialsAnswer:
    """Every trial and what comes of it, here and live. Those that take long are said to be running; ask again."""
    kept = trials.kept(database, current.domain_id)
    wait([where.outcome(trial) for _, trial in kept for where in (current, current.live)], PATIENCE)
    found = [_info(current, row, trial) for row, trial in kept]
    running = sum(t.running for t in found)
    unmet = sum(not t.met and not t.running for t in found)
    return TrialsAnswer(required=current.trials_required, running=running, unmet=unmet, trials=found)


@router.post("", status_code=201)
def keep_trial(body: TrialNew, current: Current, database: Database, user: User) -> TrialInfo:
    """Keep an invented candidate with the verdict it must get."""
    if len(trials.kept(database, current.domain_id)) >= MOST_TRIALS:
        raise HTTPException(409, f"A domain keeps at most {MOST_TRIALS} trials. Drop one first.")
    candidate = body.candidate.get_secret_value()
    if body.rule and body.expected == "accepted":
        raise _refused("rule", "A rule can only be named for a refusal.")
    trial = Trial(candidate, body.kind, _canonical(current, body), body.expected, body.rule)
    if not len(targets(trial, current.estate, current.live.estate, current.live.resolution)):
        raise _refused("target", f"There is nobody to try it on in '{body.target[:100]}'.")
    row = trials.add(database, current.domain_id, body.title.strip(), trial, user)
    database.commit()
    wait([where.outcome(trial) for where in (current, current.live)], PATIENCE)
    return _info(current, row, trial)


@router.delete("/{trial}", status_code=204)
def drop_trial(trial: int, current: Current, database: Database) -> None:
    try:
        trials.drop(database, current.domain_id, trial)
    except LookupError as error:
        raise HTTPException(404, str(error)) from None
    database.commit()


def _refused(field: str, message: str) -> HTTPException:
    return HTTPException(422, [{"field": field, "message": message}])


def _canonical(current: Snapshot, body: TrialNew) -> str:
    """The target as it is stored: an account by its name, a group by its distinguished name."""
    estate = current.live.estate
    if body.kind == "group":
        for column in (estate.groups.name, estate.groups.dn):
            rows = column.find(body.target)
            if len(rows):
                return estate.groups.dn[int(rows[0])]
    else:
        row = estate.find_account(body.target)
        if row is not None:
            return estate.accounts.name[row]
    raise _refused("target", f"There is no {'group' if body.kind == 'group' else 'account'} '{body.target[:100]}' in this domain.")


def _info(current: Snapshot, row: TrialRow, trial: Trial) -> TrialInfo:
    here, live = current.outcome(trial), current.live.outcome(trial)
    running = not (here.done() and live.done())
    outcome = Outcome(None, 0) if running else here.result()
    estate = current.estate
    name = trial.target
    if trial.kind == "group":
        rows = estate.groups.dn.find(trial.target)
        name = estate.groups.name[int(rows[0])] if len(rows) else trial.target
    known: dict[str, Any] = {"kind": trial.kind, "expected": trial.expected, "rule": trial.rule, "candidate": trial.candidate}
    return TrialInfo(
        id=row.id, title=row.title, target=trial.target, target_name=name, author=row.author, at=row.at.isoformat(),
        accounts=outcome.accounts, running=running, met=outcome.met, met_live=None if running else live.result().met,
        said="Running …" if running else sentence(outcome, estate),
        account=estate.accounts.name[outcome.account] if outcome.account >= 0 else None, **known,
    )  # fmt: skip
