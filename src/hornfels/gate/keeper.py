"""Keeps the rules that a gate answers by: the present ones while Hornfels can be reached, else the
last ones that were known, also over a restart.
"""

from __future__ import annotations

import json
import logging
import sqlite3
import threading
import time
import uuid
from datetime import UTC, datetime
from pathlib import Path

from hornfels.core.gate.judging import Gate, GateAnswer, Inquiry
from hornfels.core.gate.record import LONGEST_ACCOUNT, Outcome, Record, record_of
from hornfels.core.passwords.additions import Lists, terms_in
from hornfels.core.values.time import datetime_from_moment, moment_from_datetime
from hornfels.formats.corpus.shelf import Shelf
from hornfels.formats.rule_set import RuleSetError, unpack
from hornfels.gate.spool import Spool, Written
from hornfels.gate.upstream import Upstream, UpstreamError

EVERY = 5.0
"""Seconds between two looks for other rules."""
TELL_EVERY = 1.0
HEARD_EVERY = 30.0
"""Seconds after which Hornfels is told that the gate is there, whether or not anybody asked; at
once when it goes by other rules.
"""
AT_ONCE = 500

_log = logging.getLogger(__name__)


class Keeper:
    """A gate with all that belongs to it, in a folder of its own: ``rules`` are those last known,
    ``answers`` what Hornfels has not been told yet.
    """

    def __init__(self, folder: Path, upstream: Upstream, unanswered: Path, corpora: Shelf) -> None:
        folder.mkdir(mode=0o700, parents=True, exist_ok=True)
        self._file = folder / "rules"
        self._upstream, self._unanswered, self._corpora = upstream, unanswered, corpora
        self._spool = Spool(folder / "answers")
        self._gate: Gate | None = None
        self._version = self._otherwise = ""
        self._trouble = ""
        self._ending = threading.Event()
        self._threads = [
            threading.Thread(target=work, name=f"gate {what}", daemon=True)
            for what, work in (("rules", self._renewing), ("telling", self._telling))
        ]

    def start(self) -> None:
        """Answer by the rules last known, and look for others from now on."""
        self._take_last_known()
        for thread in self._threads:
            thread.start()

    def close(self) -> None:
        self._ending.set()
        for thread in self._threads:
            thread.join(timeout=2 * EVERY)
        self._spool.close()

    def answer(self, inquiry: Inquiry, otherwise: str) -> GateAnswer | None:
        """The answer, kept for Hornfels; None while there are no rules. `otherwise` is what becomes
        of a password where no answer comes.
        """
        self._otherwise = otherwise or self._otherwise
        gate = self._gate
        if gate is None:
            return None
        began = time.perf_counter()
        answer = gate(inquiry)
        took = int((time.perf_counter() - began) * 1e6)
        at = moment_from_datetime(datetime.now(UTC))
        try:
            self._spool.add(written(record_of(uuid.uuid4(), at, inquiry, answer, took)))
        except sqlite3.Error as error:
            # A full disk is no reason why nobody can set a password.
            _log.error("An answer cannot be kept for Hornfels: %s.", error)
        return answer

    def renew(self) -> bool:
        """Take other rules if there are any; whether there were. Raises `UpstreamError`, and
        `RuleSetError` for what cannot be read: then the ones before stay.
        """
        fetched = self._upstream.rules(self._version)
        if fetched is None:
            return False
        gate = _made(fetched.file, self._corpora)
        fresh = self._file.with_suffix(".new")
        fresh.touch(mode=0o600)
        fresh.write_bytes(f"{fetched.version}\n".encode() + fetched.file)
        fresh.replace(self._file)
        self._gate, self._version = gate, fetched.version
        _log.info("The gate answers by the rules %s.", fetched.version)
        return True

    def tell(self) -> int:
        """Tell Hornfels what it does not know yet; how much that was. Raises `UpstreamError`."""
        self._collect()
        waiting = self._spool.first(AT_ONCE)
        self._upstream.tell(self._version, self._otherwise, [one for _, one in waiting])
        if waiting:
            self._spool.told(waiting[-1][0])
        return len(waiting)

    def _take_last_known(self) -> None:
        if not self._file.exists():
            return
        version, _, file = self._file.read_bytes().partition(b"\n")
        try:
            self._gate, self._version = _made(file, self._corpora), version.decode()
        except RuleSetError as error:
            _log.warning("The rules last known cannot be used: %s", error)

    def _collect(self) -> None:
        """What the hook has left word of while nobody answered."""
        taken = self._unanswered.with_suffix(".taken")
        if not taken.exists():
            if not self._unanswered.exists():
                return
            self._unanswered.replace(taken)
        for line in taken.read_text().splitlines():
            try:
                self._spool.add(_unanswered(line))
            except (ValueError, KeyError, TypeError):
                _log.warning("A word that the hook has left cannot be read.")
        taken.unlink()

    def _renewing(self) -> None:
        while not self._ending.is_set():
            try:
                self.renew()
                self._recovered()
            except (UpstreamError, RuleSetError, OSError) as error:
                self._said(str(error))
            self._ending.wait(EVERY)

    def _telling(self) -> None:
        heard, of = -HEARD_EVERY, ""
        while not self._ending.wait(TELL_EVERY):
            due = time.monotonic() - heard >= HEARD_EVERY or of != self._version
            try:
                if not due and not self._spool.first(1) and not self._unanswered.exists():
                    continue
                of = self._version
                while self.tell() == AT_ONCE:
                    pass
                heard = time.monotonic()
            except (UpstreamError, OSError, sqlite3.Error):
                self._ending.wait(EVERY)  # the renewing, or who answers, says why

    def _said(self, trouble: str) -> None:
        if trouble != self._trouble:
            by = f"the rules {self._version}" if self._gate else "no rules: none were known before"
            _log.warning("%s. The gate goes on by %s.", trouble, by)
        self._trouble = trouble

    def _recovered(self) -> None:
        if self._trouble:
            _log.info("Hornfels answers again.")
        self._trouble = ""


def _made(file: bytes, corpora: Shelf) -> Gate:
    unpacked = unpack(file)
    gate = Gate(unpacked.rules, Lists(terms_in(unpacked.terms), corpora.exposed))
    gate.make_ready()
    return gate


def written(record: Record) -> Written:
    """A record as Hornfels takes it."""
    at = datetime_from_moment(record.at) or datetime.now(UTC)
    ends = None if record.ends is None else datetime_from_moment(record.ends)
    return {
        "id": str(record.id),
        "at": at.isoformat(),
        "account": record.account,
        "operation": record.operation,
        "outcome": record.outcome,
        "policy": record.policy,
        "rules": list(record.rules),
        "ends": ends.date().isoformat() if ends else None,
        "took": record.took,
    }


def _unanswered(line: str) -> Written:
    word = json.loads(line)
    # The same number when it is read once more, after an end in the middle.
    number = uuid.uuid5(uuid.NAMESPACE_OID, line)
    at = moment_from_datetime(datetime.fromtimestamp(float(word["at"]), UTC))
    outcome: Outcome = "let through" if word["outcome"] == "let through" else "turned away"
    return written(Record(number, at, str(word["account"])[:LONGEST_ACCOUNT], "unknown", outcome))
