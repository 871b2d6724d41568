"""Locked accounts of a domain; unlocking them is kept in history, and carried out in the directory
where one is connected.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import cast

from sqlalchemy import Engine
from sqlalchemy.orm import Session

from hornfels.core.lockout.locked import (
    LATELY,
    Close,
    Locked,
    Pattern,
    close_accounts,
    locked_account,
    locked_accounts,
    patterns,
)
from hornfels.directory.accounts import carried_out
from hornfels.directory.link import linked
from hornfels.directory.reach import DirectoryError
from hornfels.formats.changes import AccountDeed
from hornfels.refusals import ConflictError, FieldsError, NotFoundError
from hornfels.service import connections
from hornfels.service.editing import domain_for_writing
from hornfels.service.snapshots import Snapshot
from hornfels.settings import Settings
from hornfels.store import history, locks
from hornfels.store.estates import load_domain
from hornfels.store.locks import Asked, Unlocked
from hornfels.store.models import LockRow, PointRow
from hornfels.store.trail import Origin, act_for, note


@dataclass(frozen=True, slots=True)
class Standing:
    """Who is locked or close to it (how many, and the first of them), what the locks have in
    common, and the unlocking that was asked for of each lock, by RID and its beginning.
    """

    locked: tuple[int, list[Locked]]
    close: tuple[int, list[Close]]
    patterns: list[Pattern]
    asked_for: dict[tuple[int, int], Asked]


def standing(database: Session, current: Snapshot, now: int, most: int) -> Standing:
    """How locks stand at a moment in ticks."""
    return Standing(
        locked_accounts(current.roster, now, most),
        close_accounts(current.roster, now, most),
        patterns(locks.sightings(database, current.domain_id, now - LATELY), now),
        locks.asked_for(database, current.domain_id),
    )


def earlier(database: Session, current: Snapshot, name: str) -> list[LockRow]:
    """The locks of an account that loads have found, the latest first."""
    row = current.estate.find_account(name)
    if row is None:
        raise NotFoundError(f"There is no account '{name[:100]}' in this domain.")
    return locks.of_account(database, current.domain_id, int(current.estate.accounts.rid[row]))


def unlock(
    database: Session, current: Snapshot, person: str, names: Sequence[str], reason: str, now: int
) -> PointRow:
    """Ask for accounts to be unlocked. It is written into the history, from which the change
    records come where no directory is connected; here they stay locked until it is read again.
    """
    accounts = current.estate.accounts
    wanted = []
    for number, name in enumerate(dict.fromkeys(names)):
        row = current.estate.find_account(name)
        held = None if row is None else locked_account(current.roster, row, now)
        if row is None or held is None:
            message = (
                f"There is no account '{name[:100]}' in this domain."
                if row is None
                else f"{name[:100]} is not locked any more. Leave it out."
            )
            raise FieldsError((f"accounts.{number}", message))
        wanted.append(
            Unlocked(int(accounts.rid[row]), accounts.name[row], accounts.dn[row], held.since)
        )
    return _asked_for(database, current, person, "unlocking", wanted, reason)


def have_changed(
    database: Session,
    current: Snapshot,
    person: str,
    names: Sequence[str],
    reason: str,
    *,
    confidential: bool = False,
) -> PointRow:
    """Ask for accounts to choose another password at the next sign-in. It is written into the
    history like an unlocking, without names for everybody where it is `confidential`.
    """
    accounts = current.estate.accounts
    wanted = []
    for number, name in enumerate(dict.fromkeys(names)):
        row = current.estate.find_account(name)
        if row is None:
            message = f"There is no account '{name[:100]}' in this domain."
            raise FieldsError((f"accounts.{number}", message))
        wanted.append(Unlocked(int(accounts.rid[row]), accounts.name[row], accounts.dn[row], 0))
    return _asked_for(
        database, current, person, "must change", wanted, reason, confidential=confidential
    )


_TITLES: dict[AccountDeed, str] = {
    "unlocking": "Unlock {}",
    "must change": "Another password at the next sign-in for {}",
}


def _asked_for(
    database: Session,
    current: Snapshot,
    person: str,
    deed: AccountDeed,
    wanted: list[Unlocked],
    reason: str,
    *,
    confidential: bool = False,
) -> PointRow:
    domain = domain_for_writing(database, current)
    live = current.live.estate
    counted = f"{len(wanted):,} account{'s' * (len(wanted) != 1)}"
    many = wanted[0].name if len(wanted) == 1 and not confidential else counted
    point = history.add(
        database,
        domain,
        live.policies,
        live.links,
        load_domain(domain),
        kind=deed,
        title=_TITLES[deed].format(many),
        reason=reason,
        author=person,
        accounts=locks.written(wanted),
        confidential=confidential,
    )
    note(
        database,
        f"{deed} asked for",
        many,
        domain=domain.dns_name,
        accounts=[one.name for one in wanted],
        reason=reason,
    )
    database.commit()
    database.refresh(point)
    return point


def carry_out(engine: Engine, dns_name: str, number: int, where: Settings, origin: Origin) -> bool:
    """Do in the directory what a point of history wants of accounts, if somebody is set to write
    there; what comes of each is kept at the point. Whether the directory was asked.
    """
    with Session(engine) as session:
        try:
            _, given = connections.find(session, dns_name)
        except NotFoundError:
            return False
        held = session.get_one(PointRow, number)
        wanted, deed = locks.unlocked_at(held), cast(AccountDeed, held.kind)
    if given.writer is None:
        return False
    told: list[str] = []
    try:
        with linked(connections.writer(given, where)) as link:
            for said in carried_out(link, deed, [one.dn for one in wanted]):
                told.append(said)
    except (DirectoryError, ConflictError) as error:
        told += [str(error)] * (len(wanted) - len(told))
    with Session(engine) as session, session.begin():
        act_for(session, origin)
        point = session.get_one(PointRow, number, with_for_update=True)
        both = zip(wanted, told, strict=True)
        point.accounts = locks.written([replace(one, told=said) for one, said in both])
        note(
            session,
            f"{deed} in the directory",
            point.title,
            domain=dns_name,
            accounts=[one.name for one, said in zip(wanted, told, strict=True) if not said],
            refused={one.name: said for one, said in zip(wanted, told, strict=True) if said},
        )
    return True
