"""`hornfels audit`: whether the trail is whole, and taking old entries out of it."""

from __future__ import annotations

import contextlib
import getpass
import os
import secrets
from collections.abc import Iterator
from datetime import datetime
from pathlib import Path

import psycopg
from sqlalchemy.orm import Session

from hornfels.cli.database import database
from hornfels.cli.errors import fail, say
from hornfels.cli.people import COMMAND
from hornfels.cli.settings import settings
from hornfels.store import pruning, trail
from hornfels.store.cluster import Cluster
from hornfels.store.seal import sealed


def verify(anchor: str) -> None:
    """Say whether every entry is as it was written, and where the trail stands; status 1 if not."""
    with database() as engine, Session(engine) as session:
        start, wrong = pruning.beginning(session, _key)
        wrong = wrong or trail.first_break(trail.links(session), start)
        if not wrong and anchor:
            wrong = _beyond(session, anchor)
        if wrong:
            fail(f"the trail is not as it was written. {wrong}", status=1)
        number, digest = trail.head(session)
        say(f"The trail is whole from entry {start[0] + 1} to {number}.")
        say(f"Keep this elsewhere; entries cut off later show only against it: {number}:{digest}")
        if not sealed(session):
            say(
                "But the application's own role could change it here: see 'A trail that holds' in "
                "docs/operating.md."
            )


def _beyond(session: Session, anchor: str) -> str:
    """What is wrong with the entry that was the last one when `anchor` was kept."""
    number, _, digest = anchor.partition(":")
    if not number.isdecimal() or len(digest) != 64:
        fail(
            "the anchor has to be what 'hornfels audit verify' prints: a number, a colon, 64 digits"
        )
    found = trail.digest_at(session, int(number))
    if found is None:
        return f"Entry {number} is missing, which was the last one when its digest was kept."
    return "" if found == digest else f"Entry {number} is another one than was kept."


def prune(before: datetime, reason: str) -> None:
    """Take entries out that are older, and leave a signed stump in their place."""
    person = f"{getpass.getuser()} ({COMMAND})"
    with database() as engine, _keeper() as connection:
        with Session(engine) as session:
            _, wrong = pruning.beginning(session, _key)
            wrong = wrong or trail.first_break(trail.links(session), _)
            if wrong:
                fail(
                    f"nothing was taken out: the trail is not as it was written. {wrong}", status=1
                )
        gone = pruning.prune(connection, before, person, reason, _key())
    say(f"{gone:,} entries were taken out; a signed stump says so.")


def _key() -> bytes:
    """What stumps are signed with: a file of ours, made when it is first needed."""
    file = settings().home / "trail-key"
    with contextlib.suppress(FileExistsError):
        file.parent.mkdir(parents=True, exist_ok=True)
        handle = os.open(file, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600)
        with os.fdopen(handle, "wb") as fresh:
            fresh.write(secrets.token_bytes(32))
    return Path(file).read_bytes()


@contextlib.contextmanager
def _keeper() -> Iterator[psycopg.Connection]:
    """A connection that owns the trail: the one that is set, or our own database's keeper."""
    held = settings()
    if held.database_owner_url:
        address = held.database_owner_url.get_secret_value().replace("+psycopg", "")
        with psycopg.connect(address, autocommit=True) as connection:
            yield connection
    elif held.database_url:
        fail(
            "this takes the owner of the trail's tables: name that address in "
            "HORNFELS_DATABASE_OWNER_URL"
        )
    else:
        with Cluster(held.home, {}).as_keeper() as connection:
            yield connection
