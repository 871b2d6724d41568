"""Trials of a domain: what comes of them where one looks, and live; kept and dropped."""

from __future__ import annotations

from dataclasses import dataclass, replace

from sqlalchemy import Engine
from sqlalchemy.orm import Session

from hornfels.core.domain.estate import Estate
from hornfels.core.lockout.notation import write_story
from hornfels.core.trials.trial import Trial, targets
from hornfels.refusals import ConflictError, FieldsError, ForbiddenError
from hornfels.service.drilling import as_written
from hornfels.service.long_answers import outcomes_of
from hornfels.service.snapshots import Snapshot, Told
from hornfels.store import trials
from hornfels.store.models import TrialRow

MOST_TRIALS = 500


@dataclass(frozen=True, slots=True)
class Tried:
    """A trial, and what comes of it: None each while that is being found out."""

    row: TrialRow
    trial: Trial
    here: Told | None
    live: Told | None


def every(database: Session, engine: Engine, current: Snapshot, person: str) -> list[Tried]:
    """The trials of a domain, the oldest first."""
    kept = trials.kept(database, current.domain_id)
    database.close()  # running them may take a while, and a connection is not needed for it
    here, live = (outcomes_of(engine, where, kept, person) for where in (current, current.live))
    return [
        Tried(row, trial, (here or {}).get(row.id), (live or {}).get(row.id)) for row, trial in kept
    ]


def keep(
    database: Session, engine: Engine, current: Snapshot, person: str, title: str, trial: Trial
) -> Tried:
    """Keep a trial; its target is given as people name it."""
    if len(trials.kept(database, current.domain_id)) >= MOST_TRIALS:
        raise ConflictError(f"A domain keeps at most {MOST_TRIALS} trials. Drop one first.")
    if trial.rule and trial.expected != "refused":
        raise FieldsError(("rule", "A rule can only be named for a refusal."))
    if trial.story:
        trial = replace(trial, story=write_story(as_written(trial.story)))
        if not trial.story:
            raise FieldsError(("story", "Nothing happens in this story. Add a bad try at least."))
    trial = replace(trial, target=_canonical(current.live.estate, trial))
    if not len(targets(trial, current.estate, current.live.estate, current.live.resolution)):
        raise FieldsError(("target", f"There is nobody to try it on in '{trial.target[:100]}'."))
    kept = trials.add(database, current.domain_id, title, trial, person)
    database.commit()
    number = kept.id
    return next(
        tried for tried in every(database, engine, current, person) if tried.row.id == number
    )


def drop(database: Session, current: Snapshot, person: str, trial: int, *, of_others: bool) -> None:
    """Drop a trial: one's own, or anybody's for whom trials `of_others` are theirs to drop."""
    row = trials.find(database, current.domain_id, trial)
    if row.author != person and not of_others:
        raise ForbiddenError(
            f"{row.author} keeps this trial. They or an administrator can drop it."
        )
    trials.drop(database, row)
    database.commit()


def _canonical(estate: Estate, trial: Trial) -> str:
    """The target as it is stored: an account by its name, a group by its distinguished name."""
    if trial.kind == "group":
        for column in (estate.groups.name, estate.groups.dn):
            rows = column.find(trial.target)
            if len(rows):
                return estate.groups.dn[int(rows[0])]
    else:
        row = estate.find_account(trial.target)
        if row is not None:
            return estate.accounts.name[row]
    what = "group" if trial.kind == "group" else "account"
    raise FieldsError(("target", f"There is no {what} '{trial.target[:100]}' in this domain."))
