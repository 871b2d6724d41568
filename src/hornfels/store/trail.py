"""The trail: who did what, from where, before and after. Entries are chained, so that one that was
changed or taken out shows.

An entry is written at the end of the transaction that did what it tells of, or not at all. What may
never stand in one: a candidate, a password, a hash.
"""

from __future__ import annotations

import contextlib
import hashlib
import json
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field
from datetime import UTC, datetime, timedelta
from typing import Any, NamedTuple

from sqlalchemy import event, select, text
from sqlalchemy.orm import Session

from hornfels.store.models import DomainRow, EntryRow, StumpRow
from hornfels.store.storable import storable

MOST_DETAIL = 20_000
"""Characters of what was before and after; what is longer is cut, and says so."""

FIRST = hashlib.sha256(b"").digest()
"""What the first entry is chained to."""

_ADDED = text(
    "INSERT INTO public.trail (person, address, request, domain, what, about, detail) "
    "VALUES (:person, :address, :request, :domain, :what, :about, :detail)"
)
"""Number, moment and digests are the database's to make."""

_EPOCH = datetime(1970, 1, 1, tzinfo=UTC)


class Origin(NamedTuple):
    """Who acts, from where, and in which request."""

    person: str
    address: str = ""
    request: str = ""


_PROGRAM = Origin("Hornfels")
"""Nobody in particular: the program itself."""


def act_for(session: Session, origin: Origin) -> None:
    """From now on the session's entries are this person's."""
    session.info["origin"] = origin


def note(
    session: Session,
    what: str,
    about: str = "",
    *,
    domain: str | int = "",
    person: str | None = None,
    **detail: Any,
) -> None:
    """Say what the session is just doing; it is written when it commits, and forgotten if it rolls
    back. ``domain`` is a name or a domain's row id; ``detail`` is what can be written as JSON, such
    as `before`, `after` and `reason`.
    """
    if isinstance(domain, int):
        row = session.get(DomainRow, domain)
        domain = row.dns_name if row else ""
    origin: Origin = session.info.get("origin", _PROGRAM)
    session.info.setdefault("trail", []).append(
        {
            "person": _text(origin.person if person is None else person),
            "address": _text(origin.address),
            "request": _text(origin.request),
            "domain": _text(domain),
            "what": _text(what),
            "about": _text(about),
            "detail": _written(detail),
        }
    )


def _written(detail: dict[str, Any]) -> str:
    given = {key: value for key, value in detail.items() if value not in (None, "")}
    # As escapes: what no text of a database can hold is told all the same.
    told = json.dumps(given, sort_keys=True, default=str)
    if len(told) > MOST_DETAIL:
        told = json.dumps({"cut": told[:MOST_DETAIL], "characters": len(told)})
    return told


def _text(value: str) -> str:
    return storable(value)[:500]


@event.listens_for(Session, "before_commit")
def _write(session: Session) -> None:
    entries = session.info.pop("trail", None)
    if entries:
        # Last of all: from here to the commit nobody else adds an entry.
        session.flush()
        for entry in entries:
            session.execute(_ADDED, entry)


@event.listens_for(Session, "after_rollback")
def _forget(session: Session) -> None:
    session.info.pop("trail", None)


@dataclass(frozen=True, slots=True)
class Wanted:
    """Which entries: those of one person, domain or kind of deed, with these words, between two
    moments; ``domains`` are those that may be seen, None for all.
    """

    person: str = ""
    domain: str = ""
    what: str = ""
    words: str = ""
    since: datetime | None = None
    until: datetime | None = None
    domains: frozenset[str] | None = field(default=None)


def entries(
    session: Session, wanted: Wanted, *, before: int | None = None, most: int | None = None
) -> list[EntryRow]:
    """The latest first, from the one before the entry numbered `before`."""
    asked = select(EntryRow).order_by(EntryRow.id.desc())
    if before is not None:
        asked = asked.where(EntryRow.id < before)
    for column, value in (
        (EntryRow.person, wanted.person),
        (EntryRow.domain, wanted.domain),
    ):
        if value:
            asked = asked.where(column == value)
    if wanted.what:
        asked = asked.where(EntryRow.what.startswith(wanted.what, autoescape=True))
    for word in wanted.words.split():
        found = (EntryRow.about, EntryRow.what, EntryRow.person, EntryRow.detail)
        either = found[0].icontains(word, autoescape=True)
        for column in found[1:]:
            either = either | column.icontains(word, autoescape=True)
        asked = asked.where(either)
    if wanted.since:
        asked = asked.where(EntryRow.at >= wanted.since)
    if wanted.until:
        asked = asked.where(EntryRow.at < wanted.until)
    if wanted.domains is not None:
        asked = asked.where(EntryRow.domain.in_(wanted.domains))
    return list(session.scalars(asked.limit(most) if most is not None else asked))


def head(session: Session) -> tuple[int, str]:
    """The number of the last entry and its digest, to be kept elsewhere: entries cut off at the end
    show only against it.
    """
    last = session.execute(
        select(EntryRow.id, EntryRow.digest).order_by(EntryRow.id.desc()).limit(1)
    ).first()
    stump = None if last else session.scalars(_stumps().limit(1)).first()
    if last:
        return last.id, last.digest.hex()
    return (stump.id, stump.digest.hex()) if stump else (0, FIRST.hex())


def digest_at(session: Session, number: int) -> str | None:
    """The digest of the entry of this number, or of the stump it has become; None if it is gone."""
    for table in (EntryRow, StumpRow):
        found = session.scalar(select(table.digest).where(table.id == number))
        if found is not None:
            return found.hex()
    return None


def _stumps() -> Any:
    return select(StumpRow).order_by(StumpRow.id.desc())


class Link(NamedTuple):
    """What an entry's place in the chain is computed from."""

    id: int
    at: datetime
    parts: tuple[str, ...]
    previous: bytes
    digest: bytes


def digest_of(link: Link) -> bytes:
    """What the entry's digest has to be: SHA-256 of the one before it, then number, microseconds
    since 1970, and all texts, each with its length in bytes and a colon before it.
    """
    microseconds = (link.at - _EPOCH) // timedelta(microseconds=1)
    body = b"".join(
        b"%d:%b" % (len(part), part)
        for part in (one.encode() for one in (str(link.id), str(microseconds), *link.parts))
    )
    return hashlib.sha256(link.previous + body).digest()


def links(session: Session) -> Iterator[Link]:
    """All entries in order."""
    columns = select(
        EntryRow.id,
        EntryRow.at,
        EntryRow.previous,
        EntryRow.digest,
        EntryRow.person,
        EntryRow.address,
        EntryRow.request,
        EntryRow.domain,
        EntryRow.what,
        EntryRow.about,
        EntryRow.detail,
    ).order_by(EntryRow.id)
    with contextlib.closing(session.execute(columns.execution_options(yield_per=5000))) as rows:
        for number, at, previous, digest, *parts in rows:
            yield Link(number, at, tuple(parts), previous, digest)


def first_break(chain: Iterable[Link], start: tuple[int, bytes] = (0, FIRST)) -> str:
    """What is wrong with the first entry that was changed or is missing after `start`; empty where
    the chain is whole.
    """
    number, last = start
    for link in chain:
        if link.id != number + 1:
            return f"Entry {number + 1} is missing."
        if link.previous != last or digest_of(link) != link.digest:
            return f"Entry {link.id} was changed, or the one before it was."
        number, last = link.id, link.digest
    return ""
