"""Closing a publication that can neither be finished nor rolled back: what the directory holds of
each step is kept, and the domain goes on.
"""

from __future__ import annotations

from dataclasses import replace

from sqlalchemy import Engine
from sqlalchemy.orm import Session

from hornfels.core.values.dn import parent_of
from hornfels.directory.link import Link, linked
from hornfels.directory.reach import DirectoryError, RefusedError
from hornfels.directory.writing import ChangedError, dn_of, look
from hornfels.formats.writes import Add, Delete, Step, Write, with_successor
from hornfels.refusals import ConflictError, NotFoundError
from hornfels.service import acts, connections, publications, reading
from hornfels.settings import Settings
from hornfels.store import drafts, estates, history
from hornfels.store import publications as stored
from hornfels.store.models import DomainRow, DraftRow, JobRow
from hornfels.store.trail import Origin, act_for, note

_HELD = "the directory holds the change."


def close(
    engine: Engine, dns_name: str, reason: str, where: Settings, origin: Origin
) -> JobRow | None:
    """Close the publication of a domain that has stopped on the way as the directory is; the draft
    is open again. Return the job of the sync that follows, None where no directory is connected.
    Raises `NotFoundError`, and `ConflictError` while the publication goes on.
    """
    reason = acts.reasoned(reason)
    with Session(engine) as session:
        publication = publications.stopped_one(session, dns_name).id
        rows = stored.steps_of(session, publication)
    found = look_at_steps(engine, dns_name, [step for _, step in rows], where)
    with Session(engine) as session:
        act_for(session, origin)
        row = publications.stopped_one(session, dns_name, for_writing=True)
        if row.id != publication:
            raise ConflictError(
                "Another publication has stopped meanwhile. Look at that publication first."
            )
        domain = session.get_one(DomainRow, row.domain_id, with_for_update=True)
        draft = session.get_one(DraftRow, row.draft_id, with_for_update=True)
        row.state, draft.state = "closed", "open"
        drafts.end_approval(session, draft, "The publication of the draft was closed as it is.")
        _keep(session, domain, draft, found, reason, origin.person)
        note(
            session,
            "publication closed",
            f"“{draft.title}” (draft {draft.id})",
            domain=dns_name,
            reason=reason,
            steps=found,
        )
        try:
            job = reading.begin(session, dns_name, origin.person, whole=True)
        except NotFoundError:
            job = None
        session.commit()
        if job:
            session.refresh(job)
            session.expunge(job)
        return job


def look_at_steps(engine: Engine, dns_name: str, steps: list[Step], where: Settings) -> list[str]:
    """Return what the directory holds of each step now, in words."""
    with Session(engine) as session:
        successors = publications.made_anew(session, dns_name)
        try:
            _, given = connections.find(session, dns_name)
        except NotFoundError as error:
            return _not_seen(steps, str(error))
    writes = [with_successor(step.write, successors) for step in steps]
    # The writer may be what stopped the publication: the reader looks where the writer cannot.
    for signs_in in (connections.writer, connections.reader):
        try:
            with linked(signs_in(given, where)) as link:
                found = [_holds(link, write) for write in writes]
            return [f"{_said(step)}: {words}" for step, words in zip(steps, found, strict=True)]
        except (RefusedError, ConflictError) as error:
            why = str(error)
        except DirectoryError as error:
            return _not_seen(steps, str(error))
    return _not_seen(steps, why)


def _not_seen(steps: list[Step], why: str) -> list[str]:
    return [f"{_said(step)}: not known. {why}" for step in steps]


def _said(step: Step) -> str:
    return "; ".join(
        f"{one.subject}: {one.text}" + (f" {one.before} → {one.after}" if one.after else "")
        for one in step.said
    )


def _holds(link: Link, write: Write) -> str:
    """Return what the directory holds of a write, under whatever name its policy has by now."""
    try:
        if not isinstance(write, Add) and write.guid:
            dn = dn_of(link, write.guid, parent_of(write.dn))
            if dn is None:
                return _HELD if isinstance(write, Delete) else "the policy was deleted."
            write = replace(write, dn=dn)
        done = look(link, write).state == "after"
    except ChangedError as error:
        return str(error)
    return _HELD if done else "the directory does not hold the change."


def _keep(
    session: Session,
    domain: DomainRow,
    draft: DraftRow,
    found: list[str],
    reason: str,
    person: str,
) -> None:
    policies, links = estates.load_policies(session, domain)
    history.add(
        session,
        domain,
        policies,
        links,
        estates.load_domain(domain),
        kind="closed",
        title=draft.title,
        effect="\n".join(found),
        author=person,
        reason=reason,
    )
