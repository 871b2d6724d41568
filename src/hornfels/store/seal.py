"""What the application's role may do to the trail: add and read, nothing else."""

from __future__ import annotations

import psycopg
from psycopg import sql
from sqlalchemy import text
from sqlalchemy.orm import Session

SEALED = ("trail", "trail_stumps")
_GIVEN = ("person", "address", "request", "domain", "what", "about", "detail")
"""What the application says of an entry; all else is the database's own."""


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
    """Whether the session's role can do no more than that."""
    found = session.scalar(
        text(
            "SELECT bool_or(has_table_privilege(current_user, oid, 'UPDATE, DELETE, TRUNCATE') "
            "OR pg_get_userbyid(relowner) = current_user) FROM pg_class "
            "WHERE relnamespace = 'public'::regnamespace AND relname = ANY (:sealed)"
        ),
        {"sealed": list(SEALED)},
    )
    return not found
