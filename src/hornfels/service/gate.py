"""The gate of a domain: who may ask there, what it answers by, and how it stands."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from typing import Any
from uuid import UUID

from sqlalchemy import Engine
from sqlalchemy.orm import Session

from hornfels.core.gate.judging import Gate
from hornfels.core.gate.record import UNANSWERED, Record
from hornfels.core.gate.rule_set import RuleSet, rule_set_of
from hornfels.core.values.text import hidden
from hornfels.formats.rule_set import pack
from hornfels.refusals import ConflictError, FieldsError
from hornfels.service import acts
from hornfels.service.editing import domain_for_writing
from hornfels.service.snapshots import Snapshot
from hornfels.store import gate, terms
from hornfels.store.gate import Caller, CallerKind
from hornfels.store.models import DomainRow, GateCallerRow
from hornfels.store.sessions import digest
from hornfels.store.trail import note

MOST_CALLERS = 100
LATELY = timedelta(hours=24)
SILENT = timedelta(minutes=2)
"""After which a caller that judges by itself should have been heard of: it says so every half
minute.
"""


def make_caller(
    database: Session,
    current: Snapshot,
    person: str,
    title: str,
    kind: CallerKind,
    reason: str,
) -> tuple[str, bool]:
    """Let somebody ask at the gate: the token's text, which nobody can see again, and whether a
    second person has to agree first. Raises `FieldsError`, `ConflictError`.
    """
    title = title.strip()
    if not title or any(map(hidden, title)):
        raise FieldsError(("title", "Say who asks, such as the server's name."))
    row = domain_for_writing(database, current)
    _refuse(database, row, title)
    text = gate.fresh_token()
    done = acts.ask(
        database,
        person,
        "gate client",
        row.dns_name,
        reason,
        title=title,
        client=kind,
        digest=digest(text).hex(),
        said=f"Gate client {title} ({kind}) may ask",
        effect="",
    )
    return text, not isinstance(done, acts.Done)


def _refuse(database: Session, row: DomainRow, title: str) -> None:
    held = gate.callers_of(database, row.id)
    if any(one.title.casefold() == title.casefold() for one in held):
        raise FieldsError(("title", f"There is a caller “{title}” already. Give another name."))
    if len(held) >= MOST_CALLERS:
        raise ConflictError(f"There are {MOST_CALLERS} callers. Take one out first.")


def drop_caller(
    database: Session, current: Snapshot, number: UUID, reason: str, person: str
) -> None:
    """Remove a caller of the gate; where approval is required, once a second person agrees. What
    came of their questions is kept. Raises `NotFoundError`.
    """
    row = domain_for_writing(database, current)
    found = gate.find_caller(database, row.id, number)
    acts.ask(
        database,
        person,
        "gate client",
        row.dns_name,
        reason,
        removed=str(number),
        said=f"Gate client {found.title} may no longer ask",
        effect="",
    )


def apply_setting(
    session: Session, row: DomainRow, arguments: Mapping[str, Any], person: str
) -> acts.Done:
    """Let a client ask at the gate of a domain, which is held for writing, or no longer."""
    if "removed" in arguments:
        dropped = gate.drop_caller(session, row.id, UUID(arguments["removed"]))
        note(session, "gate caller taken out", dropped.title, domain=row.dns_name)
    else:
        title, kind = arguments["title"], arguments["client"]
        _refuse(session, row, title)
        gate.add_caller(session, row.id, title, kind, person, bytes.fromhex(arguments["digest"]))
        note(session, "gate caller added", title, domain=row.dns_name, kind=kind)
    row.version += 1
    return acts.Done()


@dataclass(frozen=True, slots=True)
class CallerStanding:
    """A caller, and how it stands: what came of its questions within `LATELY`, how long the slowest
    answer took (microseconds, None without any), and what is wrong, "" if nothing is.
    """

    row: GateCallerRow
    accepted: int
    refused: int
    unanswered: int
    slowest: int | None
    trouble: str


def standing(database: Session, current: Snapshot, now: datetime) -> list[CallerStanding]:
    """How the callers of a domain stand."""
    counted = gate.counted(database, current.domain_id, now - LATELY)
    found = []
    for row in gate.callers_of(database, current.domain_id):
        own = [one for one in counted if one.caller == row.title]
        of = {one.outcome: one.many for one in own}
        unanswered = sum(of.get(outcome, 0) for outcome in UNANSWERED)
        found.append(
            CallerStanding(
                row,
                of.get("accepted", 0),
                of.get("refused", 0),
                unanswered,
                max((one.slowest for one in own if one.outcome not in UNANSWERED), default=None),
                _trouble(row, version_of(current.live), unanswered, now),
            )
        )
    return found


def _trouble(row: GateCallerRow, present: str, unanswered: int, now: datetime) -> str:
    if row.seen_at is None:
        return "It has not asked yet: nothing is enforced by it."
    rules = row.told.get("rules")
    if rules is not None and now - row.seen_at > SILENT:
        return (
            "It is not heard of any more. Either nothing judges there, or it goes on by the rules "
            "that it had: see that “hornfels gate” runs on that machine and reaches Hornfels."
        )
    if rules == "":
        return "It has no rules yet: each password goes as was chosen for no answer."
    if rules is not None and rules != present:
        return "It judges by rules that are not the present ones. That lasts seconds as a rule."
    if unanswered:
        return (
            f"{unanswered:,} in the last 24 hours got no answer in time: see the record for what "
            "became of them."
        )
    return ""


def take_records(
    database: Session, caller: Caller, rules: str, otherwise: str, records: Sequence[Record]
) -> None:
    """Keep what a caller that judges by itself has answered, and what it says of itself: by which
    rules it goes, and what becomes of those that get no answer ("" where it does not know yet).
    """
    gate.keep(database, caller.domain_id, caller.title, records)
    told = {"rules": rules, "otherwise": otherwise}
    gate.seen(database, caller.id, datetime.now(UTC), told)
    database.commit()


def rules_of(current: Snapshot) -> RuleSet:
    return rule_set_of(current.estate, current.resolution)


def gate_of(current: Snapshot) -> Gate:
    """The gate as a domain stands, ready to answer."""
    found = Gate(rules_of(current), current.lists)
    found.make_ready()
    return found


def version_of(current: Snapshot) -> str:
    """Which rules the gate goes by; another text for others."""
    return f"{current.domain_id}-{current.estate_id}-{current.version}"


def rule_file(engine: Engine, current: Snapshot) -> bytes:
    """The rule set of a domain as a file, with the terms of its lists."""
    rules = rules_of(current)
    held = current.estate.domain.term_lists
    with Session(engine) as session:
        found = {
            name: terms.of_digest(session, current.domain_id, held[name].digest)
            for name in rules.lists
        }
    return pack(rules, found)
