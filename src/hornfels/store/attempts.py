"""Bad tries at signing in, counted by name, by address, and by both, under lockout rules like those
of a directory.
"""

from __future__ import annotations

import hashlib
from dataclasses import replace
from datetime import UTC, datetime

from sqlalchemy import delete
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from hornfels.core.lockout.machine import Tries, bad_try, locked
from hornfels.core.policy.model import DEFAULTS, Settings
from hornfels.core.values.time import MINUTE, TICKS_PER_SECOND, moment_from_datetime
from hornfels.store.models import AttemptRow

_QUARTER = 15 * MINUTE
_ONE = replace(DEFAULTS, lockout_threshold=10, lockout_window=_QUARTER, lockout_duration=_QUARTER)
"""For one name from one address."""
_MANY = replace(_ONE, lockout_threshold=100)
"""For one name from anywhere, and for one address whatever the name: wider, so that nobody shuts
others out in passing.
"""


def begin(session: Session, name: str, address: str) -> tuple[int, bool]:
    """Count a try as bad before it is looked at, so that many at once are counted too; `clear`
    takes it back.

    Gives the seconds to wait if no try is taken now, else 0, and whether this try is the one that
    begins a wait. Commit at once.
    """
    now = moment_from_datetime(datetime.now(UTC))
    session.execute(delete(AttemptRow).where(AttemptRow.bad_time < now - 2 * _QUARTER))
    keys = _keys(name, address)
    session.execute(
        insert(AttemptRow).values([{"key": key} for key in sorted(keys)]).on_conflict_do_nothing()
    )
    rows = {
        key: session.get_one(AttemptRow, key, with_for_update=True, populate_existing=True)
        for key in sorted(keys)
    }
    # A clock that was set back must not make anybody wait longer than a quarter of an hour.
    held = {
        key: Tries(row.bad_count, min(row.bad_time, now), min(row.lockout_time, now))
        for key, row in rows.items()
    }
    waits = [
        tries.lockout_time + _QUARTER - now
        for key, tries in held.items()
        if locked(tries, keys[key], now)
    ]
    if waits:
        return max(waits) // TICKS_PER_SECOND + 1, False
    for key, row in rows.items():
        row.bad_count, row.bad_time, row.lockout_time = bad_try(held[key], keys[key], now)
    session.flush()
    return 0, any(row.lockout_time == now for row in rows.values())


def clear(session: Session, name: str, address: str) -> None:
    """The try was good: this name from this address starts anew, and the wider counts lose the one
    that `begin` counted.
    """
    one, *wider = _keys(name, address)
    session.execute(delete(AttemptRow).where(AttemptRow.key == one))
    for key in sorted(wider):
        row = session.get(AttemptRow, key, with_for_update=True)
        if row:
            row.bad_count, row.lockout_time = max(0, row.bad_count - 1), 0
    session.flush()


def _keys(name: str, address: str) -> dict[bytes, Settings]:
    # As digests: somebody may have typed a password in place of the name.
    return {
        _key("both", name, address): _ONE,
        _key("name", name): _MANY,
        _key("address", address): _MANY,
    }


def _key(*parts: str) -> bytes:
    return hashlib.sha256("\0".join(parts).encode("utf-8", "replace")).digest()
