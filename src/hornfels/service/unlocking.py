"""Locked accounts of a domain; unlocking them is kept in history, and carried out in the directory
where one is connected.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
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
from hornfels.directory.accounts import carried_out, passwords_set
from hornfels.directory.link import Link, linked
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
    task: str | None = None,
) -> PointRow:
    """Ask for accounts to choose another password at the next sign-in. It is written into the
    history like an unlocking, without names for everybody where it is `confidential`, as the point
    of an automatic `task` where there is one.
    """
    accounts = current.estate.accounts
    wanted = []
    for number, name in enumerate(dict.fromkeys(names)):
        row = current.estate.find_account(name)
        if row is None:
            message = f"There is no account '{name[:100]}' in this domain."
            raise FieldsError((f"accounts.{number}", message))
        wanted.append(
            Unlocked(
                int(accounts.rid[row]),
                accounts.name[row],
                accounts.dn[row],
                int(accounts.password_set[row]),
            )
        )
    return _asked_for(
        database,
        current,
        person,
        "must change",
        wanted,
        reason,
        confidential=confidential,
        task=task,
    )


CHANGED_SINCE = "The password was changed in the directory before this was carried out."

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
    task: str | None = None,
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
        task=task,
        in_directory=False,
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
    """Do in the directory what a point of history wants of the accounts that have no answer yet, if
    an account that writes there is set; keep the answers at the point. Return whether the directory
    was asked. Where the directory goes away, the accounts that remain get the error as their
    answer; at the point of an automatic task they keep none, and the `DirectoryError` or
    `ConflictError` is raised, since the task is tried again.
    """
    with Session(engine) as session:
        try:
            _, given = connections.find(session, dns_name)
        except NotFoundError:
            return False
        held = session.get_one(PointRow, number)
        all_accounts, deed = locks.unlocked_at(held), cast(AccountDeed, held.kind)
        in_task = held.task is not None
    if given.writer is None:
        return False
    wanted = [one for one in all_accounts if one.told is None]
    told: list[str] = []
    problem: DirectoryError | ConflictError | None = None
    try:
        with linked(connections.writer(given, where)) as link:
            # A task that was killed may have asked the directory already, and kept no answer.
            answers = _unless_done(link, deed, wanted) if in_task else _asked(link, deed, wanted)
            for said in answers:
                told.append(said)
    except (DirectoryError, ConflictError) as error:
        problem = error
        if not in_task:
            told += [str(error)] * (len(wanted) - len(told))
    both = list(zip(wanted, told, strict=False))
    answered = {one.dn: replace(one, told=said) for one, said in both}
    with Session(engine) as session, session.begin():
        act_for(session, origin)
        point = session.get_one(PointRow, number, with_for_update=True)
        now = [answered.get(one.dn, one) for one in all_accounts]
        point.accounts = locks.written(now)
        point.in_directory = locks.all_done(now)
        note(
            session,
            f"{deed} in the directory",
            point.title,
            domain=dns_name,
            accounts=[one.name for one, said in both if not said],
            refused={one.name: said for one, said in both if said},
        )
    if problem and in_task:
        raise problem
    return True


def _asked(link: Link, deed: AccountDeed, wanted: Sequence[Unlocked]) -> Iterator[str]:
    return carried_out(link, deed, [one.dn for one in wanted])


def _unless_done(link: Link, deed: AccountDeed, wanted: Sequence[Unlocked]) -> Iterator[str]:
    """Carry out a deed for the accounts that have the password still that is meant; yield an answer
    for each account. An account for which the deed was done already gets "".
    """
    for one in wanted:
        (password_set,) = passwords_set(link, [one.dn])
        if password_set == 0:
            yield ""
        elif password_set == one.since:
            yield from carried_out(link, deed, [one.dn])
        else:
            yield CHANGED_SINCE
