"""What becomes of accounts whose passwords others know: by the policy they are under, done by
somebody who has looked at it or by standing order, and kept on record.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any, cast

import numpy as np
from sqlalchemy import Engine
from sqlalchemy.orm import Session

from hornfels.core.domain.must_change import may_be_told
from hornfels.core.domain.wording import ref_of
from hornfels.core.exposure.known import Known
from hornfels.core.policy.model import PolicyRef
from hornfels.core.resolution.engine import DOMAIN_POLICY
from hornfels.core.values.time import DAY, datetime_from_moment
from hornfels.directory.reach import DirectoryError
from hornfels.refusals import ChangedMeanwhileError, ConflictError, FieldsError, NotFoundError
from hornfels.service import acts, connections, exposure, lifetimes, must_change
from hornfels.service.naming import policy_name, policy_number
from hornfels.service.reading import BY_ITSELF
from hornfels.service.snapshots import Snapshot, Snapshots
from hornfels.settings import Settings
from hornfels.store import exposure as kept
from hornfels.store.exposure import Consequence
from hornfels.store.models import DomainRow, ExposureDeedRow
from hornfels.store.trail import Origin, note

MOST_DAYS = 365
_WAITS = "No directory is connected: it waits in the change records of its point in the history."


@dataclass(frozen=True, slots=True)
class Order:
    """What becomes of exposed accounts under a policy, and whether without anybody's word."""

    consequence: Consequence = "note"
    days: int = 0
    standing: bool = False


def orders(database: Session, current: Snapshot) -> dict[str, Order]:
    """The orders of a domain by the policy."""
    found = kept.orders(database, current.domain_id)
    return {
        policy: Order(cast(Consequence, row.consequence), row.days, row.standing)
        for policy, row in found.items()
    }


def choose(
    database: Session,
    current: Snapshot,
    policy: PolicyRef,
    order: Order,
    reason: str,
    person: str,
) -> None:
    """Say what becomes of exposed accounts under a policy; where approval is required, once a
    second person agrees. Raises `FieldsError` for days that cannot be, and `ConflictError` for a
    standing order where nobody writes into the directory.
    """
    dns_name = current.estate.domain.dns_name
    if policy != "domain" and policy not in current.live.index:
        raise NotFoundError("There is no such policy any more.")
    if order.consequence == "within" and not 1 <= order.days <= MOST_DAYS:
        raise FieldsError(("days", f"Between 1 and {MOST_DAYS} days."))
    if order.standing and order.consequence != "note" and not _possible(database, dns_name):
        raise ConflictError(
            "For a standing order, connect the directory with an account that writes (Sources)."
        )
    days = order.days if order.consequence == "within" else 0
    standing = order.standing and order.consequence != "note"
    number = policy_number(current.live, str(policy))
    name = policy_name(current.live, DOMAIN_POLICY if number is None else number)
    what = f"{order.consequence}{f' {days} days' if days else ''}{', standing' if standing else ''}"
    acts.ask(
        database,
        person,
        "exposure order",
        dns_name,
        reason,
        policy=str(policy),
        consequence=order.consequence,
        days=days,
        standing=standing,
        said=f"Compromised passwords under {name}: {what}",
        effect="",
    )


def apply_setting(
    session: Session, row: DomainRow, arguments: Mapping[str, Any], _person: str
) -> acts.Done:
    """Keep the order for one policy of a domain, which is held for writing."""
    kept.set_order(
        session,
        row.id,
        arguments["policy"],
        arguments["consequence"],
        arguments["days"],
        standing=arguments["standing"],
    )
    note(session, "exposure order", arguments["said"], domain=row.dns_name)
    return acts.Done()


def _possible(database: Session, dns_name: str) -> bool:
    try:
        return connections.find(database, dns_name)[1].writer is not None
    except NotFoundError:
        return False


@dataclass(frozen=True, slots=True)
class Due:
    """An account that has to choose another password by its policy's order, from a moment on."""

    row: int
    policy: str
    at: datetime
    standing: bool


def due(database: Session, current: Snapshot, found: Known) -> list[Due]:
    """Whom it concerns, the earliest first; never those that may not be told to
    (`hornfels.core.domain.must_change`), nor those who only share a password.
    """
    held = orders(database, current)
    spared = lifetimes.never_these(database, current)
    rows, since = found.exposed.earliest()
    may = may_be_told(current.estate, rows, spared)
    winners = current.resolution.winner_of_account[rows]
    wanted = []
    for policy in np.unique(winners).tolist():
        ref = str(ref_of(current.estate, policy))
        order = held.get(ref, Order())
        if order.consequence == "note":
            continue
        here = np.flatnonzero(may & (winners == policy))
        for row, begun in zip(rows[here].tolist(), since[here].tolist(), strict=True):
            at = datetime_from_moment(begun + order.days * DAY)
            if at is not None:
                wanted.append(Due(row, ref, at, order.standing))
    return sorted(wanted, key=lambda one: (one.at, one.row))


def carry_out(
    engine: Engine,
    current: Snapshot,
    chosen: Sequence[Due],
    person: str,
    reason: str,
    where: Settings,
    origin: Origin,
    task: str | None = None,
) -> must_change.Done:
    """Have these accounts choose another password at the next sign-in, where a directory is
    connected at once, else by the change records of the point in history; return what came of it.
    Whoever has another password there by now than was read is refused. An automatic `task` that was
    killed goes on where it was. Raises `ConflictError` where the directory cannot be asked.
    """
    try:
        done = must_change.tell(
            engine,
            current,
            np.array([one.row for one in chosen], np.int64),
            person,
            reason,
            where,
            origin,
            task=task,
            confidential=True,
        )
    except DirectoryError as error:
        raise ConflictError(f"Nobody was told: {error}") from None
    with Session(engine) as session, session.begin():
        kept.add_deeds(
            session,
            [
                ExposureDeedRow(
                    domain_id=current.domain_id,
                    at=datetime.now(UTC),
                    by=person,
                    account=one.name,
                    policy=_policy_of(current, one.name),
                    told=_WAITS if one.told is None else one.told,
                    point=done.point,
                )
                for one in done.accounts
                if one.told is not None or done.problem is None
            ],
        )
    if done.problem:
        raise done.problem
    return done


def _policy_of(current: Snapshot, name: str) -> str:
    row = current.estate.find_account(name)
    policy = DOMAIN_POLICY if row is None else int(current.resolution.winner_of_account[row])
    return str(ref_of(current.estate, policy))


def confirm(
    engine: Engine,
    current: Snapshot,
    accounts: Sequence[str],
    person: str,
    reason: str,
    now: datetime,
    where: Settings,
    origin: Origin,
) -> must_change.Done:
    """Do what the orders want of these accounts, as somebody has seen it. Raises
    `ChangedMeanwhileError` if one of them is not due any more.
    """
    why = acts.reasoned(reason)
    with Session(engine) as session:
        found = exposure.known(session, current)
        wanted = {
            current.estate.accounts.name[one.row]: one
            for one in due(session, current, found)
            if one.at <= now
        }
    for name in accounts:
        if name not in wanted:
            raise ChangedMeanwhileError(
                f"Nothing was done: {name[:100]} is not due any more. Look at the plan again."
            )
    chosen = [wanted[name] for name in dict.fromkeys(accounts)]
    return carry_out(engine, current, chosen, person, why, where, origin)


def by_standing_order(
    engine: Engine, dns_name: str, now: datetime, where: Settings, origin: Origin, task: str
) -> int:
    """Carry out the standing orders that are due, and return the number of accounts. An automatic
    `task` that was killed continues with its point in history.
    """
    current = Snapshots(engine).of(dns_name)
    if current is None:
        return 0
    with Session(engine) as session:
        found = exposure.known(session, current)
        chosen = [o for o in due(session, current, found) if o.standing and o.at <= now]
        row = session.get_one(DomainRow, current.domain_id)
        if not _possible(session, row.dns_name):
            return 0
    reason = "Their passwords are known to others; standing order of their policies."
    done = carry_out(engine, current, chosen, BY_ITSELF, reason, where, origin, task)
    return len(done.accounts)
