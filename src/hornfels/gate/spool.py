"""Answers that Hornfels has not been told yet, kept on disk until it has been."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Sequence
from pathlib import Path
from typing import Any

MOST = 1_000_000
"""Answers that are kept; the oldest go first beyond that."""

Written = dict[str, Any]
"""A record as Hornfels takes it."""


class Spool:
    """One file of them. Every method can be called from any thread."""

    def __init__(self, file: Path) -> None:
        self._db = sqlite3.connect(file, check_same_thread=False, isolation_level=None)
        file.chmod(0o600)
        # A second of answers may go with the machine's power, but no file is left broken.
        self._db.execute("PRAGMA journal_mode = WAL")
        self._db.execute("PRAGMA synchronous = NORMAL")
        self._db.execute(
            "CREATE TABLE IF NOT EXISTS answers (number INTEGER PRIMARY KEY, record TEXT NOT NULL)"
        )

    def add(self, record: Written) -> None:
        added = self._db.execute("INSERT INTO answers (record) VALUES (?)", (json.dumps(record),))
        if (last := added.lastrowid or 0) > MOST:
            self._db.execute("DELETE FROM answers WHERE number <= ?", (last - MOST,))

    def first(self, most: int) -> Sequence[tuple[int, Written]]:
        """The oldest ones with their numbers."""
        asked = "SELECT number, record FROM answers ORDER BY number LIMIT ?"
        return [(number, json.loads(held)) for number, held in self._db.execute(asked, (most,))]

    def told(self, last: int) -> None:
        """Hornfels knows all up to this number."""
        self._db.execute("DELETE FROM answers WHERE number <= ?", (last,))

    def close(self) -> None:
        self._db.close()
