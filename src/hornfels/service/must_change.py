"""Accounts that are told to choose another password, whoever wants it of them and why: only those
that have the password still that was read.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from sqlalchemy import Engine
from sqlalchemy.orm import Session

from hornfels.core.domain.estate import Int64
from hornfels.directory.accounts import passwords_set
from hornfels.directory.link import linked
from hornfels.directory.reach import DirectoryError
from hornfels.refusals import ConflictError, NotFoundError
from hornfels.service import connections, unlocking
from hornfels.service.connections import Connection
from hornfels.service.snapshots import Snapshot
from hornfels.settings import Settings
from hornfels.store import history
from hornfels.store.locks import Unlocked, unlocked_at
from hornfels.store.models import PointRow
from hornfels.store.trail import Origin, act_for

_Told = Callable[[str, int, int], None]


@dataclass(frozen=True, slots=True)
class Done:
    """What came of it: the accounts that had the password still, each with the directory's word
    (“” where it has done it, None where it was not asked), the point in history, if there is one,
    and why the directory was asked no further by an automatic task.
    """

    accounts: tuple[Unlocked, ...] = ()
    point: int | None = None
    problem: DirectoryError | ConflictError | None = None

    @property
    def done(self) -> int:
        """The number of accounts that must change the password, as the directory says."""
        return sum(one.told == "" for one in self.accounts)

    @property
    def pending(self) -> int:
        """The number of accounts that wait in change records."""
        return sum(one.told is None for one in self.accounts)

    @property
    def refused(self) -> list[str]:
        """The directory's words about those that it did not tell."""
        return [one.told for one in self.accounts if one.told]


def connection(engine: Engine, current: Snapshot) -> Connection | None:
    """How the domain's directory is reached, where somebody is set to write there."""
    with Session(engine) as session:
        try:
            given = connections.find(session, current.estate.domain.dns_name)[1]
        except NotFoundError:
            return None
    return given if given.writer else None


def tell(
    engine: Engine,
    current: Snapshot,
    rows: Int64,
    person: str,
    reason: str,
    where: Settings,
    origin: Origin,
    *,
    task: str | None = None,
    confidential: bool = False,
    progress: _Told = lambda _step, _done, _whole: None,
) -> Done:
    """Require a password change of the accounts in `rows` whose password is still the one that was
    synced: in the directory where one is connected, else by the change records of the point in
    history, which is `confidential` where the passwords are compromised. An automatic `task` that
    was killed continues with its point; then `rows` do not matter. Raises `DirectoryError` and
    `ConflictError` where the directory does not answer at all.
    """
    point = _point_of(engine, current, task)
    if point is None:
        names = [
            current.estate.accounts.name[row]
            for row in _still(engine, current, rows, where, progress).tolist()
        ]
        if not names:
            return Done()
        with Session(engine) as session:
            act_for(session, origin)
            point = unlocking.have_changed(
                session, current, person, names, reason, confidential=confidential, task=task
            ).id
    problem: DirectoryError | ConflictError | None = None
    try:
        unlocking.carry_out(engine, current.live.estate.domain.dns_name, point, where, origin)
    except (DirectoryError, ConflictError) as error:
        problem = error
    with Session(engine) as session:
        accounts = unlocked_at(session.get_one(PointRow, point))
    return Done(tuple(accounts), point, problem)


def _point_of(engine: Engine, current: Snapshot, task: str | None) -> int | None:
    if task is None:
        return None
    with Session(engine) as session:
        found = history.of_task(session, current.domain_id, task)
        return found.id if found else None


def _still(
    engine: Engine, current: Snapshot, rows: Int64, where: Settings, progress: _Told
) -> Int64:
    """Return the rows of the accounts that have the password still that was read, as far as a
    directory can be asked.
    """
    given, accounts = connection(engine, current), current.estate.accounts
    if given is None or not len(rows):
        return rows
    with linked(connections.writer(given, where)) as link:
        present = passwords_set(link, (accounts.dn[row] for row in rows.tolist()))
        found = []
        for number, (row, set_at) in enumerate(zip(rows.tolist(), present, strict=True)):
            progress("looking", number, len(rows))
            if set_at == int(accounts.password_set[row]):
                found.append(row)
    return np.array(found, np.int64)
