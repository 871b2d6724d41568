"""Servers with templates of their own: their sets, what each template said, and since when."""

from __future__ import annotations

import zlib
from collections.abc import Sequence
from datetime import datetime
from typing import Any

from sqlalchemy import delete, func, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from hornfels.core.policy.catalogue import Template
from hornfels.core.servers.course import Reading
from hornfels.refusals import ConflictError, NotFoundError
from hornfels.store.models import ServerReadingRow, ServerRow, ServerSetRow
from hornfels.store.trail import note

MOST_SETS = 50
MOST_SERVERS = 500
MOST_READINGS = 200
"""Readings of one server that are kept, the newest."""


def sets(session: Session, domain_id: int) -> Sequence[ServerSetRow]:
    """The sets of a domain, by name."""
    asked = select(ServerSetRow).where(ServerSetRow.domain_id == domain_id)
    return session.scalars(asked.order_by(ServerSetRow.key)).all()


def find(
    session: Session, domain_id: int, number: int, *, for_writing: bool = False
) -> ServerSetRow:
    """A set by its number; held until the transaction ends if it is to change. Raises
    `NotFoundError`.
    """
    row = session.get(ServerSetRow, number, with_for_update=for_writing, populate_existing=True)
    if row is None or row.domain_id != domain_id:
        raise NotFoundError("This set of servers is not there, or no longer.")
    return row


def make(session: Session, domain_id: int, name: str) -> ServerSetRow:
    """The set of that name, made if it is not there yet; held until the transaction ends. Raises
    `ConflictError` where there are too many.
    """
    key = name.casefold()
    asked = select(ServerSetRow).where(ServerSetRow.domain_id == domain_id, ServerSetRow.key == key)
    row = session.scalars(asked.with_for_update()).one_or_none()
    if row:
        return row
    if len(sets(session, domain_id)) >= MOST_SETS:
        raise ConflictError(f"A domain has at most {MOST_SETS} sets of servers. Drop one first.")
    values = {"domain_id": domain_id, "key": key, "name": name, "agreed_by": ""}
    session.execute(insert(ServerSetRow).values(values).on_conflict_do_nothing())
    note(session, "set of servers made", name, domain=domain_id)
    return session.scalars(asked.with_for_update()).one()


def servers(session: Session, number: int) -> Sequence[ServerRow]:
    """The servers of a set, by name."""
    asked = select(ServerRow).where(ServerRow.set_id == number)
    return session.scalars(asked.order_by(ServerRow.key)).all()


def server(session: Session, number: int, name: str) -> ServerRow:
    """Raises `NotFoundError`."""
    row = session.get(ServerRow, (number, name.casefold()))
    if row is None:
        raise NotFoundError("This server is not in the set, or no longer.")
    return row


def keep(
    session: Session,
    group: ServerSetRow,
    name: str,
    read: Template | None,
    problem: str,
    file: bytes | None,
    *,
    seen: str = "",
    at: datetime | None = None,
) -> ServerRow:
    """Keep what was read of a server, or why nothing could be; `group` is held for writing. Raises
    `ConflictError` where there are too many servers.
    """
    template: dict[str, Any] | None = None if read is None else dict(read.items())
    key = name.casefold()
    row = session.get(ServerRow, (group.id, key))
    is_new = row is None
    if row is None:
        count = session.scalar(
            select(func.count()).select_from(ServerRow).where(ServerRow.set_id == group.id)
        )
        if count is not None and count >= MOST_SERVERS:
            raise ConflictError(
                f"A set has at most {MOST_SERVERS} servers. Make another set for {name}."
            )
        row = ServerRow(set_id=group.id, key=key, name=name)
        session.add(row)
    if is_new or (row.template, row.problem) != (template, problem):
        note(
            session,
            "server’s template read",
            f"{name} in {group.name}",
            domain=group.domain_id,
            before=None if is_new else row.template,
            after=template,
            problem=problem,
        )
        row.template, row.problem = template, problem
        session.flush()
        values = {"set_id": group.id, "key": key, "template": template, "problem": problem}
        session.add(ServerReadingRow(**values, **({"at": at} if at else {})))
        _forget_oldest(session, group.id, key)
    row.file = None if file is None else zlib.compress(file)
    row.seen = seen
    row.read_at = at or func.now()
    session.flush()
    return row


def file_of(row: ServerRow) -> bytes:
    """The file that was read last, as it was."""
    return zlib.decompress(row.file) if row.file else b""


def _forget_oldest(session: Session, number: int, key: str) -> None:
    session.flush()
    of_server = (ServerReadingRow.set_id == number, ServerReadingRow.key == key)
    oldest = (
        select(ServerReadingRow.id)
        .where(*of_server)
        .order_by(ServerReadingRow.id.desc())
        .offset(MOST_READINGS)
    )
    session.execute(delete(ServerReadingRow).where(ServerReadingRow.id.in_(oldest)))


def readings(session: Session, number: int) -> list[Reading]:
    """Every reading of a set that is kept, in the order in which they were made."""
    asked = (
        select(ServerReadingRow.at, ServerReadingRow.key, ServerReadingRow.template)
        .where(ServerReadingRow.set_id == number)
        .order_by(ServerReadingRow.at, ServerReadingRow.id)
    )
    return [Reading(at, key, template) for at, key, template in session.execute(asked)]


def readings_of(session: Session, row: ServerRow) -> Sequence[ServerReadingRow]:
    """What one server's template said, the newest first."""
    asked = select(ServerReadingRow).where(
        ServerReadingRow.set_id == row.set_id, ServerReadingRow.key == row.key
    )
    newest = (ServerReadingRow.at.desc(), ServerReadingRow.id.desc())
    return session.scalars(asked.order_by(*newest)).all()


def drop(session: Session, group: ServerSetRow) -> None:
    note(session, "set of servers dropped", group.name, domain=group.domain_id)
    session.delete(group)


def drop_server(session: Session, group: ServerSetRow, name: str) -> None:
    """Take a server out of its set. What was agreed on stays; if it was the reference, most of the
    others are. Raises `NotFoundError`.
    """
    row = server(session, group.id, name)
    note(session, "server taken out", f"{row.name} in {group.name}", domain=group.domain_id)
    if group.like_server == row.key:
        group.like_server = None
    session.delete(row)
