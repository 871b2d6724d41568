"""Millions of rows between PostgreSQL and NumPy arrays, by binary COPY ([PostgreSQL] COPY, binary
format).
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import numpy.typing as npt
from psycopg import Connection, sql
from sqlalchemy.orm import Session

_HEADER = b"PGCOPY\n\xff\r\n\0" + bytes(8)
_TRAILER = b"\xff\xff"
_ROWS_AT_ONCE = 1 << 18


def driver(session: Session) -> Connection:
    """The session's own connection, for what only the driver can."""
    connection = session.connection().connection.driver_connection
    assert isinstance(connection, Connection)  # noqa: S101 - the engine is always psycopg's
    return connection


def _layout(types: Sequence[str]) -> np.dtype[np.void]:
    """One row: the number of fields, then for each its size and value, big-endian."""
    fields = [("fields", ">i2")]
    for number, kind in enumerate(types):
        fields += [(f"size{number}", ">i4"), (f"value{number}", f">{kind}")]
    return np.dtype(fields)


def copy_in(
    connection: Connection,
    table: str,
    columns: Sequence[str],
    arrays: Sequence[npt.NDArray[np.integer]],
) -> None:
    """Append rows to a table of integer columns, one array a column; each array has the column's
    own width.
    """
    types = [f"i{array.dtype.itemsize}" for array in arrays]
    layout = _layout(types)
    statement = sql.SQL("COPY {} ({}) FROM STDIN (FORMAT binary)").format(
        sql.Identifier(table), sql.SQL(", ").join(map(sql.Identifier, columns))
    )
    with connection.cursor() as cursor, cursor.copy(statement) as copy:
        copy.write(_HEADER)
        for start in range(0, len(arrays[0]), _ROWS_AT_ONCE):
            parts = [array[start : start + _ROWS_AT_ONCE] for array in arrays]
            rows = np.empty(len(parts[0]), dtype=layout)
            rows["fields"] = len(arrays)
            for number, part in enumerate(parts):
                rows[f"size{number}"] = part.dtype.itemsize
                rows[f"value{number}"] = part
            copy.write(rows.tobytes())
        copy.write(_TRAILER)


def copy_out(
    connection: Connection,
    query: sql.Composable,
    types: Sequence[str],
    parameters: Sequence[object] = (),
) -> list[npt.NDArray[np.integer]]:
    """The rows of a query over integer columns that are never null, as one array a column.
    ``types`` are "i4" or "i8".
    """
    layout = _layout(types)
    buffer = bytearray()
    with connection.cursor() as cursor:
        statement = sql.SQL("COPY ({}) TO STDOUT (FORMAT binary)").format(query)
        with cursor.copy(statement, parameters) as copy:
            for block in copy:
                buffer += block
    rows = np.frombuffer(
        buffer,
        dtype=layout,
        offset=len(_HEADER),
        count=(len(buffer) - len(_HEADER) - 2) // layout.itemsize,
    )
    return [rows[f"value{number}"].astype(f"={kind}") for number, kind in enumerate(types)]


def pairs_out(
    connection: Connection, table: str, left: str, right: str, where: sql.Composable
) -> tuple[npt.NDArray[np.int32], npt.NDArray[np.int32]]:
    """Two integer columns of the rows that fit `where`, as two arrays, packed into one value by the
    server.

    Twice as fast as a COPY, which sends a message a row. One value holds up to 2^27 pairs.
    """
    query = sql.SQL(
        "SELECT string_agg(int8send(({left}::int8 << 32) | {right}), ''::bytea) FROM {table} "
        "WHERE {where}"
    ).format(
        left=sql.Identifier(left),
        right=sql.Identifier(right),
        table=sql.Identifier(table),
        where=where,
    )
    with connection.cursor(binary=True) as cursor:
        found = cursor.execute(query).fetchone()
    pairs = np.frombuffer(found[0] if found and found[0] else b"", dtype=">i8").astype(np.int64)
    return (pairs >> 32).astype(np.int32), (pairs & 0xFFFFFFFF).astype(np.int32)
