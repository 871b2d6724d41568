"""Trials: invented candidates kept with the verdicts they must get, run on whatever is shown."""

from __future__ import annotations

from typing import Any

from fastapi import APIRouter, Request

from hornfels.api.address import Route
from hornfels.api.bench_schemas import TrialInfo, TrialNew, TrialsAnswer
from hornfels.api.deps import Current, Database, User
from hornfels.core.passwords.trials import Trial, targets
from hornfels.refusals import ConflictError, FieldsError
from hornfels.service.long_answers import outcomes_of
from hornfels.service.snapshots import Snapshot, Told
from hornfels.store import trials
from hornfels.store.models import TrialRow

router = APIRouter(prefix="/api/domains/{domain}/trials", tags=["trials"], route_class=Route)

MOST_TRIALS = 500


@router.get("")
def list_trials(current: Current, database: Database, user: User, request: Request) -> TrialsAnswer:
    """Every trial and what comes of it, here and live. Those that take long are said to be running;
    ask again.
    """
    kept = trials.kept(database, current.domain_id)
    database.close()  # running them may take a while, and a connection is not needed for it
    engine = request.app.state.engine
    here, live = (outcomes_of(engine, where, kept, user) for where in (current, current.live))
    found = [_info(current, row, trial, _at(here, row), _at(live, row)) for row, trial in kept]
    running = sum(t.running for t in found)
    unmet = sum(not t.met and not t.running for t in found)
    return TrialsAnswer(
        required=current.trials_required, running=running, unmet=unmet, trials=found
    )


@router.post("", status_code=201)
def keep_trial(
    body: TrialNew, current: Current, database: Database, user: User, request: Request
) -> TrialInfo:
    """Keep an invented candidate with the verdict it must get."""
    if len(trials.kept(database, current.domain_id)) >= MOST_TRIALS:
        raise ConflictError(f"A domain keeps at most {MOST_TRIALS} trials. Drop one first.")
    candidate = body.candidate.get_secret_value()
    if body.rule and body.expected == "accepted":
        raise FieldsError(("rule", "A rule can only be named for a refusal."))
    trial = Trial(candidate, body.kind, _canonical(current, body), body.expected, body.rule)
    if not len(targets(trial, current.estate, current.live.estate, current.live.resolution)):
        raise FieldsError(("target", f"There is nobody to try it on in '{body.target[:100]}'."))
    row = trials.add(database, current.domain_id, body.title.strip(), trial, user)
    database.commit()
    database.refresh(row)
    kept = trials.kept(database, current.domain_id)
    database.close()
    here, live = (
        outcomes_of(request.app.state.engine, where, kept, user)
        for where in (current, current.live)
    )
    return _info(current, row, trial, _at(here, row), _at(live, row))


@router.delete("/{trial}", status_code=204)
def drop_trial(trial: int, current: Current, database: Database) -> None:
    trials.drop(database, current.domain_id, trial)
    database.commit()


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
    raise FieldsError(
        (
            "target",
            (
                f"There is no {'group' if body.kind == 'group' else 'account'} "
                f"'{body.target[:100]}' "
                "in this domain."
            ),
        )
    )


def _at(outcomes: dict[int, Told] | None, row: TrialRow) -> Told | None:
    return None if outcomes is None else outcomes.get(row.id)


def _info(
    current: Snapshot, row: TrialRow, trial: Trial, here: Told | None, live: Told | None
) -> TrialInfo:
    estate = current.estate
    name = trial.target
    if trial.kind == "group":
        rows = estate.groups.dn.find(trial.target)
        name = estate.groups.name[int(rows[0])] if len(rows) else trial.target
    known: dict[str, Any] = {
        "kind": trial.kind,
        "expected": trial.expected,
        "rule": trial.rule,
        "candidate": trial.candidate,
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
