"""The database that commands work on."""

from __future__ import annotations

import contextlib
import logging
import os
from collections.abc import Iterator

from sqlalchemy import Engine
from sqlalchemy.exc import SQLAlchemyError

from hornfels.cli.errors import fail
from hornfels.store.cluster import Cluster, ClusterError, default_home
from hornfels.store.database import connect, migrate


@contextlib.contextmanager
def database(*, patient: bool = True) -> Iterator[Engine]:
    """The database, up to date: the one named by ``HORNFELS_DATABASE_URL``, else our own, started
    if it does not run.
    """
    logging.getLogger("alembic").setLevel(logging.WARNING)
    url = os.environ.get("HORNFELS_DATABASE_URL")
    own = None if url else Cluster(default_home(), {})
    try:
        with own.running() if own else contextlib.nullcontext():
            engine = connect(url or (lambda: own.url if own else ""), patient=patient)
            try:
                migrate(engine)
                if own:
                    own.seal()
                yield engine
            finally:
                engine.dispose()
    except ClusterError as error:
        fail(str(error))
    except SQLAlchemyError as error:
        fail(f"the database does not answer as it should: {str(error).splitlines()[0]}")
