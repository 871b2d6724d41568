"""Binds by which a stranger could lock an account of a directory, counted for all processes, pages
and spellings of a name together (see `hornfels.core.lockout.bind_budget`).
"""

from __future__ import annotations

import hashlib
from datetime import UTC, datetime

from sqlalchemy import delete
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from hornfels.core.lockout.bind_budget import BindBudget, Binds, next_bind
from hornfels.core.values.dn import name_key
from hornfels.core.values.time import TICKS_PER_SECOND, moment_from_datetime
from hornfels.store.models import BindAttemptRow


def key_of(domain: str, sid: str | None, name: str) -> bytes:
    """Return the key of an account: by SID, or by the folded name where no account has the name. A
    digest, since a person may have typed a password in place of the name.
    """
    whose = sid or name_key(local_name(name))
    return hashlib.sha256(f"{domain}\0{whose}".encode("utf-8", "replace")).digest()


def local_name(name: str) -> str:
    """Return the account's part of ``DOMAIN\\name`` or ``name@domain``."""
    plain = name.rpartition("\\")[2]
    return plain.rpartition("@")[0] or plain


def begin(session: Session, key: bytes, budget: BindBudget) -> int:
    """Count one bind as failed before the directory is asked. Return 0, or the seconds to wait
    where the budget is used up: then nothing is counted. Commit at once.
    """
    now = moment_from_datetime(datetime.now(UTC))
    session.execute(delete(BindAttemptRow).where(BindAttemptRow.until < now))
    session.execute(
        insert(BindAttemptRow)
        .values(key=key, failed=0, last=0, until=now + budget.window)
        .on_conflict_do_nothing()
    )
    row = session.get_one(BindAttemptRow, key, with_for_update=True, populate_existing=True)
    binds, wait = next_bind(Binds(row.failed, row.last), budget, now)
    row.failed, row.last = binds
    row.until = max(binds.last, now if not binds.failed else 0) + budget.window
    session.flush()
    return -(-wait // TICKS_PER_SECOND)


def give_back(session: Session, key: bytes) -> None:
    """Take one bind back that the directory did not count as failed."""
    row = session.get(BindAttemptRow, key, with_for_update=True)
    if row:
        row.failed = max(0, row.failed - 1)


def clear(session: Session, key: bytes) -> None:
    """Begin anew: the directory took the password and counts from 0."""
    session.execute(delete(BindAttemptRow).where(BindAttemptRow.key == key))
