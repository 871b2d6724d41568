"""`hornfels load`: a dump into the database."""

from __future__ import annotations

import sys
from pathlib import Path

from sqlalchemy.orm import Session

from hornfels.cli.database import database
from hornfels.cli.errors import fail, opened, say
from hornfels.core.domain.estate import LinkedGroups
from hornfels.formats.dump import Dump, DumpError, LdifError, load_dump
from hornfels.store.estates import save_dump


def load_file(file: Path, linked_groups: LinkedGroups) -> None:
    """Store the domain of a dump."""
    with opened(file) as source:
        try:
            dump = load_dump(source, linked_groups=linked_groups, progress=_show_progress)
        except (LdifError, DumpError) as error:
            fail(f"{file}: {error}; nothing was stored")
    with database() as engine, Session(engine) as session, session.begin():
        save_dump(session, dump, file.name, "command line")
    _clear_progress()
    say(f"{dump.estate.domain.dns_name}: {_counted(dump)}.")
    for notice in dump.notices:
        say(f"  note: {notice}")


def _counted(dump: Dump) -> str:
    e = dump.estate
    edges = len(e.memberships.account) + len(e.memberships.child)
    return (
        f"{len(e.accounts):,} accounts, {len(e.groups):,} groups, {edges:,} memberships, "
        f"{len(e.policies):,} policies"
    )


def _show_progress(count: int) -> None:
    if sys.stderr.isatty():
        print(f"\r{count:,} entries read", end="", file=sys.stderr, flush=True)


def _clear_progress() -> None:
    if sys.stderr.isatty():
        print("\r\033[K", end="", file=sys.stderr, flush=True)
