"""Locked accounts: who is locked or close to it, and asking for them to be unlocked."""

from __future__ import annotations

from typing import Any

from fastapi import APIRouter, Request
from sqlalchemy import Engine
from sqlalchemy.orm import Session

from hornfels.api.address import Route
from hornfels.api.deps import Current, Database, Renewal
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
from hornfels.api.rights import Person, needs, origin_of, prove
from hornfels.api.turnstile import Turnstile
from hornfels.api.views import iso, job_info, now_moment
from hornfels.core.lockout.locked import Close, Locked
from hornfels.formats.changes import AccountDeed
from hornfels.service import reading, unlocking
from hornfels.service.naming import policy_mark, policy_name, policy_ref
from hornfels.service.places import snapshot_at
from hornfels.service.snapshots import Snapshot, Snapshots
from hornfels.settings import read_settings
from hornfels.store.locks import Asked, unlocked_at
from hornfels.store.models import PointRow
from hornfels.store.sessions import Visitor
from hornfels.store.trail import Origin, act_for

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


@router.post("/unlockings", status_code=201, dependencies=[needs("unlock", proof=False)])
async def unlock(
    body: UnlockNew, domain: str, request: Request, visitor: Person, snapshots: Renewal
) -> UnlockingInfo:
    """Unlock accounts, many of them with the password once more. Where no directory is connected
    that somebody may write, the change records are at the point of history.
    """
    return await _done("unlocking", body, domain, request, visitor, snapshots)


@router.post("/must-change", status_code=201, dependencies=[needs("unlock", proof=False)])
async def have_passwords_changed(
    body: UnlockNew, domain: str, request: Request, visitor: Person, snapshots: Renewal
) -> UnlockingInfo:
    """Have accounts choose another password at the next sign-in, like an unlocking."""
    return await _done("must change", body, domain, request, visitor, snapshots)


async def _done(
    deed: AccountDeed,
    body: UnlockNew,
    domain: str,
    request: Request,
    visitor: Visitor,
    snapshots: Snapshots,
) -> UnlockingInfo:
    if len(set(body.accounts)) > 1:
        prove(visitor)
    asking: Turnstile = request.app.state.asking
    engine, origin = request.app.state.engine, origin_of(request)
    # It may take a while: whoever waits for a server takes no place from anybody else.
    async with asking.place():
        return await asking.run(_asked_for, deed, engine, snapshots, domain, body, origin)


def _asked_for(
    deed: AccountDeed,
    engine: Engine,
    snapshots: Snapshots,
    place: str,
    body: UnlockNew,
    origin: Origin,
) -> UnlockingInfo:
    current = snapshot_at(place, snapshots)
    name = current.estate.domain.dns_name
    names, reason = body.accounts, body.reason
    with Session(engine) as session:
        act_for(session, origin)
        if deed == "unlocking":
            now = now_moment()
            point = unlocking.unlock(session, current, origin.person, names, reason, now)
        else:
            point = unlocking.have_changed(session, current, origin.person, names, reason)
        found = _unlocking(Asked(point.id, point.author, point.at))
    if not unlocking.carry_out(engine, name, found.point, read_settings(), origin):
        return found
    with Session(engine) as session:
        act_for(session, origin)
        held = unlocked_at(session.get_one(PointRow, found.point))
        job = reading.begin(session, name, origin.person, whole=False)
        refused = [f"{one.name}: {one.told}" for one in held if one.told]
        return found.model_copy(update={"told": " ".join(refused), "job": job_info(job)})


@router.get("/of/{name}")
def list_earlier(name: str, current: Current, database: Database) -> list[EarlierLock]:
    """The locks of one account that loads have found, the latest first."""
    rows = unlocking.earlier(database, current, name)
    return [EarlierLock(at=iso(row.at), tries=row.tries) for row in rows]


def _unlocking(asked: Asked) -> UnlockingInfo:
    return UnlockingInfo(point=asked.point, by=asked.by, at=asked.at.isoformat(), told=asked.told)


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
