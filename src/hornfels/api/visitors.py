"""Who is signed in behind a request, known before anything of its body is read."""

from __future__ import annotations

import hashlib

from sqlalchemy import Engine
from sqlalchemy.orm import Session

from hornfels.api.short_lived import ShortLived
from hornfels.store.people import signed_in

LIFETIME = 3.0
"""Seconds after which the database is asked again: so late may one process learn that another has
signed somebody out.
"""


class Visitors:
    """Names by session token, as the last moment showed them. Tokens are held as digests."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine
        self._held: ShortLived[bytes, str | None] = ShortLived("visitors", LIFETIME)

    async def name(self, token: str | None) -> str | None:
        """Who is signed in with this token, None for nobody. Raises `FullError` if too many ask at
        once.
        """
        if not token:
            return None
        key = hashlib.sha256(token.encode("utf-8", "replace")).digest()
        return await self._held.of(key, lambda: self._read(token))

    def forget(self) -> None:
        """Somebody has signed in or out: ask again about everybody."""
        self._held.forget()

    def close(self) -> None:
        self._held.close()

    def _read(self, token: str) -> str | None:
        with Session(self._engine) as database:
            return signed_in(database, token)
