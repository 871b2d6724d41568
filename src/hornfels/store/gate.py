"""Who may ask at a domain's gate, what came of it, and when passwords end that came through."""

from __future__ import annotations

import secrets
import uuid
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import UTC, date, datetime, timedelta
from typing import Any, Literal, NamedTuple, get_args
from uuid import UUID

from sqlalchemy import Integer, delete, func, select, type_coerce, update
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from hornfels.core.gate.lifetimes import Passed
from hornfels.core.gate.record import Record
from hornfels.core.values.dn import name_key
from hornfels.core.values.time import DAY, datetime_from_moment
from hornfels.refusals import NotFoundError
from hornfels.store.models import DomainRow, GateAnswerRow, GateCallerRow, GateEndRow
from hornfels.store.sessions import digest

CallerKind = Literal["hook", "filter", "portal"]
"""A directory server that asks only where complexity is on, one that asks about every password, or
a page elsewhere on which people change theirs.
"""
CALLER_KINDS: tuple[CallerKind, ...] = get_args(CallerKind)
ENFORCING: frozenset[str] = frozenset({"hook", "filter"})
"""The kinds that no password gets past, wherever it is set."""

GATE_MARK = "hfg_"
KEPT = timedelta(days=180)
"""How long the record of answers is kept."""
_FIRST_DAY = date(1601, 1, 1)
"""On which moments begin to be counted."""


@dataclass(frozen=True, slots=True)
class Caller:
    """Who asks, for which domain."""

    id: UUID
    domain_id: int
    domain: str
    title: str
    kind: str


def caller_of(session: Session, token: str) -> Caller | None:
    """Who comes with this token, None for nobody."""
    found = session.execute(
        select(GateCallerRow, DomainRow.dns_name)
        .join(DomainRow, DomainRow.id == GateCallerRow.domain_id)
        .where(GateCallerRow.digest == digest(token))
    ).first()
    if found is None:
        return None
    row, dns_name = found
    return Caller(row.id, row.domain_id, dns_name, row.title, row.kind)


def fresh_token() -> str:
    """The text of a new token for a caller."""
    return GATE_MARK + secrets.token_urlsafe(32)


def make_caller(
    session: Session, domain_id: int, title: str, kind: CallerKind, person: str
) -> tuple[GateCallerRow, str]:
    """A caller and the text of its token, which nobody can see again."""
    text = fresh_token()
    return add_caller(session, domain_id, title, kind, person, digest(text)), text


def add_caller(
    session: Session, domain_id: int, title: str, kind: CallerKind, person: str, token: bytes
) -> GateCallerRow:
    """A caller by the digest of its token."""
    row = GateCallerRow(
        id=uuid.uuid4(),
        domain_id=domain_id,
        digest=token,
        title=title,
        kind=kind,
        made_by=person,
    )
    session.add(row)
    session.flush()
    return row


def callers_of(session: Session, domain_id: int) -> Sequence[GateCallerRow]:
    """The callers of a domain, by their titles."""
    asked = select(GateCallerRow).where(GateCallerRow.domain_id == domain_id)
    return session.scalars(asked.order_by(GateCallerRow.title)).all()


def find_caller(session: Session, domain_id: int, number: UUID) -> GateCallerRow:
    """Raises `NotFoundError` where the domain has no such caller."""
    row = session.get(GateCallerRow, number)
    if row is None or row.domain_id != domain_id:
        raise NotFoundError("There is no such caller any more.")
    return row


def drop_caller(session: Session, domain_id: int, number: UUID) -> GateCallerRow:
    """Raises `NotFoundError` where the domain has no such caller."""
    row = find_caller(session, domain_id, number)
    session.delete(row)
    session.flush()
    return row


def kinds_of(session: Session, domain_id: int) -> frozenset[str]:
    """The kinds of callers that a domain has."""
    asked = select(GateCallerRow.kind).where(GateCallerRow.domain_id == domain_id)
    return frozenset(session.scalars(asked))


def seen(session: Session, caller: UUID, at: datetime, told: dict[str, Any] | None = None) -> None:
    """A caller has been heard of; ``told`` is what it says of itself."""
    values: dict[str, Any] = {"seen_at": func.greatest(GateCallerRow.seen_at, at)}
    if told is not None:
        values["told"] = told
    session.execute(update(GateCallerRow).where(GateCallerRow.id == caller).values(**values))


def keep(session: Session, domain_id: int, caller: str, records: Sequence[Record]) -> None:
    """Keep what came of a caller's questions; what is kept already is passed over."""
    if not records:
        return
    answers = [
        {
            "id": one.id,
            "domain_id": domain_id,
            "caller": caller,
            "at": datetime_from_moment(one.at) or datetime.now(UTC),
            "account": one.account,
            "operation": one.operation,
            "outcome": one.outcome,
            "policy": one.policy,
            "rules": list(one.rules),
            "took": one.took,
        }
        for one in records
    ]
    session.execute(insert(GateAnswerRow).on_conflict_do_nothing(), answers)
    ends = [
        {
            "domain_id": domain_id,
            "account": name_key(one.account),
            "at": one.at,
            "ends_on": day.date(),
        }
        for one in records
        if one.ends is not None and (day := datetime_from_moment(one.ends))
    ]
    if ends:
        session.execute(insert(GateEndRow).on_conflict_do_nothing(), ends)


def answers(session: Session, domain_id: int, account: str, most: int) -> Sequence[GateAnswerRow]:
    """The latest answers, those about one account where it is named, the latest first."""
    asked = select(GateAnswerRow).where(GateAnswerRow.domain_id == domain_id)
    if account:
        asked = asked.where(func.lower(GateAnswerRow.account) == account.lower())
    order = GateAnswerRow.at.desc(), GateAnswerRow.id
    return session.scalars(asked.order_by(*order).limit(most)).all()


class Counted(NamedTuple):
    """Answers of one outcome to one caller: how many, how long the slowest took (microseconds)."""

    caller: str
    outcome: str
    many: int
    slowest: int


def counted(session: Session, domain_id: int, since: datetime) -> list[Counted]:
    """The answers since a moment, counted."""
    many, slowest = func.count(), func.max(GateAnswerRow.took)
    asked = select(GateAnswerRow.caller, GateAnswerRow.outcome, many, slowest)
    asked = asked.where(GateAnswerRow.domain_id == domain_id, GateAnswerRow.at > since)
    rows = session.execute(asked.group_by(GateAnswerRow.caller, GateAnswerRow.outcome))
    return [Counted(*row) for row in rows]


def passed(session: Session, domain_id: int, account: str | None = None) -> Iterable[Passed]:
    """What is kept of passwords that came through, of one account where it is named."""
    # Counted by the database: a million dates are slow to make.
    days = type_coerce(GateEndRow.ends_on - _FIRST_DAY, Integer)
    asked = select(GateEndRow.account, GateEndRow.at, days)
    asked = asked.where(GateEndRow.domain_id == domain_id)
    if account is not None:
        asked = asked.where(GateEndRow.account == name_key(account))
    for name, at, day in session.execute(asked):
        yield Passed(name, at, day * DAY)


def sweep(session: Session) -> None:
    """Forget answers that are old, and days that are long over."""
    now = datetime.now(UTC)
    session.execute(delete(GateAnswerRow).where(GateAnswerRow.at < now - KEPT))
    session.execute(delete(GateEndRow).where(GateEndRow.ends_on < (now - KEPT).date()))
