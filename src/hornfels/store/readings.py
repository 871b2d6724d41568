"""What was read of a directory, object by object, so that the next reading needs only what has
changed.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping

import msgpack
from sqlalchemy import delete, text
from sqlalchemy.orm import Session

from hornfels.store.bulk import driver
from hornfels.store.models import ReadingEntryRow, ReadingRow

Held = tuple[str, dict[str, list[bytes]]]
"""An object's DN and its values by lower-cased attribute name."""


def of_domain(session: Session, dns_name: str, *, for_writing: bool = False) -> ReadingRow | None:
    return session.get(
        ReadingRow, dns_name, with_for_update=for_writing, populate_existing=for_writing
    )


def entries(session: Session, dns_name: str) -> Iterator[Held]:
    """Every object that was read."""
    # Joined on the server, in parts that fit one value: a row each would take twice as long.
    joined = text(
        "SELECT string_agg(entry, ''::bytea) FROM reading_entries WHERE dns_name = :name "
        "GROUP BY get_byte(guid, 15) / 4"
    )
    for (part,) in session.execute(joined, {"name": dns_name}):
        unpacker = msgpack.Unpacker(max_buffer_size=len(part))
        unpacker.feed(part)
        yield from unpacker


def replace(
    session: Session, dns_name: str, fresh: Mapping[bytes, Held], *, changed: Iterable[bytes] | None
) -> None:
    """Keep these objects in place of all those before, or of those that have `changed`; one of
    these that is not among the objects is forgotten.
    """
    connection = driver(session)
    if changed is None:
        session.execute(delete(ReadingEntryRow).where(ReadingEntryRow.dns_name == dns_name))
    else:
        # One array: a statement takes only so many values one by one.
        connection.execute(
            "DELETE FROM reading_entries WHERE dns_name = %s AND guid = ANY(%s)",
            (dns_name, list(changed)),
        )
    statement = "COPY reading_entries (dns_name, guid, entry) FROM STDIN (FORMAT binary)"
    with connection.cursor() as cursor, cursor.copy(statement) as copy:
        copy.set_types(["varchar", "bytea", "bytea"])
        for guid, held in fresh.items():
            copy.write_row((dns_name, guid, msgpack.packb(held)))
