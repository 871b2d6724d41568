"""Who stands behind a request, known before anything of its body is read."""

from __future__ import annotations

from collections.abc import Callable
from typing import Generic, TypeVar

from sqlalchemy import Engine
from sqlalchemy.orm import Session

from hornfels.api.short_lived import ShortLived
from hornfels.store.sessions import digest

Who = TypeVar("Who")

LIFETIME = 3.0
"""Seconds after which the database is asked again: so late may one process learn that another has
signed somebody out or changed what they may do.
"""


class Visitors(Generic[Who]):
    """People by their tokens, as the last moment showed them; `find` looks for them in the
    database. Tokens are held as digests.
    """

    def __init__(self, engine: Engine, find: Callable[[Session, str], Who | None]) -> None:
        self._engine, self._find = engine, find
        self._held: ShortLived[bytes, Who | None] = ShortLived("visitors", LIFETIME)

    async def of(self, token: str | None) -> Who | None:
        """Who comes with this token, None for nobody. Raises `FullError` if too many ask at
        once.
        """
        if not token:
            return None
        return await self._held.of(digest(token), lambda: self._read(token))

    def forget(self) -> None:
        """Somebody has signed in or out, or may do something else: ask again about everybody."""
        self._held.forget()

    def close(self) -> None:
        self._held.close()

    def _read(self, token: str) -> Who | None:
        with Session(self._engine) as database, database.begin():
            return self._find(database, token)
