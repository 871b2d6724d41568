"""Who asks at the gate, and what answers them. While the database is away, all is as it was last:
passwords go on being set, and go on being judged.
"""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy import Engine
from sqlalchemy.exc import DBAPIError
from sqlalchemy.exc import TimeoutError as PoolTimeoutError
from sqlalchemy.orm import Session

from hornfels.api.short_lived import ShortLived
from hornfels.core.gate.judging import Gate
from hornfels.service import gate
from hornfels.service.gate_record import GateRecord
from hornfels.service.snapshots import Snapshots
from hornfels.store.gate import Caller, caller_of
from hornfels.store.sessions import digest

LIFETIME = 0.5
"""Seconds after which the database is asked again: so late may the gate learn of a publish, or that
somebody may ask no longer.
"""
MOST_KNOWN = 1000


@dataclass(frozen=True, slots=True)
class AtTheGate:
    """Who asks, and what answers. ``version`` tells rules from other rules."""

    caller: Caller
    gate: Gate
    version: str


class Gatehouse:
    """Callers with the gates of their domains, by their tokens, which are held as digests."""

    def __init__(self, engine: Engine, snapshots: Snapshots) -> None:
        self._engine, self._snapshots = engine, snapshots
        self._held: ShortLived[bytes, AtTheGate | None] = ShortLived("gate", LIFETIME)
        self._known: dict[bytes, AtTheGate] = {}
        self._gates: dict[str, tuple[str, Gate]] = {}
        self.record = GateRecord(engine)

    async def of(self, token: str) -> AtTheGate | None:
        """Who comes with this token, None for nobody. Raises `FullError` if too many ask at once,
        and what the database raises if it is away and was never asked about this one.
        """
        key = digest(token)
        return await self._held.of(key, lambda: self._read(key, token))

    def close(self) -> None:
        self._held.close()
        self.record.close()

    def _read(self, key: bytes, token: str) -> AtTheGate | None:
        try:
            with Session(self._engine) as session:
                caller = caller_of(session, token)
            found = self._at(caller) if caller else None
        except (DBAPIError, PoolTimeoutError):
            if key in self._known:
                return self._known[key]
            raise
        if found is None:
            self._known.pop(key, None)
        elif len(self._known) < MOST_KNOWN or key in self._known:
            self._known[key] = found
        return found

    def _at(self, caller: Caller) -> AtTheGate | None:
        current = self._snapshots.of(caller.domain)
        if current is None:
            return None
        version = gate.version_of(current)
        held = self._gates.get(caller.domain)
        if held is None or held[0] != version:
            held = self._gates[caller.domain] = version, gate.gate_of(current)
        return AtTheGate(caller, held[1], version)
