"""Locks of a domain's accounts: those that loads have found, and the unlockings asked for."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import asdict, dataclass, replace
from datetime import datetime
from typing import Any

import numpy as np
from sqlalchemy import select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from hornfels.core.domain.estate import Accounts
from hornfels.core.lockout.locked import Sighting
from hornfels.store.models import LockRow, PointRow

MOST_AT_ONCE = 20_000
"""Locks of one load that are remembered, the latest of them."""


@dataclass(frozen=True, slots=True)
class Unlocked:
    """An account that is to be unlocked or to change the password. ``since`` is when the lock that
    is meant began, or when the password that is meant was set (ticks).
    """

    rid: int
    name: str
    dn: str
    since: int
    told: str | None = None
    """What the directory answered: "" if it was done there, None where it was not asked."""


def remember(session: Session, domain_id: int, accounts: Accounts) -> None:
    """Write down every lock that stands in the directory, also those that have run out."""
    rows = np.flatnonzero((accounts.lockout_time > 0) & (accounts.rid > 0))
    rows = rows[np.argsort(-accounts.lockout_time[rows], kind="stable")][:MOST_AT_ONCE]
    found = [
        {
            "domain_id": domain_id,
            "rid": int(accounts.rid[row]),
            "at": int(accounts.lockout_time[row]),
            "name": accounts.name[row],
            "tries": int(accounts.bad_count[row]),
        }
        for row in rows.tolist()
    ]
    if found:
        session.execute(insert(LockRow).on_conflict_do_nothing(), found)


def add(session: Session, domain_id: int, seen: Iterable[tuple[Sighting, int]]) -> None:
    """Locks that are known from elsewhere, each with its bad tries."""
    session.add_all(
        LockRow(domain_id=domain_id, rid=s.rid, at=s.at, name=s.name, tries=tries)
        for s, tries in seen
    )


def sightings(session: Session, domain_id: int, since: int) -> list[Sighting]:
    """Every lock that began after a moment in ticks."""
    columns = select(LockRow.rid, LockRow.name, LockRow.at)
    rows = session.execute(columns.where(LockRow.domain_id == domain_id, LockRow.at > since))
    return [Sighting(rid, name, at) for rid, name, at in rows]


def of_account(session: Session, domain_id: int, rid: int) -> list[LockRow]:
    """The locks of one account, the latest first."""
    wanted = select(LockRow).where(LockRow.domain_id == domain_id, LockRow.rid == rid)
    return list(session.scalars(wanted.order_by(LockRow.at.desc()).limit(100)))


def written(accounts: Sequence[Unlocked]) -> list[dict[str, object]]:
    """Accounts to unlock as a point of history holds them."""
    return [asdict(one) for one in accounts]


def unlocked_at(point: PointRow) -> list[Unlocked]:
    return [_read(held) for held in point.accounts]


def all_done(accounts: Iterable[Unlocked]) -> bool | None:
    """Return whether the directory has done it to all accounts; None where it has refused some, and
    nothing is left to be done.
    """
    answers = [one.told for one in accounts]
    return False if None in answers else True if not any(answers) else None


def _read(held: dict[str, Any]) -> Unlocked:
    return Unlocked(**held)


def settle(session: Session, domain_id: int, accounts: Accounts) -> None:
    """Keep of accounts that others unlock, or require to change the password, which of them the
    directory shows so by now.
    """
    asked = select(PointRow).where(
        PointRow.domain_id == domain_id,
        PointRow.kind.in_(("unlocking", "must change")),
        PointRow.in_directory.is_(False),
    )
    points = session.scalars(asked).all()
    if not points:
        return
    rows = {rid: row for row, rid in enumerate(accounts.rid.tolist()) if rid > 0}
    for point in points:
        held = accounts.lockout_time if point.kind == "unlocking" else accounts.password_set
        found = [
            # An account that is gone, or whose lock or password is another one, is settled.
            replace(one, told="")
            if one.told is None and (one.rid not in rows or held[rows[one.rid]] != one.since)
            else one
            for one in unlocked_at(point)
        ]
        point.accounts = written(found)
        point.in_directory = all_done(found)


@dataclass(frozen=True, slots=True)
class Asked:
    """That somebody has asked for an unlocking, at which point of the history, and what the
    directory said to it (see `Unlocked`).
    """

    point: int
    by: str
    at: datetime
    told: str | None = None


def asked_for(session: Session, domain_id: int) -> dict[tuple[int, int], Asked]:
    """The latest unlocking asked for each lock, by RID and the beginning of the lock."""
    # Without the policies of each point, which are large.
    columns = select(PointRow.id, PointRow.author, PointRow.at, PointRow.accounts)
    rows = session.execute(
        columns.where(PointRow.domain_id == domain_id, PointRow.kind == "unlocking").order_by(
            PointRow.id
        )
    )
    return {
        (one.rid, one.since): Asked(point, by, at, one.told)
        for point, by, at, accounts in rows
        for one in map(_read, accounts)
    }
