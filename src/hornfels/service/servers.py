"""Servers that should agree: their templates read in, held against one another, corrected."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, date, datetime
from typing import Literal

from sqlalchemy.orm import Session

from hornfels.core.drafts.sentences import Sentence, said_text
from hornfels.core.policy.catalogue import TEMPLATE_SETTINGS, Template
from hornfels.core.servers.agreement import Agreement, Coverage, agreement, answer
from hornfels.core.servers.course import Held, course
from hornfels.formats.server_files import corrected_files, server_of
from hornfels.formats.template import TemplateError, read_template
from hornfels.refusals import ChangedMeanwhileError, ConflictError, FieldsError
from hornfels.store import servers
from hornfels.store.models import ServerRow, ServerSetRow
from hornfels.store.trail import note

Way = Literal["most", "agreed", "server"]
"""What servers are held against: what most of them say, what was agreed on, one of them."""


@dataclass(frozen=True, slots=True)
class Found:
    """A set of servers as it stands. ``reference`` names what they are held against, ``seen`` the
    state of what is wanted of them.
    """

    group: ServerSetRow
    rows: Sequence[ServerRow]
    held: Held
    agreement: Agreement

    @property
    def way(self) -> Way:
        """What they are held against. A server that cannot be read stands for nothing."""
        if self.held.like is not None and self.reference is not None:
            return "server"
        return "agreed" if self.held.like is None and self.held.agreed is not None else "most"

    @property
    def reference(self) -> ServerRow | None:
        """The server that was chosen as the reference, if it can be read."""
        found = (row for row in self.rows if row.key == self.held.like)
        return next((row for row in found if row.template is not None), None)

    @property
    def seen(self) -> str:
        """What is wanted, as a mark by which it is known again."""
        written = json.dumps(self.agreement.wanted, sort_keys=True)
        return hashlib.sha256(written.encode()).hexdigest()[:16]


def found(database: Session, group: ServerSetRow) -> Found:
    """A set as it stands."""
    rows = servers.servers(database, group.id)
    held = Held(group.like_server, _template(group.agreed))
    machines = {row.key: _template(row.template) for row in rows}
    return Found(group, rows, held, agreement(machines, held.reference(machines)))


def _template(kept: dict[str, object] | None) -> Template | None:
    """A template as it is kept, with the settings that are known here by now."""
    if kept is None:
        return None
    return {key: kept[key] for key in TEMPLATE_SETTINGS if key in kept}  # type: ignore[misc]


def days(database: Session, one: Found) -> list[tuple[date, Coverage]]:
    """How many agreed at the end of each day on which something was new, and how it is now."""
    return list(course(servers.readings(database, one.group.id), one.held))


def create(database: Session, domain_id: int, name: str) -> ServerSetRow:
    """Make a set. Raises `ConflictError` for a name that is taken."""
    name = name.strip()
    if any(row.key == name.casefold() for row in servers.sets(database, domain_id)):
        raise ConflictError(f"There is a set called {name} already. Add to it, or choose another.")
    row = servers.make(database, domain_id, name)
    database.commit()
    return row


def rename(database: Session, group: ServerSetRow, name: str) -> None:
    """Call a set, which is held for writing, by another name. Raises `ConflictError`."""
    name, key = name.strip(), name.strip().casefold()
    others = servers.sets(database, group.domain_id)
    if any(row.key == key and row.id != group.id for row in others):
        raise ConflictError(f"There is a set called {name} already. Choose another name.")
    note(database, "set of servers renamed", name, domain=group.domain_id, before=group.name)
    group.name, group.key = name, key
    database.commit()


def take(database: Session, group: ServerSetRow, path: str, data: bytes) -> ServerRow:
    """Take a server's template into a set that is held for writing; one that cannot be read is kept
    as such. Raises `FieldsError` for a file that is no server's.
    """
    try:
        name = server_of(path)
    except ValueError as error:
        raise FieldsError(("path", f"{path[-100:]}: {error}.")) from None
    template, problem = read(data)
    row = servers.keep(database, group, name, template, problem, data if template else None)
    database.commit()
    return row


def read(data: bytes) -> tuple[Template | None, str]:
    """What a template says, or why it cannot be read."""
    try:
        return read_template(data), ""
    except TemplateError as error:
        told = str(error)
        return None, f"{told[0].upper()}{told[1:]}."


def hold_against(
    database: Session, group: ServerSetRow, way: Way, name: str, seen: str, person: str
) -> None:
    """Hold the servers of a set, which is held for writing, against something else. What is agreed
    on is what is wanted of them at the moment, which has to be what was `seen`. Raises
    `NotFoundError`, `ConflictError`, `ChangedMeanwhileError`.
    """
    if way == "server":
        row = servers.server(database, group.id, name)
        if row.template is None:
            raise ConflictError(f"The template of {row.name} cannot be read. Choose another one.")
        group.like_server = row.key
    elif way == "most":
        group.like_server, group.agreed, group.agreed_by, group.agreed_at = None, None, "", None
    else:
        one = found(database, group)
        if one.seen != seen:
            raise ChangedMeanwhileError(
                "What is wanted of these servers has changed meanwhile. Look at it again first."
            )
        _refuse_tied(one)
        group.like_server, group.agreed = None, dict(one.agreement.wanted.items())
        group.agreed_by, group.agreed_at = person, datetime.now(UTC)
    about = {"most": "what most say", "agreed": "what was agreed on", "server": name}[way]
    note(
        database,
        "reference of servers chosen",
        group.name,
        domain=group.domain_id,
        reference=about,
        after=group.agreed if way == "agreed" else None,
    )
    database.commit()


def _refuse_tied(one: Found) -> None:
    """What as many say one way as another is nothing that most say."""
    tied = [TEMPLATE_SETTINGS[row.key].label for row in one.agreement.rows if row.tied]
    if tied:
        raise ConflictError(
            f"As many servers say one thing as another of: {', '.join(tied)}. Choose a server that "
            "the others are held against first."
        )


def corrected(one: Found) -> bytes:
    """A zip archive of the files of those that differ, as they should be. Raises `ConflictError`
    where none does, or where nothing is wanted of them yet.
    """
    _refuse_tied(one)
    differing = [row for row in one.rows if one.agreement.odd.get(row.key)]
    if not differing:
        raise ConflictError("Every server that can be read says what is wanted: nothing to do.")
    files = ((row.name, servers.file_of(row)) for row in differing)
    return corrected_files(files, one.agreement.wanted)


@dataclass(frozen=True, slots=True)
class Turn:
    """What a reading of a server found otherwise than the one before, or why it could not be."""

    at: datetime
    problem: str
    changes: tuple[Sentence, ...]
    is_first: bool


def turns(database: Session, row: ServerRow) -> list[Turn]:
    """What was read of a server, the newest first."""
    made = []
    last: Template | None = None
    for number, one in enumerate(reversed(servers.readings_of(database, row))):
        template = _template(one.template)
        changes = () if last is None or template is None else _changes(last, template)
        made.append(Turn(one.at, one.problem, changes, number == 0))
        last = template or last
    return made[::-1]


def _changes(before: Template, after: Template) -> tuple[Sentence, ...]:
    return tuple(
        Sentence(number, "", setting.label, said_text(key, was), said_text(key, now), "")
        for number, (key, setting) in enumerate(TEMPLATE_SETTINGS.items())
        if (was := answer(before, key)) != (now := answer(after, key))
    )
