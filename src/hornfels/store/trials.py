"""Trials of a domain: kept, listed, dropped."""

from __future__ import annotations

from typing import cast

from sqlalchemy import select
from sqlalchemy.orm import Session

from hornfels.core.trials.trial import Expected, TargetKind, Trial
from hornfels.refusals import NotFoundError
from hornfels.store.models import TrialRow
from hornfels.store.trail import note


def add(session: Session, domain_id: int, title: str, trial: Trial, author: str) -> TrialRow:
    row = TrialRow(
        domain_id=domain_id,
        title=title,
        candidate=trial.candidate,
        kind=trial.kind,
        target=trial.target,
        expected=trial.expected,
        rule=trial.rule,
        story=trial.story,
        present=trial.present,
        author=author,
    )
    session.add(row)
    session.flush()
    _note(session, "trial kept", row)
    return row


def kept(session: Session, domain_id: int) -> list[tuple[TrialRow, Trial]]:
    """The trials of a domain, the oldest first."""
    rows = session.scalars(
        select(TrialRow).where(TrialRow.domain_id == domain_id).order_by(TrialRow.id)
    )
    return [(row, _trial(row)) for row in rows]


def find(session: Session, domain_id: int, trial: int) -> TrialRow:
    """Raises NotFoundError if the domain has no such trial."""
    row = session.get(TrialRow, trial)
    if row is None or row.domain_id != domain_id:
        raise NotFoundError("There is no such trial any more.")
    return row


def drop(session: Session, row: TrialRow) -> None:
    _note(session, "trial dropped", row)
    session.delete(row)


def _note(session: Session, what: str, row: TrialRow) -> None:
    # Never its candidate.
    told = {"kind": row.kind, "target": row.target, "expected": row.expected, "rule": row.rule}
    note(session, what, f"“{row.title}”", domain=row.domain_id, **told)


def _trial(row: TrialRow) -> Trial:
    return Trial(
        row.candidate,
        cast(TargetKind, row.kind),
        row.target,
        cast(Expected, row.expected),
        row.rule,
        row.story,
        row.present,
    )
