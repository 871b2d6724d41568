"""Keeps what is answered at the gate, a moment after it was answered: nobody waits for the database
to set a password, and none is lost while that is away.
"""

from __future__ import annotations

import logging
import threading
from collections import deque

from sqlalchemy import Engine
from sqlalchemy.exc import OperationalError, SQLAlchemyError, TimeoutError
from sqlalchemy.orm import Session

from hornfels.core.gate.record import Record
from hornfels.core.values.time import datetime_from_moment
from hornfels.store import gate
from hornfels.store.gate import Caller

EVERY = 0.5
"""Seconds between two writings."""
MOST = 100_000
"""Answers that wait while the database is away; the oldest go first beyond that."""

_log = logging.getLogger(__name__)


class GateRecord:
    """Answers on their way into the database, written by a thread of their own from `start` on."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine
        self._waiting: deque[tuple[Caller, Record]] = deque(maxlen=MOST)
        self._ending = threading.Event()
        self._writing = threading.Lock()
        self._thread: threading.Thread | None = None

    def add(self, caller: Caller, record: Record) -> None:
        self._waiting.append((caller, record))

    def start(self) -> None:
        self._ending.clear()
        self._thread = threading.Thread(target=self._run, name="gate record", daemon=True)
        self._thread.start()

    def close(self) -> None:
        """Write what waits, and end."""
        self._ending.set()
        if self._thread:
            self._thread.join()
            self._thread = None

    def write(self) -> None:
        """Write what waits; while the database is away it waits on."""
        with self._writing:
            by_caller: dict[Caller, list[Record]] = {}
            for _ in range(len(self._waiting)):
                caller, record = self._waiting.popleft()
                by_caller.setdefault(caller, []).append(record)
            for caller, records in by_caller.items():
                try:
                    self._write(caller, records)
                except (OperationalError, TimeoutError) as error:
                    away = type(error).__name__
                    _log.warning("%d answers of the gate wait (%s).", len(records), away)
                    self._waiting.extendleft((caller, one) for one in reversed(records))
                except SQLAlchemyError as error:
                    # Such as of a domain that was taken out meanwhile.
                    lost = type(error).__name__
                    _log.error("%d answers of the gate cannot be kept (%s).", len(records), lost)

    def _write(self, caller: Caller, records: list[Record]) -> None:
        with Session(self._engine) as session, session.begin():
            gate.keep(session, caller.domain_id, caller.title, records)
            latest = datetime_from_moment(max(one.at for one in records))
            if latest:
                gate.seen(session, caller.id, latest)

    def _run(self) -> None:
        while not self._ending.wait(EVERY):
            self.write()
        self.write()
