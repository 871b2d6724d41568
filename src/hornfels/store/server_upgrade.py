"""The move of a private database to a newer major version of PostgreSQL.

The move backs the database up, fills a new server with the backup, compares every table of the two
servers and only then puts the new data folder in the place of the old. The old data folder stays.
"""

from __future__ import annotations

import os
import shutil
from collections.abc import Callable
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path

import psycopg
from psycopg import sql
from sqlalchemy.exc import SQLAlchemyError

from hornfels.store.backup import BackupError, backup, restore
from hornfels.store.cluster import Cluster
from hornfels.store.postgresql import ClusterError, Programs, data_version, installed

_SPACE = 3
"""Free space that the move needs, as a multiple of the data: the backup, the copy and a reserve."""


@dataclass(frozen=True)
class ServerUpgrade:
    """A finished move: the versions before and after, the backup and the folder of the old data."""

    before: int
    after: Programs
    backup: Path
    old_data: Path


def upgrade_server(cluster: Cluster, report: Callable[[str], None]) -> ServerUpgrade | None:
    """Move the data to the newest installed version; None where the data is of that version.

    The step under way goes to `report`. Raises `ClusterError` where the move fails; the data of the
    earlier version is then where it was, and unchanged.
    """
    with cluster.alone():
        before = data_version(cluster.data)
        if before is None:
            raise ClusterError(f"there is no database in {cluster.home}; nothing was moved")
        after = installed(cluster.library)[-1]
        if after.version == before:
            return None
        if after.version < before:
            # Says which version is missing and how to go on.
            cluster.programs()
        _require_space(cluster)
        file = _backup_file(cluster.home, before)
        copy = Cluster(cluster.home / "server-upgrade", cluster.options, cluster.library)
        try:
            report(f"Backing up the data of PostgreSQL {before} to {file} …")
            with cluster.started_alone():
                backup(cluster.owner_url, file)
                report(f"Restoring the backup into {after} …")
                copy.discard()
                cluster.lend_password(copy)
                with copy.started_alone():
                    restore(copy.owner_url, file)
                    report("Comparing every table of the two servers …")
                    _compare(cluster, copy)
                    copy.migrate()
            old = cluster.home / f"postgresql-{before}-{_now()}"
            cluster.replace_data(copy.data, old)
        except (BackupError, ClusterError, OSError, psycopg.Error, SQLAlchemyError) as error:
            raise ClusterError(
                f"{str(error).splitlines()[0]}. The data stays in PostgreSQL {before} and is "
                "unchanged"
            ) from error
        finally:
            copy.discard()
        return ServerUpgrade(before, after, file, old)


def _compare(old: Cluster, new: Cluster) -> None:
    """Raise `ClusterError` with the name of the first table or sequence that differs."""
    with old.as_keeper() as left, new.as_keeper() as right:
        names, others = _names(left), _names(right)
        if names != others:
            differing = sorted(set(names) ^ set(others))
            raise ClusterError(f"{differing[0][0]} is in only one of the two servers")
        for name, kind in names:
            if _digest(left, name, kind) != _digest(right, name, kind):
                raise ClusterError(f"{name} differs between the two servers")


def _names(connection: psycopg.Connection) -> list[tuple[str, str]]:
    """Return the tables (kind r) and sequences (kind S) of a database."""
    return connection.execute(
        "SELECT relname, relkind::text FROM pg_class "
        "WHERE relnamespace = 'public'::regnamespace AND relkind IN ('r', 'S') ORDER BY relname"
    ).fetchall()


def _digest(connection: psycopg.Connection, name: str, kind: str) -> tuple[object, ...] | None:
    """Return the number of rows and a sum over the digests of all rows, which does not depend on
    their order; of a sequence its position.
    """
    if kind == "S":
        asked = "SELECT last_value, is_called FROM {}"
    else:
        asked = "SELECT count(*), sum(('x' || left(md5(t::text), 15))::bit(60)::bigint) FROM {} t"
    connection.execute("SET timezone TO 'UTC'")
    return connection.execute(sql.SQL(asked).format(sql.Identifier(name))).fetchone()


def _backup_file(home: Path, version: int) -> Path:
    folder = home / "backups"
    folder.mkdir(mode=0o700, exist_ok=True)
    return folder / f"postgresql-{version}-{_now()}"


def _now() -> str:
    return datetime.now(UTC).strftime("%Y-%m-%dT%H%M%SZ")


def _require_space(cluster: Cluster) -> None:
    size = sum(
        (Path(folder) / name).lstat().st_size
        for folder, _, names in os.walk(cluster.data)
        for name in names
    )
    free = shutil.disk_usage(cluster.home).free
    if free < _SPACE * size:
        raise ClusterError(
            f"{cluster.home} has {free / 1e9:,.1f} GB of free space, and the move needs "
            f"{_SPACE * size / 1e9:,.1f} GB; free some space. Nothing was moved"
        )
