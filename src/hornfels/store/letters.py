"""Letters to people under the policies: made with the marks that keep a second one from being made,
and followed until they are out of our hands.
"""

from __future__ import annotations

import uuid
from collections.abc import Iterable, Sequence
from datetime import datetime, timedelta
from typing import Literal, NamedTuple, cast
from uuid import UUID

from sqlalchemy import delete, func, select, true, update
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from hornfels.core.mailing.due import Kind
from hornfels.store.models import LetterMarkRow, LetterRow, MailingRow

State = Literal["waiting", "sending", "sent", "refused", "uncertain", "dropped"]
"""It is to be handed over; is just being; was; is not taken by the server; may have been, for we
were cut off in the middle; is about nothing that is still so.
"""
_AT_ONCE = 5_000
KEPT = timedelta(days=400)
"""How long letters are kept."""


class About(NamedTuple):
    """One thing that a letter is about (see `hornfels.core.mailing.due.Notice`)."""

    kind: Kind
    key: str
    at: int


class Draft(NamedTuple):
    """A letter to be made."""

    rid: int
    account: str
    address: str
    language: str
    about: tuple[About, ...]


Mark = tuple[int, Kind, str]


def mailing_of(session: Session, domain_id: int, *, for_writing: bool = False) -> MailingRow | None:
    return session.get(MailingRow, domain_id, with_for_update=for_writing or None)


def marks(session: Session, domain_id: int) -> set[Mark]:
    """All that people were written about."""
    row = LetterMarkRow
    asked = select(row.rid, row.kind, row.key).where(row.domain_id == domain_id)
    return {(rid, cast(Kind, kind), key) for rid, kind, key in session.execute(asked)}


def mark(session: Session, domain_id: int, given: Iterable[Mark], now: datetime) -> None:
    """Nobody is to be written about this any more."""
    rows = [
        {"domain_id": domain_id, "rid": rid, "kind": kind, "key": key, "at": now}
        for rid, kind, key in given
    ]
    for start in range(0, len(rows), _AT_ONCE):
        session.execute(
            insert(LetterMarkRow).on_conflict_do_nothing(), rows[start : start + _AT_ONCE]
        )


def unmark(session: Session, domain_id: int, given: Iterable[Mark]) -> None:
    """Should it be so once more, it is written about once more."""
    row = LetterMarkRow
    for rid, kind, key in given:
        session.execute(
            delete(row).where(
                row.domain_id == domain_id, row.rid == rid, row.kind == kind, row.key == key
            )
        )


def make(session: Session, domain_id: int, drafts: Sequence[Draft], now: datetime) -> None:
    """Make letters, and mark what they are about."""
    rows = [
        {
            "id": uuid.uuid4(),
            "domain_id": domain_id,
            "rid": one.rid,
            "account": one.account,
            "address": one.address,
            "language": one.language,
            "about": [list(about) for about in one.about],
            "state": "waiting",
            "tries": 0,
            "told": "",
            "made_at": now,
            "changed_at": now,
        }
        for one in drafts
    ]
    for start in range(0, len(rows), _AT_ONCE):
        session.execute(insert(LetterRow), rows[start : start + _AT_ONCE])
    given = ((one.rid, about.kind, about.key) for one in drafts for about in one.about)
    mark(session, domain_id, given, now)


def about_of(row: LetterRow) -> list[About]:
    return [About(cast(Kind, kind), key, at) for kind, key, at in row.about]


def cut_off(session: Session, domain_id: int, now: datetime) -> int:
    """Letters that were just being handed over by who has gone: nobody knows whether they went, and
    they are not sent once more. How many.
    """
    told = "Hornfels was cut off while it was handed over: it may have gone."
    ended = (
        update(LetterRow)
        .where(LetterRow.domain_id == domain_id, LetterRow.state == "sending")
        .values(state="uncertain", told=told, changed_at=now)
        .returning(LetterRow.id)
    )
    return len(session.execute(ended).all())


def waiting(session: Session, domain_id: int) -> list[UUID]:
    """What is to be handed over, the oldest first."""
    asked = (
        select(LetterRow.id)
        .where(LetterRow.domain_id == domain_id, LetterRow.state == "waiting")
        .order_by(LetterRow.made_at, LetterRow.id)
    )
    return list(session.scalars(asked))


def become(row: LetterRow, state: State, now: datetime, told: str = "") -> None:
    row.state, row.told, row.changed_at = state, told, now


def latest(session: Session, domain_id: int, account: str, most: int) -> Sequence[LetterRow]:
    """The latest letters, those to one account where it is named."""
    asked = select(LetterRow).where(LetterRow.domain_id == domain_id)
    if account:
        asked = asked.where(func.lower(LetterRow.account) == account.lower())
    return session.scalars(
        asked.order_by(LetterRow.made_at.desc(), LetterRow.account, LetterRow.id).limit(most)
    ).all()


def counted(session: Session, domain_id: int, since: datetime) -> dict[State, int]:
    """How many letters there are in each state since a moment."""
    asked = (
        select(LetterRow.state, func.count())
        .where(LetterRow.domain_id == domain_id, LetterRow.made_at >= since)
        .group_by(LetterRow.state)
    )
    return {cast(State, state): many for state, many in session.execute(asked)}


def sent_about(session: Session, domain_id: int, since: datetime) -> dict[Kind, int]:
    """How many letters that were handed over since a moment were about each kind of thing."""
    # Row by row beside its letter.
    one = func.jsonb_array_elements(LetterRow.about).table_valued("value").lateral()
    kind = one.c.value.op("->>")(0)
    asked = (
        select(kind, func.count())
        .select_from(LetterRow)
        .join(one, true())
        .where(
            LetterRow.domain_id == domain_id, LetterRow.made_at >= since, LetterRow.state == "sent"
        )
        .group_by(kind)
    )
    return {cast(Kind, found): many for found, many in session.execute(asked)}


def sweep(session: Session, domain_id: int, now: datetime) -> None:
    """Forget letters that are old, and marks of what cannot be so once more; what can be so for
    years stays marked.
    """
    row = LetterMarkRow
    past = row.kind.in_(("expiring", "policy changed"))
    session.execute(delete(row).where(row.domain_id == domain_id, past, row.at < now - KEPT))
    session.execute(
        delete(LetterRow).where(LetterRow.domain_id == domain_id, LetterRow.made_at < now - KEPT)
    )
