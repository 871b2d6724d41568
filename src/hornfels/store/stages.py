"""Who is rehearsing just now: each name is held for as long as its process lives, so that one that
a crash has left behind is known by nobody holding it.
"""

from __future__ import annotations

import contextlib
from collections.abc import Iterator

from sqlalchemy import Engine, text

_KEY = 7184
_NAMED = {"key": _KEY}


@contextlib.contextmanager
def holding(engine: Engine, name: str) -> Iterator[None]:
    """Nobody sweeps the account of this name until the block ends."""
    asked = text("SELECT pg_advisory_lock(:key, hashtext(:name))")
    let_go = text("SELECT pg_advisory_unlock(:key, hashtext(:name))")
    with engine.connect() as connection:
        connection.execute(asked, {**_NAMED, "name": name})
        connection.commit()
        try:
            yield
        finally:
            connection.execute(let_go, {**_NAMED, "name": name})
            connection.commit()


def is_held(engine: Engine, name: str) -> bool:
    """Whether somebody is rehearsing with the account of this name."""
    asked = text("SELECT pg_try_advisory_xact_lock(:key, hashtext(:name))")
    with engine.begin() as connection:
        return not connection.scalar(asked, {**_NAMED, "name": name})
