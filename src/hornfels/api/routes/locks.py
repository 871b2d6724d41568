"""Locked accounts: who is locked or close to it, and asking for them to be unlocked."""

from __future__ import annotations

from typing import Any

from fastapi import APIRouter

from hornfels.api.address import Route
from hornfels.api.deps import Current, Database
from hornfels.api.locks_schemas import (
    MOST_SHOWN,
    CloseAccount,
    EarlierLock,
    LockedAccount,
    LocksAnswer,
    PatternInfo,
    UnlockingInfo,
    UnlockNew,
)
from hornfels.api.rights import Person, needs, prove
from hornfels.api.views import iso, now_moment
from hornfels.core.lockout.locked import Close, Locked
from hornfels.service import unlocking
from hornfels.service.naming import policy_mark, policy_name, policy_ref
from hornfels.service.snapshots import Snapshot
from hornfels.store.locks import Asked

router = APIRouter(
    prefix="/api/domains/{domain}/locks",
    tags=["locks"],
    route_class=Route,
    dependencies=[needs("see")],
)


@router.get("")
def list_locks(current: Current, database: Database) -> LocksAnswer:
    """Who is locked or close to it, the latest first, and what the locks have in common."""
    found = unlocking.standing(database, current, now_moment(), MOST_SHOWN)
    (locked_total, locked), (close_total, close) = found.locked, found.close
    rids = current.estate.accounts.rid
    return LocksAnswer(
        locked_total=locked_total,
        close_total=close_total,
        locked=[
            _locked(current, one, found.asked_for.get((int(rids[one.row]), one.since)))
            for one in locked
        ],
        close=[_close(current, one) for one in close],
        patterns=[
            PatternInfo(
                kind=pattern.kind,
                sentence=pattern.sentence,
                accounts=list(pattern.names[:MOST_SHOWN]),
                locks=pattern.locks,
            )
            for pattern in found.patterns[:MOST_SHOWN]
        ],
    )


@router.post("/unlockings", status_code=201, dependencies=[needs("unlock")])
def unlock(body: UnlockNew, current: Current, database: Database, visitor: Person) -> UnlockingInfo:
    """Ask for accounts to be unlocked, many of them with the password once more. The change records
    are at the point of history.
    """
    if len(set(body.accounts)) > 1:
        prove(visitor)
    point = unlocking.unlock(
        database, current, visitor.name, body.accounts, body.reason, now_moment()
    )
    return _unlocking(Asked(point.id, point.author, point.at))


@router.get("/of/{name}")
def list_earlier(name: str, current: Current, database: Database) -> list[EarlierLock]:
    """The locks of one account that loads have found, the latest first."""
    rows = unlocking.earlier(database, current, name)
    return [EarlierLock(at=iso(row.at), tries=row.tries) for row in rows]


def _unlocking(asked: Asked) -> UnlockingInfo:
    return UnlockingInfo(point=asked.point, by=asked.by, at=asked.at.isoformat())


def _locked(current: Snapshot, one: Locked, asked: Asked | None) -> LockedAccount:
    return LockedAccount(
        **_under(current, one.row, one.policy),
        since=iso(one.since),
        tries=one.tries,
        until=iso(one.until) if one.until else None,
        asked=_unlocking(asked) if asked else None,
    )


def _close(current: Snapshot, one: Close) -> CloseAccount:
    return CloseAccount(
        **_under(current, one.row, one.policy),
        tries=one.tries,
        left=one.left,
        forgotten_at=iso(one.forgotten_at),
    )


def _under(current: Snapshot, row: int, policy: int) -> dict[str, Any]:
    """An `AccountUnder` as plain data."""
    accounts = current.estate.accounts
    return {
        "name": accounts.name[row],
        "display_name": accounts.display_name[row],
        "policy": policy_ref(current, policy),
        "policy_name": policy_name(current, policy),
        "mark": policy_mark(current, policy),
    }
