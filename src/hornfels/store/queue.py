"""Jobs handed to whatever worker is free, by way of the database: in the transaction that makes
them, or not at all.
"""

from __future__ import annotations

from uuid import UUID

import procrastinate
from psycopg import Connection
from sqlalchemy.orm import Session

TASK = "hornfels.job"
"""The one task that workers know: do the job with this number in our own table."""

_app = procrastinate.App(connector=procrastinate.SyncPsycopgConnector())


def hand_over(session: Session, job: UUID, lock: str) -> None:
    """Let a worker do a job once the session's transaction is committed. Jobs with one lock are
    done one at a time, in order.
    """
    connection = session.connection().connection.driver_connection
    assert isinstance(connection, Connection)  # noqa: S101 - the engine is always psycopg's
    _app.configure_task(TASK, lock=lock, connection=connection).defer(job=str(job))
