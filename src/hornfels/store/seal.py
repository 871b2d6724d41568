"""What the application's role may do to the trail: add and read, nothing else."""

from __future__ import annotations

from typing import NamedTuple

import psycopg
from psycopg import sql
from sqlalchemy import text
from sqlalchemy.orm import Session

SEALED = ("trail", "trail_stumps")
_GIVEN = ("person", "address", "request", "domain", "what", "about", "detail")
"""What the application says of an entry; all else is the database's own."""


def hand_over(connection: psycopg.Connection, application: str) -> None:
    """Let the application's role own every table but the audit log's, and make nothing new: no
    schema and no table, which could stand in for the audit log. The connection's role owns the
    database.
    """
    role = sql.Identifier(application)
    with connection.transaction():
        ((name,),) = connection.execute("SELECT current_database()").fetchall()
        database = sql.Identifier(name)
        connection.execute(
            sql.SQL("REVOKE ALL ON DATABASE {} FROM PUBLIC, {}").format(database, role)
        )
        # Temporary tables come last in the search path of every connection.
        connection.execute(
            sql.SQL("GRANT CONNECT, TEMPORARY ON DATABASE {} TO {}").format(database, role)
        )
        connection.execute(sql.SQL("REVOKE ALL ON SCHEMA public FROM PUBLIC, {}").format(role))
        connection.execute(sql.SQL("GRANT USAGE ON SCHEMA public TO {}").format(role))
        for (table,) in connection.execute(_FOREIGN, (application, list(SEALED))).fetchall():
            connection.execute(
                sql.SQL("ALTER TABLE public.{} OWNER TO {}").format(sql.Identifier(table), role)
            )


_FOREIGN = (
    "SELECT relname FROM pg_class WHERE relnamespace = 'public'::regnamespace AND relkind = 'r' "
    "AND relowner <> %s::regrole AND relname <> ALL (%s)"
)


def seal(connection: psycopg.Connection, application: str) -> None:
    """Let the connection's role own the trail, and the application's only add to it and read it.
    Does nothing where that is so already.
    """
    role = sql.Identifier(application)
    with connection.transaction():
        for table in SEALED:
            name = sql.Identifier(table)
            connection.execute(sql.SQL("ALTER TABLE public.{} OWNER TO CURRENT_USER").format(name))
            connection.execute(
                sql.SQL("REVOKE ALL ON public.{} FROM PUBLIC, {}").format(name, role)
            )
            connection.execute(sql.SQL("GRANT SELECT ON public.{} TO {}").format(name, role))
        columns = sql.SQL(", ").join(map(sql.Identifier, _GIVEN))
        connection.execute(sql.SQL("GRANT INSERT ({}) ON public.trail TO {}").format(columns, role))
        connection.execute("ALTER FUNCTION public.trail_chained() OWNER TO CURRENT_USER")


def sealed(session: Session) -> bool:
    """Return whether the session's role can do no more than that, nor make a table or a schema."""
    found = session.scalar(
        text(
            "SELECT bool_or(has_table_privilege(current_user, oid, 'UPDATE, DELETE, TRUNCATE') "
            "OR pg_get_userbyid(relowner) = current_user) "
            "OR has_schema_privilege(current_user, 'public', 'CREATE') "
            "OR has_database_privilege(current_user, current_database(), 'CREATE') "
            "FROM pg_class "
            "WHERE relnamespace = 'public'::regnamespace AND relname = ANY (:sealed)"
        ),
        {"sealed": list(SEALED)},
    )
    return not found


class LogTable(NamedTuple):
    """The table that holds the audit log: its number in the database and its owner. ``others`` are
    tables of the same name in other schemas, into which entries could have been led.
    """

    oid: int
    owner: str
    others: tuple[str, ...]


def log_table(session: Session) -> LogTable:
    """Return the table that holds the audit log."""
    asked = text(
        "SELECT oid, pg_get_userbyid(relowner), relnamespace::regnamespace::text FROM pg_class "
        # Temporary ones are seen by their own connection alone, and come last there.
        "WHERE relname = 'trail' AND relkind IN ('r', 'v', 'm', 'p', 'f') "
        "AND relpersistence <> 't'"
    )
    found = {schema: (oid, owner) for oid, owner, schema in session.execute(asked)}
    oid, owner = found.pop("public")
    return LogTable(oid, owner, tuple(f"{schema}.trail" for schema in sorted(found)))
