"""Passwords that end by the length bands of additions: seen, and had changed on their day."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from typing import Any

import numpy as np
from sqlalchemy import Engine, or_, select
from sqlalchemy.orm import Session

from hornfels.core.domain.account_state import addition_of, settings_of
from hornfels.core.gate.lengths import LengthsKnown, lengths_known
from hornfels.core.gate.lifetimes import Lifetimes, ends_on, lifetimes
from hornfels.core.resolution.engine import DOMAIN_POLICY
from hornfels.core.values.time import datetime_from_moment
from hornfels.refusals import ConflictError, FieldsError, NotFoundError
from hornfels.service import acts, connections, must_change
from hornfels.service.connections import Connection
from hornfels.service.editing import domain_for_writing
from hornfels.service.reading import BY_ITSELF
from hornfels.service.snapshots import Snapshot, Snapshots
from hornfels.settings import Settings
from hornfels.store import gate, jobs
from hornfels.store.models import DomainRow
from hornfels.store.trail import Origin, note

TRY_AGAIN = timedelta(hours=1)
"""After a day on which it failed."""


@dataclass(frozen=True, slots=True)
class Standing:
    """Whose passwords end by a band, whether that is enforced, whether it could be, what came of
    it last, and for which accounts it is never done.
    """

    lifetimes: Lifetimes
    enforced: bool
    possible: bool
    told: str
    spared: tuple[str, ...]


def standing(database: Session, current: Snapshot) -> Standing:
    """How it stands as the domain is shown."""
    row = database.get_one(DomainRow, current.domain_id)
    given = _connection(database, row)
    spared = never_these(database, current)
    passed = gate.passed(database, row.id)
    return Standing(
        lifetimes(current.estate, current.resolution, passed, spared),
        row.lifetimes_enforced,
        given is not None and given.writer is not None,
        row.lifetimes_told,
        tuple(row.lifetimes_spared),
    )


def never_these(database: Session, current: Snapshot) -> tuple[str, ...]:
    """The accounts that are never told to choose another password: those that are named, and those
    that Hornfels signs in with.
    """
    row = database.get_one(DomainRow, current.domain_id)
    return (*row.lifetimes_spared, *_signers(_connection(database, row)))


@dataclass(frozen=True, slots=True)
class BandEnd:
    """The day on which a password ends by its band, whether the gate knows it, and whether it has
    to be changed then.
    """

    day: date
    from_gate: bool
    enforced: bool


def of_account(
    database: Session, current: Snapshot, row: int, password_set: int | None = None
) -> BandEnd | None:
    """When an account's password ends by its band, one that was set at a moment in ticks if that is
    known better than it was read; None where no band ends it.
    """
    held = database.get_one(DomainRow, current.domain_id)
    spared = never_these(database, current)
    passed = gate.passed(database, held.id, current.estate.accounts.name[row])
    found = lifetimes(current.estate, current.resolution, passed, spared, np.array([row]))
    if not len(found):
        return None
    ends, from_gate = int(found.ends[0]), bool(found.from_gate[0])
    addition = addition_of(current.estate, int(current.resolution.winner_of_account[row]))
    if password_set is not None and addition:
        ends, from_gate = ends_on(addition, password_set, passed)
    day = datetime_from_moment(ends)
    return None if day is None else BandEnd(day.date(), from_gate, held.lifetimes_enforced)


def lengths(database: Session, current: Snapshot, at_least: int | None) -> LengthsKnown:
    """What is known of how long people's present passwords are: against a minimum length, or the
    one that each one's policy has here.
    """
    live, estate = current.live, current.estate
    policies = (*range(len(estate.policies)), DOMAIN_POLICY)
    # The domain policy is −1, which is the last.
    asked = np.array([settings_of(estate, policy).min_length for policy in policies], np.int64)
    needed = asked[current.resolution.winner_of_account]
    if at_least is not None:
        needed = np.full_like(needed, at_least)
    passed = gate.passed(database, current.domain_id)
    return lengths_known(live.estate, live.resolution, passed, needed, live.roster.people)


def choose(
    database: Session,
    current: Snapshot,
    person: str,
    *,
    enforced: bool,
    spared: Sequence[str],
    reason: str,
) -> None:
    """Have passwords changed on their day from now on, or no longer, but never those of accounts
    that are `spared`; where approval is required, once a second person agrees. Raises
    `ConflictError` where nobody is set to write into the directory, and `FieldsError` for an
    account that there is not.
    """
    row = domain_for_writing(database, current)
    unknown = [one for one in spared if current.live.estate.find_account(one) is None]
    if unknown:
        message = f"There is no account “{unknown[0][:100]}” in this domain."
        raise FieldsError(("spared", message))
    given = _connection(database, row)
    if enforced and (given is None or given.writer is None):
        raise ConflictError(
            "To have passwords changed on their day, connect the directory with an account that "
            "writes (Sources)."
        )
    left_out = list(dict.fromkeys(spared))
    counted = f"{len(left_out):,} account{'s' * (len(left_out) != 1)} excluded"
    acts.ask(
        database,
        person,
        "lifetimes",
        row.dns_name,
        reason,
        enforced=enforced,
        spared=left_out,
        said=f"Maximum age by length {'enforced' if enforced else 'not enforced'}",
        effect=counted,
    )


def apply_setting(
    session: Session, row: DomainRow, arguments: Mapping[str, Any], _person: str
) -> acts.Done:
    """Enforce lifetimes in a domain, which is held for writing, or no longer."""
    row.lifetimes_enforced, row.lifetimes_spared = arguments["enforced"], arguments["spared"]
    row.lifetimes_on = None
    what = "lifetimes enforced" if row.lifetimes_enforced else "lifetimes no longer enforced"
    note(session, what, domain=row.dns_name, spared=row.lifetimes_spared)
    return acts.Done()


def _connection(database: Session, row: DomainRow) -> Connection | None:
    try:
        return connections.find(database, row.dns_name)[1]
    except NotFoundError:
        return None


def _signers(given: Connection | None) -> Iterable[str]:
    """The accounts that Hornfels itself signs in with: without them it could do nothing more."""
    for signer in (given.reader, given.writer) if given else ():
        if signer and signer.name:
            # As name@domain, as DOMAIN\\name, or by its DN.
            yield signer.name
            yield signer.name.partition("@")[0].rpartition("\\")[2]


def begin_due(session: Session, now: datetime) -> None:
    """Begin to go through the domains for which that was not done today (UTC)."""
    today = now.date()
    asked = select(DomainRow).where(
        DomainRow.lifetimes_enforced,
        or_(DomainRow.lifetimes_on.is_(None), DomainRow.lifetimes_on < today),
    )
    for row in session.scalars(asked.with_for_update(skip_locked=True)):
        last = jobs.last_of(session, ("lifetimes",), row.dns_name)
        if last and last.state == "failed" and now - last.changed_at < TRY_AGAIN:
            continue
        row.lifetimes_on = today
        if last is None or last.state not in jobs.ACTIVE:
            jobs.start(session, "lifetimes", BY_ITSELF, domain=row.dns_name)


def end_due(
    engine: Engine,
    dns_name: str,
    where: Settings,
    now: int,
    origin: Origin,
    progress: Callable[[str, int, int], None],
    task: str,
) -> str:
    """Have every password changed whose day has come, unless the directory has another one by now;
    what came of it, in words. A `task` that was killed goes on where it was. Raises
    `DirectoryError` where the directory cannot be reached.
    """
    current = Snapshots(engine).of(dns_name)
    if current is None:
        raise NotFoundError(f"There is no domain '{dns_name[:200]}' here.")
    with Session(engine) as session:
        due = standing(session, current).lifetimes.due(now)
    if must_change.connection(engine, current) is None:
        raise ConflictError("No account to write with is set in the connection (Sources).")
    done = must_change.tell(
        engine,
        current,
        due,
        BY_ITSELF,
        "Their day has come by the length bands of their policies.",
        where,
        origin,
        task=task,
        progress=progress,
    )
    if done.problem:
        raise done.problem
    if not done.accounts:
        return _kept(engine, dns_name, "Nobody’s password had come to its day.")
    refused, many = done.refused, len(done.accounts)
    words = f"{many - len(refused):,} of {many:,} passwords had come to their day and "
    words += "have to be changed at the next sign-in."
    return _kept(engine, dns_name, " ".join([words, *refused[:3]]))


def _kept(engine: Engine, dns_name: str, told: str) -> str:
    with Session(engine) as session, session.begin():
        for row in session.scalars(select(DomainRow).where(DomainRow.dns_name == dns_name)):
            row.lifetimes_told = told
    return told


def failed(session: Session, dns_name: str, error: str) -> None:
    """It is tried again later on the same day."""
    for row in session.scalars(select(DomainRow).where(DomainRow.dns_name == dns_name)):
        row.lifetimes_told, row.lifetimes_on = error, None
