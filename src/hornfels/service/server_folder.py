"""A folder on the machine in which templates of servers are kept: read again and again."""

from __future__ import annotations

import logging
from dataclasses import dataclass
from pathlib import Path

from sqlalchemy import Engine, select
from sqlalchemy.exc import DataError
from sqlalchemy.orm import Session

from hornfels.core.policy.catalogue import Template
from hornfels.formats.server_files import ServerFile, server_files
from hornfels.formats.template import MOST_BYTES
from hornfels.refusals import RefusalError
from hornfels.service.servers import read
from hornfels.settings import Settings
from hornfels.store import servers
from hornfels.store.models import DomainRow, ServerSetRow

EVERY = 300.0
"""Seconds between two looks."""
GONE = "Its file is no longer in the folder."
_FOLDER = "folder "
"""How what is ``seen`` of a file in the folder begins."""

_log = logging.getLogger(__name__)


@dataclass(frozen=True, slots=True)
class Watched:
    """The domain's folder, and what in it cannot be understood, by place."""

    folder: Path
    problems: tuple[tuple[str, str], ...]


def watched(dns_name: str, where: Settings) -> Watched | None:
    """The domain's folder; None if none is set, or it is not there."""
    if where.servers is None or not (folder := where.servers / dns_name).is_dir():
        return None
    wrong = tuple(
        (_shown(one.file, folder), one.problem) for one in server_files(folder) if one.problem
    )
    return Watched(folder, wrong[:50])


def _shown(file: Path, folder: Path) -> str:
    """A place below the folder, in letters that can be shown."""
    place = file.relative_to(folder) if file != folder else Path(folder.name)
    return str(place).encode("utf-8", "replace").decode()


def read_folder(session: Session, domain_id: int, dns_name: str, where: Settings) -> None:
    """Read what is new in the domain's folder, and say of whom the file has gone. Commits. Raises
    `ConflictError` where there is more than can be kept.
    """
    if where.servers is None or not (folder := where.servers / dns_name).is_dir():
        return
    found: dict[str, tuple[str, list[ServerFile]]] = {}
    for one in server_files(folder):
        if not one.problem:
            found.setdefault(one.group.casefold(), (one.group, []))[1].append(one)
    # A set whose folder has gone is looked at too: the files of its servers have.
    for row in servers.sets(session, domain_id):
        found.setdefault(row.key, (row.name, []))
    for name, files in found.values():
        _read_set(session, servers.make(session, domain_id, name), files)
        session.commit()


def _read_set(session: Session, group: ServerSetRow, files: list[ServerFile]) -> None:
    held = {row.key: row for row in servers.servers(session, group.id)}
    for one in files:
        row = held.pop(one.server.casefold(), None)
        seen = _state(one.file)
        if row is None or row.seen != seen:
            try:
                with session.begin_nested():
                    servers.keep(session, group, one.server, *_read(one.file), seen=seen)
            except DataError as error:
                # A file that cannot be stored stops no other file.
                _log.warning("A server's file was not kept: %s", type(error.orig).__name__)
    for row in held.values():
        if row.seen.startswith(_FOLDER) and row.problem != GONE:
            servers.keep(session, group, row.name, None, GONE, None, seen=_FOLDER)


def _state(file: Path) -> str:
    """By what a file is known again as long as it is the same."""
    try:
        state = file.stat()
    except OSError as error:
        return f"{_FOLDER}{error.strerror}"
    return f"{_FOLDER}{state.st_mtime_ns} {state.st_size} {state.st_mode}"


def _read(file: Path) -> tuple[Template | None, str, bytes | None]:
    """What a file's template says, or why it cannot be read; with the file itself."""
    try:
        with file.open("rb") as source:
            data = source.read(MOST_BYTES + 1)
    except OSError as error:
        return None, f"It cannot be read: {error.strerror}.", None
    if len(data) > MOST_BYTES:
        return None, "It is larger than any template is.", None
    template, problem = read(data)
    return template, problem, None if template is None else data


def read_every_folder(engine: Engine, where: Settings) -> None:
    """Read the folders of all domains."""
    if where.servers is None:
        return
    with Session(engine) as session:
        for domain_id, dns_name in session.execute(select(DomainRow.id, DomainRow.dns_name)).all():
            try:
                read_folder(session, domain_id, dns_name, where)
            except RefusalError as error:
                session.rollback()
                _log.warning("The folder of %s’s servers: %s", dns_name, error)
