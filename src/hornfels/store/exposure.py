"""What is known of accounts' passwords: never a hash, nor how often it was seen."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from datetime import datetime, timedelta
from typing import Any, Literal, NamedTuple

from sqlalchemy import delete, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from hornfels.core.exposure.known import MUST_CHANGE, Kind
from hornfels.store.models import (
    ExposureDeedRow,
    ExposureOrderRow,
    ExposureRow,
    ExposureRunRow,
)

Consequence = Literal["note", "now", "within"]

KEPT = timedelta(days=730)
"""How long runs and deeds are kept."""


class Exposure(NamedTuple):
    """One thing that is known of an account's password, as long as that is the one set at a moment
    (ticks). ``group`` numbers those who share one.
    """

    rid: int
    kind: Kind
    list: str
    group: int
    since: datetime
    set_at: int


def of_domain(session: Session, domain_id: int) -> list[Exposure]:
    """All that is known in a domain."""
    row = ExposureRow
    asked = select(row.rid, row.kind, row.list, row.group, row.since, row.set_at)
    # There may be hundreds of thousands: as plain rows.
    found = session.connection().execute(asked.where(row.domain_id == domain_id))
    return list(map(Exposure._make, found.all()))


def keep(session: Session, domain_id: int, found: Iterable[Exposure], *, whole: bool) -> None:
    """Keep what was found: if everything was compared, in the place of all that was known, else
    beside it. What was known before of the same password stays since then.
    """
    before = {(one.rid, one.kind, one.list): one for one in of_domain(session, domain_id)}
    rows = []
    for one in found:
        known = before.get((one.rid, one.kind, one.list))
        same = known is not None and one.set_at in (known.set_at, MUST_CHANGE)
        since = known.since if known and same else one.since
        rows.append({"domain_id": domain_id, **one._replace(since=since)._asdict()})
    if whole:
        session.execute(delete(ExposureRow).where(ExposureRow.domain_id == domain_id))
    for start in range(0, len(rows), 10_000):
        put = insert(ExposureRow)
        changed = {name: put.excluded[name] for name in ("group", "since", "set_at")}
        session.execute(
            put.on_conflict_do_update(constraint="pk_exposures", set_=changed),
            rows[start : start + 10_000],
        )


def add_run(
    session: Session,
    domain_id: int,
    at: datetime,
    *,
    whole: bool,
    compared: int,
    unknown: int,
    found: dict[str, int],
    stamp: dict[str, Any],
) -> None:
    """Keep that accounts were compared."""
    session.add(
        ExposureRunRow(
            domain_id=domain_id,
            at=at,
            whole=whole,
            compared=compared,
            unknown=unknown,
            found=found,
            stamp=stamp,
        )
    )
    old = ExposureRunRow.domain_id == domain_id, ExposureRunRow.at < at - KEPT
    session.execute(delete(ExposureRunRow).where(*old))


def runs(session: Session, domain_id: int, most: int) -> Sequence[ExposureRunRow]:
    """The latest runs, the latest first."""
    asked = select(ExposureRunRow).where(ExposureRunRow.domain_id == domain_id)
    order = ExposureRunRow.at.desc(), ExposureRunRow.id.desc()
    return session.scalars(asked.order_by(*order).limit(most)).all()


def orders(session: Session, domain_id: int) -> dict[str, ExposureOrderRow]:
    """What becomes of exposed accounts, by the policy they are under."""
    asked = select(ExposureOrderRow).where(ExposureOrderRow.domain_id == domain_id)
    return {row.policy: row for row in session.scalars(asked)}


def set_order(
    session: Session,
    domain_id: int,
    policy: str,
    consequence: Consequence,
    days: int,
    *,
    standing: bool,
) -> None:
    """Say what becomes of exposed accounts under a policy."""
    values = {"consequence": consequence, "days": days, "standing": standing}
    put = insert(ExposureOrderRow).values(domain_id=domain_id, policy=policy, **values)
    session.execute(put.on_conflict_do_update(constraint="pk_exposure_orders", set_=values))


def add_deeds(session: Session, rows: Sequence[ExposureDeedRow]) -> None:
    """Keep what was done, once for each account of a point."""
    for row in rows:
        asked = select(ExposureDeedRow.id).where(
            ExposureDeedRow.point == row.point, ExposureDeedRow.account == row.account
        )
        if session.scalars(asked).first() is None:
            session.add(row)


def deeds(session: Session, domain_id: int, most: int) -> Sequence[ExposureDeedRow]:
    """What was done last, the latest first."""
    asked = select(ExposureDeedRow).where(ExposureDeedRow.domain_id == domain_id)
    order = ExposureDeedRow.at.desc(), ExposureDeedRow.id
    return session.scalars(asked.order_by(*order).limit(most)).all()
