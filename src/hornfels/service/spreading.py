"""A shorter maximum age brought in over weeks: planned for a draft, begun by somebody who has seen
the plan, and carried out week by week until the draft can be published.
"""

from __future__ import annotations

import hashlib
from dataclasses import replace
from datetime import UTC, date, datetime, time, timedelta

import numpy as np
from sqlalchemy import Engine, select
from sqlalchemy.orm import Session

from hornfels.core.domain.estate import Int64
from hornfels.core.domain.must_change import may_be_told
from hornfels.core.drafts.spread import Spread, spread
from hornfels.core.values.time import moment_from_datetime
from hornfels.refusals import ChangedMeanwhileError, ConflictError, FieldsError, NotFoundError
from hornfels.service import acts, exposure, lifetimes, must_change
from hornfels.service.editing import domain_for_writing
from hornfels.service.reading import BY_ITSELF
from hornfels.service.snapshots import Snapshot, Snapshots
from hornfels.settings import Settings
from hornfels.store import drafts, jobs, spreads
from hornfels.store.jobs import Progress
from hornfels.store.models import DomainRow, DraftRow, SpreadRow
from hornfels.store.spreads import Members, Wave
from hornfels.store.trail import Origin, note

MOST_WEEKS, FARTHEST = 52, 365
TRY_AGAIN = timedelta(hours=1)
"""After a wave that failed."""


def plan(session: Session, current: Snapshot, begins: date, weeks: int, now: datetime) -> Spread:
    """Who would be told when, for the draft that is shown. Raises `ConflictError` where none is and
    `FieldsError` for days that cannot be.
    """
    if current.draft is None:
        raise ConflictError("Spread what a draft brings: choose one first.")
    today = now.astimezone(UTC).date()
    if not today <= begins <= today + timedelta(days=FARTHEST):
        raise FieldsError(("begins", "Give a day from today on, within a year."))
    found = exposure.known(session, current)
    return spread(
        current.live.roster,
        # Without what the draft only tries out.
        current.published.roster,
        moment_from_datetime(now),
        moment_from_datetime(datetime.combine(begins, time(), UTC)),
        weeks,
        np.unique(found.exposed.rows),
        np.unique(found.where(found.of_kind("shared")).rows),
        lifetimes.never_these(session, current),
    )


def _members(current: Snapshot, found: Spread) -> Members:
    accounts = current.live.estate.accounts
    rid = accounts.rid[found.rows].astype(np.int64)
    return Members(rid, accounts.password_set[found.rows], found.wave)


def seen(current: Snapshot, found: Spread) -> str:
    """Differs between any two plans that tell others, or in another week."""
    return hashlib.sha256(spreads.packed(_members(current, found))).hexdigest()


def begin(
    session: Session,
    current: Snapshot,
    begins: date,
    weeks: int,
    as_seen: str,
    person: str,
    reason: str,
    now: datetime,
) -> SpreadRow:
    """Have it carried out as somebody has `seen` it. Raises `ChangedMeanwhileError` if others would
    be told by now, `ConflictError` while one is under way.
    """
    why = acts.reasoned(reason)
    found = plan(session, current, begins, weeks, now)
    assert current.draft  # noqa: S101 - `plan` has refused it
    domain = domain_for_writing(session, current)
    if spreads.running(session, domain.id, for_writing=True) is not None:
        raise ConflictError("Another one is under way here. Stop it first.")
    if seen(current, found) != as_seen:
        raise ChangedMeanwhileError(
            f"Nothing was begun: by now other accounts would be told, {len(found.rows):,} of them. "
            "Look at the plan again."
        )
    if not len(found.rows):
        raise ConflictError("Nobody has to be told: nothing is to be spread.")
    title = drafts.find(session, current.domain_id, current.draft.id).title
    row = SpreadRow(
        domain_id=domain.id,
        draft_id=current.draft.id,
        title=title,
        state="running",
        begins=begins,
        waves=spreads.written(
            [
                Wave(found.counts(number), int(found.by_themselves[number]))
                for number in range(weeks)
            ]
        ),
        accounts=spreads.packed(_members(current, found)),
        by=person,
        reason=why,
        made_at=now,
    )
    session.add(row)
    note(
        session,
        "spread begun",
        title,
        domain=domain.dns_name,
        begins=begins.isoformat(),
        weeks=weeks,
        accounts=len(found.rows),
        reason=why,
    )
    session.commit()
    return row


def stop(session: Session, current: Snapshot, number: int, reason: str) -> None:
    """Nobody more is told. Whoever was told stays so."""
    why = acts.reasoned(reason)
    domain = domain_for_writing(session, current)
    row = spreads.running(session, domain.id, for_writing=True)
    if row is None or row.id != number:
        raise NotFoundError("It is not under way any more.")
    row.state = "stopped"
    note(session, "spread stopped", row.title, domain=domain.dns_name, reason=why)
    session.commit()


def due_of(row: SpreadRow, today: date) -> int | None:
    """The first wave that is not done, if its day has come. Those that are late come a day after
    each other, not all at once.
    """
    before = None
    for number, wave in enumerate(spreads.waves_of(row)):
        if wave.state != "done":
            comes = row.begins + timedelta(weeks=number)
            return number if comes <= today and before != today.isoformat() else None
        before = wave.done_on
    return None


def begin_due(session: Session, now: datetime) -> None:
    """Begin the waves whose day has come (UTC). Where the draft was published or dropped meanwhile,
    nobody more is told.
    """
    asked = (
        select(SpreadRow, DomainRow.dns_name, DraftRow.state)
        .join(DomainRow, DomainRow.id == SpreadRow.domain_id)
        .outerjoin(DraftRow, DraftRow.id == SpreadRow.draft_id)
        .where(SpreadRow.state == "running")
    )
    for row, dns_name, draft in session.execute(asked).all():
        if draft == drafts.PUBLISHING:
            continue
        if draft != "open":
            row.state = "stopped"
            reason = f"Its draft is {draft or 'gone'}."
            note(
                session,
                "spread stopped",
                row.title,
                domain=dns_name,
                person=BY_ITSELF,
                reason=reason,
            )
            continue
        if due_of(row, now.astimezone(UTC).date()) is None:
            continue
        last = jobs.last_of(session, ("spread",), dns_name)
        if last and last.state in jobs.ACTIVE:
            continue
        if last and last.state == "failed" and now - last.changed_at < TRY_AGAIN:
            continue
        jobs.start(session, "spread", BY_ITSELF, domain=dns_name)


def carry_out(
    engine: Engine,
    dns_name: str,
    where: Settings,
    now: datetime,
    origin: Origin,
    progress: Progress,
) -> str:
    """Have everybody told of the wave whose day has come; what came of it in a sentence. Raises
    `DirectoryError` and `ConflictError` where the directory cannot be reached: the wave is tried
    again, and whoever was told in it already is not told once more.
    """
    today = now.astimezone(UTC).date()
    current = Snapshots(engine).of(dns_name)
    if current is None:
        raise NotFoundError(f"There is no domain '{dns_name[:200]}' here.")
    with Session(engine) as session, session.begin():
        row = spreads.running(session, current.domain_id, for_writing=True)
        number = due_of(row, today) if row else None
        if row is None or number is None:
            return "No wave was due."
        spread_id, title, weeks = row.id, row.title, len(row.waves)
        members = spreads.members_of(row)
        spreads.set_wave(row, number, replace(spreads.waves_of(row)[number], state="begun"))
        spared = lifetimes.never_these(session, current)
    done = must_change.tell(
        engine,
        current,
        _as_read(current, members, number, spared),
        BY_ITSELF,
        f"Wave {number + 1} of {weeks} of a shorter maximum age: {title}.",
        where,
        origin,
        task=f"wave {number + 1} of spread {spread_id}",
        progress=progress,
    )
    if done.problem:
        raise done.problem
    told = _told(done, int((members.wave == number).sum()))
    with Session(engine) as session, session.begin():
        row = session.get_one(SpreadRow, spread_id, with_for_update=True)
        wave = replace(
            spreads.waves_of(row)[number],
            state="done",
            done_on=today.isoformat(),
            said=told,
            point=done.point,
        )
        spreads.set_wave(row, number, wave)
        if row.state == "running" and number == weeks - 1:
            row.state = "done"
    return told


def _as_read(current: Snapshot, members: Members, number: int, spared: tuple[str, ...]) -> Int64:
    """The rows of those in a wave that have the password still that was planned with, and may be
    told by now.
    """
    accounts = current.estate.accounts
    here = members.wave == number
    set_at = dict(zip(members.rid[here].tolist(), members.set_at[here].tolist(), strict=True))
    rows = np.flatnonzero(np.isin(accounts.rid, members.rid[here]))
    same = [set_at[int(accounts.rid[row])] == accounts.password_set[row] for row in rows.tolist()]
    rows = rows[np.array(same, dtype=np.bool_)]
    return rows[may_be_told(current.estate, rows, spared)]


def _told(done: must_change.Done, planned: int) -> str:
    parts = []
    if done.pending:
        parts.append(
            f"{done.pending:,} of {planned:,} accounts are pending: no directory is connected. "
            "Apply the change records."
        )
    else:
        parts.append(f"{done.done:,} of {planned:,} accounts must change their password.")
    if changed := planned - len(done.accounts):
        parts.append(f"{changed:,} had another password by then.")
    return " ".join([*parts, *done.refused[:3]])


def failed(session: Session, dns_name: str, error: str) -> None:
    """A wave could not be carried out."""
    domain = session.scalars(select(DomainRow).where(DomainRow.dns_name == dns_name)).one_or_none()
    row = spreads.running(session, domain.id, for_writing=True) if domain else None
    if row:
        for number, wave in enumerate(spreads.waves_of(row)):
            if wave.state == "begun":
                spreads.set_wave(row, number, replace(wave, said=error))
