"""`hornfels db`: the schema brought up to date, the database as a file and back."""

from __future__ import annotations

import contextlib
from collections.abc import Iterator
from pathlib import Path

from sqlalchemy.orm import Session

from hornfels.cli.database import database
from hornfels.cli.errors import fail, say
from hornfels.cli.settings import settings
from hornfels.store import backup, server_upgrade, trail
from hornfels.store.cluster import Cluster
from hornfels.store.database import connect, schema_of
from hornfels.store.postgresql import ClusterError


def upgrade() -> None:
    with database() as engine:
        say(f"The schema is up to date ({schema_of(engine)}).")


def write_backup(file: Path) -> None:
    with database() as engine, Session(engine) as session:
        number, digest = trail.head(session)
        try:
            size = backup.backup(engine.url.render_as_string(hide_password=False), file)
        except backup.BackupError as error:
            fail(str(error))
    say(f"{file}: {size / 1e6:,.1f} MB, for its owner alone. The trail stands at {number}:{digest}")


def restore(file: Path) -> None:
    """Fill a database that is empty, and bring its schema up to date."""
    with _address() as address:
        engine = connect(address, patient=True)
        try:
            if not backup.is_empty(engine):
                fail(
                    "the database holds something already; restore into an empty one: another "
                    "HORNFELS_HOME or HORNFELS_DATABASE_URL"
                )
            backup.restore(address, file)
        except backup.BackupError as error:
            fail(f"{error}; nothing was restored")
        finally:
            engine.dispose()
        with database() as whole, Session(whole) as session:
            number, digest = trail.head(session)
            say(
                f"Restored; the schema is {schema_of(whole)}, the trail stands at {number}:{digest}"
            )


def upgrade_server() -> None:
    """Move the private database to the newest installed version of PostgreSQL."""
    held = settings()
    if held.database_url:
        fail(
            "HORNFELS_DATABASE_URL names a server of your own; upgrade the server with its own "
            "tools. This command moves the private database only"
        )
    try:
        done = server_upgrade.upgrade_server(Cluster(held.home, {}), say)
    except ClusterError as error:
        fail(str(error))
    if done is None:
        say("The database is of the newest installed version of PostgreSQL; nothing was moved.")
        return
    say(f"The database runs on {done.after} now; every table was compared.")
    say(f"Backup: {done.backup}")
    say(f"Data of PostgreSQL {done.before}: {done.old_data}")
    say("Delete both when Hornfels runs well. docs/operating.md says how to go back.")


@contextlib.contextmanager
def _address() -> Iterator[str]:
    """Return the database, reached as its owner where the owner is known. No migration runs."""
    held = settings()
    if held.database_url:
        yield (held.database_owner_url or held.database_url).get_secret_value()
        return
    own = Cluster(held.home, {})
    try:
        with own.running():
            yield own.owner_url
    except ClusterError as error:
        fail(str(error))
