"""A database as a file and back, by PostgreSQL's own programs."""

from __future__ import annotations

import os
import subprocess
from pathlib import Path

import psycopg
from sqlalchemy import Engine, text
from sqlalchemy.engine import URL, make_url

from hornfels.store.postgresql import ClusterError, programs_for


class BackupError(RuntimeError):
    """It was not backed up or restored; the message says why."""


def backup(address: str, file: Path) -> int:
    """Write all that the database at an address holds into a file, readable by its owner alone; its
    size in bytes. A file that is there already is left alone.
    """
    try:
        handle = os.open(file, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600)
    except OSError as error:
        raise BackupError(f"{file}: {error.strerror}; nothing was written") from None
    try:
        with os.fdopen(handle, "wb") as out:
            _run("pg_dump", address, "--format=custom", "--no-owner", "--no-privileges", out=out)
    except BackupError:
        file.unlink()
        raise
    return file.stat().st_size


def restore(address: str, file: Path) -> None:
    """Fill the empty database at an address from a file: all of it or nothing."""
    if not os.access(file, os.R_OK):
        raise BackupError(f"{file}: cannot be read; name a file that 'hornfels db backup' wrote")
    _run(
        "pg_restore",
        address,
        "--no-owner",
        "--no-privileges",
        "--single-transaction",
        "--exit-on-error",
        str(file),
    )


def is_empty(engine: Engine) -> bool:
    """Whether nothing was ever stored in a database."""
    asked = "SELECT count(*) FROM pg_class WHERE relnamespace = 'public'::regnamespace"
    with engine.connect() as connection:
        return not connection.scalar(text(asked))


def _run(program: str, address: str, *arguments: str, out: object = None) -> None:
    url = make_url(address)
    try:
        command = str(programs_for(_server_version(address)).folder / program)
    except (ClusterError, psycopg.Error) as error:
        raise BackupError(str(error).splitlines()[0]) from None
    done = subprocess.run(
        [command, "--dbname", _without_secrets(url), *arguments],
        stdin=subprocess.DEVNULL,
        stdout=out or subprocess.DEVNULL,  # type: ignore[call-overload]
        stderr=subprocess.PIPE,
        text=True,
        check=False,
        # Not among the arguments, which everybody on the machine can read.
        env={**os.environ, "PGPASSWORD": url.password or ""},
    )
    if done.returncode != 0:
        last = (done.stderr.strip().splitlines() or ["no reason was given"])[-1]
        raise BackupError(f"{program} failed: {last}")


def _server_version(address: str) -> int:
    """Return the major version of the server at an address."""
    with psycopg.connect(address.replace("+psycopg", "", 1)) as connection:
        return connection.info.server_version // 10_000


def _without_secrets(url: URL) -> str:
    plain = URL.create("postgresql", url.username, None, url.host, url.port, url.database)
    return plain.render_as_string()
