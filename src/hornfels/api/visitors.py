"""Who stands behind a request, known before anything of its body is read."""

from __future__ import annotations

from sqlalchemy import Engine
from sqlalchemy.orm import Session

from hornfels.api.short_lived import ShortLived
from hornfels.store.sessions import Visitor, digest, visitor

LIFETIME = 3.0
"""Seconds after which the database is asked again: so late may one process learn that another has
signed somebody out or changed what they may do.
"""


class Visitors:
    """People by the token of a session or of a script, as the last moment showed them. Tokens are
    held as digests.
    """

    def __init__(self, engine: Engine) -> None:
        self._engine = engine
        self._held: ShortLived[bytes, Visitor | None] = ShortLived("visitors", LIFETIME)

    async def of(self, token: str | None) -> Visitor | None:
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

    def _read(self, token: str) -> Visitor | None:
        with Session(self._engine) as database, database.begin():
            return visitor(database, token)
