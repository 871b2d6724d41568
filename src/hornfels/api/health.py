"""Whether Hornfels can work: what is wrong, in words."""

from __future__ import annotations

import time

import psycopg
from pydantic import BaseModel
from sqlalchemy import Engine

from hornfels.api.outages import AWAY, FULL
from hornfels.store.database import libpq

_FRESH = 1.0
"""Seconds for which an answer holds, so that being asked often costs nothing."""


class Alive(BaseModel):
    alive: bool = True


class Readiness(BaseModel):
    ready: bool
    workers: int


class Health:
    """Asks the database by a connection of its own, so that a full pool does not look like a dead
    database.
    """

    def __init__(self, engine: Engine) -> None:
        self._engine = engine
        self._held: tuple[float, Readiness | str] | None = None

    def look(self) -> Readiness | str:
        """How things are, or what is wrong."""
        if self._held is None or self._held[0] < time.monotonic():
            self._held = time.monotonic() + _FRESH, self._asked()
        return self._held[1]

    def _asked(self) -> Readiness | str:
        try:
            with psycopg.connect(
                **libpq(self._engine), connect_timeout=2, autocommit=True
            ) as connection:
                # Written, since a full disk is found out only so, and taken back.
                with connection.transaction(force_rollback=True):
                    connection.execute(
                        "CREATE TEMPORARY TABLE probe ON COMMIT DROP AS SELECT 1 AS one"
                    )
                alive = (
                    "SELECT count(*) FROM procrastinate_workers WHERE last_heartbeat > now() - "
                    "interval '30 seconds'"
                )
                found = connection.execute(alive).fetchone()
        except psycopg.errors.DiskFull:
            return FULL
        except psycopg.Error:
            return AWAY
        return Readiness(ready=True, workers=int(found[0]) if found else 0)
