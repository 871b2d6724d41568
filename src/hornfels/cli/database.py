"""The database that commands work on."""

from __future__ import annotations

import contextlib
import logging
from collections.abc import Iterator

import psycopg
from sqlalchemy import Engine
from sqlalchemy.exc import SQLAlchemyError

from hornfels.cli.errors import fail
from hornfels.cli.settings import settings
from hornfels.settings import Settings
from hornfels.store.cluster import Cluster
from hornfels.store.database import connect, libpq, migrate
from hornfels.store.postgresql import ClusterError
from hornfels.store.seal import hand_over, seal


@contextlib.contextmanager
def database(held: Settings | None = None, *, patient: bool = True) -> Iterator[Engine]:
    """The database, up to date: the one that is set, else our own, started if it does not run."""
    logging.getLogger("alembic").setLevel(logging.WARNING)
    held = held or settings()
    url = held.database_url.get_secret_value() if held.database_url else None
    own = None if url else Cluster(held.home, {})
    try:
        with own.running() if own else contextlib.nullcontext():
            engine = connect(url or (lambda: own.url if own else ""), patient=patient)
            try:
                if own:
                    own.migrate()
                else:
                    _migrate(engine, held)
                yield engine
            finally:
                engine.dispose()
    except ClusterError as error:
        fail(str(error))
    except SQLAlchemyError as error:
        fail(f"the database does not answer as it should: {str(error).splitlines()[0]}")


def _migrate(engine: Engine, held: Settings) -> None:
    """Bring a database of one's own up to date, by its owner where that address is set."""
    if held.database_owner_url is None:
        migrate(engine)
        return
    owner = connect(held.database_owner_url.get_secret_value(), patient=True)
    application = engine.url.username or ""
    try:
        migrate(owner)
    finally:
        owner.dispose()
    if owner.url.username != application:
        with psycopg.connect(**libpq(owner), autocommit=True) as connection:
            hand_over(connection, application)
            seal(connection, application)
