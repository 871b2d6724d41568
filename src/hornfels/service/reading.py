"""Reading a domain's directory into Hornfels: what is new of it, or all."""

from __future__ import annotations

import random
from collections.abc import Callable
from dataclasses import dataclass, replace
from datetime import UTC, datetime, timedelta
from typing import Any
from uuid import UUID

from sqlalchemy import Engine, select
from sqlalchemy.orm import Session

from hornfels.core.domain.estate import Estate
from hornfels.core.drafts.news import News, news
from hornfels.core.policy.catalogue import Template
from hornfels.core.resolution.agreement import Word, disagreements
from hornfels.core.resolution.engine import resolve
from hornfels.core.resolution.roster import Roster
from hornfels.core.values.collecting import no_collection
from hornfels.directory import reading
from hornfels.directory.asking import words_of
from hornfels.directory.link import Link, linked
from hornfels.directory.origins import Origins, origins
from hornfels.directory.reach import DirectoryError
from hornfels.directory.reading import Entry, Mark, Place
from hornfels.formats.dump import Dump, dump_of
from hornfels.formats.ldif import Record
from hornfels.formats.policies_folder import TemplateFound, templates_in
from hornfels.service import connections, publications
from hornfels.service.drift import since
from hornfels.settings import Settings
from hornfels.store import jobs, readings
from hornfels.store.estates import (
    linked_groups_of,
    load_domain,
    load_estate,
    load_policies,
    save_dump,
)
from hornfels.store.models import ConnectionRow, DomainRow, JobRow, ReadingRow
from hornfels.store.publications import unfinished
from hornfels.store.trail import note

Progress = Callable[[str, int, int], None]

BY_ITSELF = "Hornfels"
"""Whose readings those of the schedule are."""
SAMPLE = 50
"""Accounts that the directory is asked its own word of at every reading."""
MOST_KEPT = 500
"""Disagreements that are kept; how many there are in all is kept too."""
LONGEST_BETWEEN = timedelta(days=30)
"""After so long everything is read: what was deleted may be forgotten by then."""


@dataclass(frozen=True, slots=True)
class Brought:
    """A reading that is not stored yet."""

    place: Place
    server: str
    entries: dict[bytes, Entry]
    changed: list[bytes] | None
    """GUIDs of what is otherwise than before; None if everything was read."""
    dump: Dump
    templates: list[TemplateFound]
    origins: Origins
    """Since when policies are as they are."""


def read(
    engine: Engine, dns_name: str, where: Settings, progress: Progress, *, whole: bool
) -> Brought | None:
    """Read what has changed since the last time, or everything: on request, from another server's
    copy, or where deletions are not to be seen. None if nothing is otherwise. Raises
    `DirectoryError`, `ConflictError`, `DumpError`, `LdifError`.
    """
    with Session(engine) as session:
        _, given = connections.find(session, dns_name)
        held_row = readings.of_domain(session, dns_name)
        domain = _domain(session, dns_name)
        linked_groups = linked_groups_of(domain) if domain else "global"
        before = _Before.of(held_row) if held_row and domain else None
    progress("connecting", 0, 0)
    expected = before.objects if before else 0
    entries: dict[bytes, Entry] = {}
    changed: list[bytes] | None = None
    reach = connections.reader(given, where)
    with linked(reach, lambda: progress("reading", len(entries), expected)) as link:
        place = reading.place(link)
        if place.dns_name != dns_name:
            raise DirectoryError(f"{link.server} has {place.dns_name}, not {dns_name}.")
        goes_on = before and before.goes_on(place.mark, datetime.now(UTC))
        if before and goes_on and not whole and reading.sees_deleted(link, place.dn):
            entries, changed = _since(engine, link, place, dns_name, before.mark.usn)
        else:
            for entry in reading.whole(link, place.dn):
                entries[entry.guid] = entry
                if len(entries) % 200 == 0:
                    progress("reading", len(entries), expected)
            entries = reading.with_rules(entries, reading.access_rules(link, place.dn))
        # Of a domain that was not here yet, all of it is new.
        known = origins(link, place.dn) if before and changed != [] else {}
    templates = _templates(entries, dns_name, where)
    as_it_was = before is not None and domain is not None and before.state == _state(domain)
    if changed == [] and as_it_was and not _new_templates(domain, templates):
        return None
    progress("understanding", 0, len(entries))
    dump = dump_of(
        (Record(e.dn, 0, e.values, b"", in_parts=False) for e in entries.values()),
        linked_groups=linked_groups,
        progress=lambda count: progress("understanding", count, len(entries)),
    )
    return Brought(place, str(link.server), entries, changed, dump, templates, known)


@dataclass(frozen=True, slots=True)
class _Before:
    """The reading before: how far the server was, when, how much there was, and the state in which
    it left the domain here.
    """

    mark: Mark
    at: datetime
    objects: int
    state: list[int]

    @classmethod
    def of(cls, row: ReadingRow) -> _Before | None:
        if row.invocation is None or row.read_at is None:
            return None
        told = row.told
        mark = Mark(row.invocation, row.usn)
        return cls(mark, row.read_at, int(told.get("objects", 0)), told.get("state", []))

    def goes_on(self, mark: Mark, now: datetime) -> bool:
        """Whether the server's numbers still mean what they meant. One that was set back to an
        earlier state counts on from there.
        """
        same = self.mark.invocation == mark.invocation and self.mark.usn <= mark.usn
        return same and now - self.at < LONGEST_BETWEEN


def _state(domain: DomainRow) -> list[int]:
    """Changes with whatever is loaded or published in the domain."""
    return [domain.id, domain.estate_id, domain.version]


def _since(
    engine: Engine, link: Link, place: Place, dns_name: str, usn: int
) -> tuple[dict[bytes, Entry], list[bytes]]:
    fresh = list(reading.since(link, place.dn, usn))
    counted = reading.counts(link, place.dn)
    rules = reading.access_rules(link, place.dn)
    with Session(engine) as session, no_collection():
        held = {
            values["objectguid"][0]: Entry(values["objectguid"][0], dn, values)
            for dn, values in readings.entries(session, dns_name)
        }
        there = reading.with_rules(reading.merged(held, fresh, counted), rules)
    gone = held.keys() - there.keys()
    changed = [guid for guid, entry in there.items() if held.get(guid) != entry]
    return there, [*gone, *changed]


def _templates(entries: dict[bytes, Entry], dns_name: str, where: Settings) -> list[TemplateFound]:
    """What the security templates of the domain's group policy objects say, where the domain share
    is at hand.
    """
    if where.sysvol is None:
        return []
    objects = [
        (entry.dn, entry.values.get("displayname", [b""])[0].decode("utf-8", "replace"))
        for entry in entries.values()
        if b"grouppolicycontainer" in (c.lower() for c in entry.values.get("objectclass", ()))
    ]
    return list(templates_in(where.sysvol / dns_name / "Policies", objects))


def _new_templates(domain: DomainRow | None, found: list[TemplateFound]) -> dict[str, Template]:
    held = domain.templates if domain else {}
    said = _said(found)
    return {key: template for key, template in said.items() if held.get(key, {}) != dict(template)}


def _said(found: list[TemplateFound]) -> dict[str, Template]:
    """What the templates say that could be read; one that is not there says nothing."""
    return {one.key: one.template or {} for one in found if not one.problem}


def store(
    session: Session, dns_name: str, brought: Brought, user: str, progress: Callable[[int], None]
) -> list[News]:
    """Keep what was read, all of it in the session's transaction, and tell what is new."""
    row = readings.of_domain(session, dns_name, for_writing=True)
    if row is None:
        row = ReadingRow(dns_name=dns_name, told={})
        session.add(row)
        session.flush()
    domain = _domain(session, dns_name)
    before = load_estate(session, domain) if domain else None
    said = _said(brought.templates)
    domain = save_dump(
        session, brought.dump, brought.server, user, progress=progress, templates=said
    )
    found = list(_news(before, _stored(session, domain, brought.dump.estate), brought))
    touched = brought.entries if brought.changed is None else brought.changed
    held = (brought.entries[guid] for guid in touched if guid in brought.entries)
    fresh = {entry.guid: (entry.dn, entry.values) for entry in held}
    readings.replace(session, dns_name, fresh, changed=brought.changed)
    now = datetime.now(UTC)
    mark = brought.place.mark
    row.server, row.invocation, row.usn = brought.server, mark.invocation, mark.usn
    row.read_at, row.tried_at = now, now
    if brought.changed is None:
        row.whole_at = now
    row.told = {
        **row.told,
        "error": "",
        "objects": len(brought.entries),
        "state": _state(domain),
        "whole": brought.changed is None,
        "first": before is None,
        "news": [one._asdict() for one in found],
        "templates": [one.told() for one in brought.templates],
    }
    return found


def _news(before: Estate | None, after: Estate, brought: Brought) -> tuple[News, ...]:
    if before is None:
        return ()
    ours = (guid for guid, entry in brought.entries.items() if entry.dn == brought.place.dn)
    domain = next((UUID(bytes_le=guid) for guid in ours), None)
    return news(before, after, since(brought.origins, domain))


def _stored(session: Session, domain: DomainRow, read: Estate) -> Estate:
    """What was read, with what Hornfels keeps of its policies besides."""
    policies, links = load_policies(session, domain)
    return replace(read, domain=load_domain(domain), policies=policies, links=links)


def nothing_new(session: Session, dns_name: str) -> None:
    """The directory was looked at, and all is as it was."""
    row = readings.of_domain(session, dns_name, for_writing=True)
    if row:
        row.read_at = row.tried_at = datetime.now(UTC)
        row.told = {**row.told, "error": "", "news": [], "whole": False, "first": False}


def failed(session: Session, dns_name: str, error: str) -> None:
    if session.get(ConnectionRow, dns_name) is None:
        return
    row = readings.of_domain(session, dns_name, for_writing=True)
    if row is None:
        row = ReadingRow(dns_name=dns_name, told={})
        session.add(row)
    row.tried_at = datetime.now(UTC)
    row.told = {**row.told, "error": error}


def compared(
    engine: Engine,
    dns_name: str,
    estate: Estate,
    where: Settings,
    progress: Progress,
    *,
    everybody: bool,
) -> dict[str, Any]:
    """Where the directory's own word on a sample of accounts, or on everybody, is otherwise, as it
    is kept.
    """
    with Session(engine) as session:
        _, given = connections.find(session, dns_name)
    roster = Roster(estate, resolve(estate))
    rows = range(len(estate.accounts)) if everybody else _sample(roster)
    words: dict[int, Word] = {}
    reach = connections.reader(given, where)
    with linked(reach, lambda: progress("comparing", len(words), len(rows))) as link:
        names = {row: estate.accounts.dn[row] for row in rows}
        for row, word in words_of(link, names):
            words[row] = word
            if len(words) % 50 == 0:
                progress("comparing", len(words), len(rows))
    found = disagreements(roster, words)
    return {
        "at": datetime.now(UTC).isoformat(),
        "asked": len(words),
        "everybody": everybody,
        "disagree": len(found),
        "found": [one._asdict() for one in found[:MOST_KEPT]],
    }


def _sample(roster: Roster) -> list[int]:
    """Rows of one account of each population, where a misunderstanding would show, and of some
    others.
    """
    total = len(roster.estate.accounts)
    others = random.Random().sample(range(total), min(total, SAMPLE))  # noqa: S311 - a sample
    return sorted({*roster.resolution.samples.tolist()[:SAMPLE], *others})


def compare_everybody(
    engine: Engine, dns_name: str, where: Settings, progress: Progress
) -> dict[str, Any]:
    """Ask the directory for its own word on everybody who was read."""
    with Session(engine) as session:
        domain = _domain(session, dns_name)
        if domain is None:
            raise DirectoryError(f"{dns_name} has not been read yet. Read it first.")
        estate = load_estate(session, domain)
    return compared(engine, dns_name, estate, where, progress, everybody=True)


def keep_agreement(session: Session, dns_name: str, found: dict[str, Any]) -> None:
    row = readings.of_domain(session, dns_name, for_writing=True)
    if row:
        row.told = {**row.told, "agreement": found}


def begin(session: Session, dns_name: str, person: str, *, whole: bool) -> JobRow:
    """Begin to read a directory; the job that does so already if there is one. Commits. Raises
    `ConflictError` while a draft is being written into it.
    """
    connections.find(session, dns_name)
    domain = _domain(session, dns_name)
    if domain:
        publications.refuse_meanwhile(session, domain.id)
    job = jobs.active(session, "read", dns_name)
    if job is None:
        arguments = {"name": "the directory", "whole": whole}
        job = jobs.start(session, "read", person, domain=dns_name, arguments=arguments)
        note(session, "reading begun", dns_name, domain=dns_name, whole=whole)
    session.commit()
    session.refresh(job)
    return job


def begin_comparing(session: Session, dns_name: str, person: str) -> JobRow:
    """Begin to ask the directory for its own word on everybody. Commits."""
    connections.find(session, dns_name)
    job = jobs.active(session, "agreement", dns_name)
    if job is None:
        arguments = {"name": "the directory"}
        job = jobs.start(session, "agreement", person, domain=dns_name, arguments=arguments)
    session.commit()
    session.refresh(job)
    return job


def begin_due(session: Session, now: datetime) -> None:
    """Begin the readings that the schedule wants by now. One that waits to be confirmed is not
    begun again.
    """
    asked = select(ConnectionRow, ReadingRow.tried_at).outerjoin(
        ReadingRow, ReadingRow.dns_name == ConnectionRow.dns_name
    )
    for row, tried_at in session.execute(asked.with_for_update(of=ConnectionRow)):
        every = row.settings.get("every")
        is_due = every and (tried_at is None or now - tried_at >= timedelta(minutes=every))
        domain = _domain(session, row.dns_name) if is_due else None
        if domain and unfinished(session, domain.id):
            continue
        if is_due and jobs.active(session, "read", row.dns_name) is None:
            arguments = {"name": "the directory", "whole": False}
            jobs.start(session, "read", BY_ITSELF, domain=row.dns_name, arguments=arguments)


def begin_after(session: Session, dns_name: str) -> None:
    """Begin to read what was just written into a domain's directory, where one is connected."""
    connected = session.scalar(
        select(ConnectionRow.dns_name).where(ConnectionRow.dns_name == dns_name)
    )
    if connected and jobs.active(session, "read", dns_name) is None:
        arguments = {"name": "the directory", "whole": False}
        jobs.start(session, "read", BY_ITSELF, domain=dns_name, arguments=arguments)


def _domain(session: Session, dns_name: str) -> DomainRow | None:
    return session.scalars(select(DomainRow).where(DomainRow.dns_name == dns_name)).one_or_none()
