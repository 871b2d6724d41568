"""Work on many accounts: handed to a worker, and what it found kept for as long as nothing
changes.
"""

from __future__ import annotations

import json
import zlib
from collections.abc import Iterable
from dataclasses import asdict
from typing import Any, Literal

from sqlalchemy import Engine
from sqlalchemy.orm import Session

from hornfels.core.findings.finding import Finding, Mend
from hornfels.core.trials.trial import Trial
from hornfels.refusals import NotYetError
from hornfels.service.places import DRAFT_MARK
from hornfels.service.snapshots import Snapshot, Told
from hornfels.store import jobs
from hornfels.store.models import TrialRow

MANY = 50_000
"""Accounts from which on a worker does it: fewer take a tenth of a second."""

Kind = Literal["findings", "trials"]
Kept = list[tuple[TrialRow, Trial]]


def place_of(current: Snapshot) -> str:
    """The place in an address that shows a snapshot."""
    name = current.estate.domain.dns_name
    return f"{name}{DRAFT_MARK}{current.draft.id}" if current.draft else name


def state_of(current: Snapshot) -> str:
    """Differs between any two states of a domain and its drafts."""
    live = current.live
    draft = f"{DRAFT_MARK}{current.draft.id}.{current.draft.version}" if current.draft else ""
    return f"{live.estate_id}.{live.version}{draft}"


def key_of(current: Snapshot, kept: Kept | None = None) -> str:
    """Names what a job is about: a state, and the trials to run where it is about trials."""
    numbers = json.dumps([row.id for row, _ in kept]).encode() if kept is not None else b""
    return f"{state_of(current)}-{zlib.crc32(numbers):08x}"


def findings_of(engine: Engine, current: Snapshot, user: str) -> list[Finding] | None:
    """The findings at a place; None while a worker is still looking for them."""
    if len(current.estate.accounts) < MANY:
        return current.findings
    answer = _answer(engine, current, "findings", key_of(current), user)
    return None if answer is None else [_finding(written) for written in answer["findings"]]


def outcomes_of(engine: Engine, current: Snapshot, kept: Kept, user: str) -> dict[int, Told] | None:
    """What comes of the trials at a place, by their numbers; None while a worker is still running
    them.
    """
    if len(current.estate.accounts) < MANY:
        return _outcomes(current, kept)
    return _told(_answer(engine, current, "trials", key_of(current, kept), user), "outcomes")


def outcomes_once_published(
    engine: Engine, current: Snapshot, kept: Kept, user: str
) -> dict[int, Told] | None:
    """What would come of the trials once the draft is published, by their numbers; None while a
    worker is still running them.
    """
    if len(current.estate.accounts) < MANY:
        return _outcomes(current.published, kept)
    return _told(_answer(engine, current, "trials", key_of(current, kept), user), "published")


def _outcomes(current: Snapshot, kept: Kept) -> dict[int, Told]:
    return {row.id: current.outcome(trial) for row, trial in kept}


def _told(answer: dict[str, Any] | None, which: str) -> dict[int, Told] | None:
    return (
        None
        if answer is None
        else {int(number): Told(**told) for number, told in answer[which].items()}
    )


def written_findings(found: Iterable[Finding]) -> dict[str, Any]:
    """Findings as a job's result."""
    return {"findings": [asdict(f) for f in found]}


def written_outcomes(current: Snapshot, kept: Kept) -> dict[str, Any]:
    """What comes of trials as a job's result: as the draft shows the domain, and once it is
    published.
    """
    shown = {"outcomes": current, "published": current.published}
    return {
        name: {str(number): asdict(told) for number, told in _outcomes(of, kept).items()}
        for name, of in shown.items()
    }


def _finding(written: dict[str, Any]) -> Finding:
    return Finding(**{**written, "mend": Mend(**written["mend"]) if written["mend"] else None})


def _answer(
    engine: Engine, current: Snapshot, kind: Kind, key: str, user: str
) -> dict[str, Any] | None:
    held: dict[str, Any] | None = current.answers.get(key)
    if held is not None:
        return held
    with Session(engine) as session, session.begin():
        job = jobs.seek(session, kind, place_of(current), key, user)
        state, error, result = job.state, job.error, job.result
    if state == "failed":
        raise NotYetError(error, 60)
    if state != "done":
        return None
    current.answers[key] = result
    return result
