"""`hornfels audit`: whether the trail is whole, and taking old entries out of it."""

from __future__ import annotations

import contextlib
import getpass
from collections.abc import Iterator
from datetime import datetime

import psycopg
from sqlalchemy.orm import Session

from hornfels.cli.database import database
from hornfels.cli.errors import fail, say
from hornfels.cli.people import COMMAND
from hornfels.cli.settings import settings
from hornfels.settings import Settings
from hornfels.store import pruning, trail
from hornfels.store.anchors import AnchorError, kept, key_in
from hornfels.store.cluster import Cluster
from hornfels.store.seal import log_table, sealed


def verify(anchor: str) -> None:
    """Say whether every entry is as it was written, and where the trail stands; status 1 if not."""
    held = settings()
    with database() as engine, Session(engine) as session:
        table = log_table(session)
        say(f"The trail is the table public.trail (number {table.oid}, owner {table.owner}).")
        if table.others:
            fail(
                f"{', '.join(table.others)} could have taken entries in place of public.trail. "
                "Find out who made it, keep a copy, then drop it.",
                status=1,
            )
        start, wrong = pruning.beginning(session, lambda: key_in(held.home))
        wrong = wrong or trail.first_break(trail.links(session), start)
        if not wrong and anchor:
            wrong = _beyond(session, anchor)
        if not wrong:
            wrong = _beyond_anchors(session, held, start[0])
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


def _beyond_anchors(session: Session, held: Settings, pruned: int) -> str:
    """Return what differs between the log and the signed anchors. Anchors of
    entries up to number `pruned` are passed over.
    """
    try:
        anchors = list(kept(held.anchor_file, key_in(held.home)))
    except FileNotFoundError:
        say(f"No worker has signed an anchor yet in {held.anchor_file}.")
        return ""
    except (AnchorError, OSError) as error:
        return f"{error}."
    for one in anchors:
        wrong = _beyond(session, f"{one.number}:{one.digest}") if one.number > pruned else ""
        if wrong:
            return f"{wrong} A worker signed the anchor at {one.at:%Y-%m-%d %H:%M} UTC."
    say(f"Compared with {len(anchors):,} anchors that workers signed in {held.anchor_file}.")
    return ""


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
            _, wrong = pruning.beginning(session, lambda: key_in(settings().home))
            wrong = wrong or trail.first_break(trail.links(session), _)
            if wrong:
                fail(
                    f"nothing was taken out: the trail is not as it was written. {wrong}", status=1
                )
        gone = pruning.prune(connection, before, person, reason, key_in(settings().home))
    say(f"{gone:,} entries were taken out; a signed stump says so.")


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
