"""A draft written into its domain's directory step by step: begun, gone on with, taken back. What
becomes live here is what was written there.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from uuid import UUID

from sqlalchemy import Engine, select
from sqlalchemy.orm import Session

from hornfels.core.domain.estate import Estate
from hornfels.core.drafts.applying import apply, left_to_do
from hornfels.core.drafts.operations import Operations, published, readdressed
from hornfels.directory.link import Link, linked
from hornfels.directory.reach import DirectoryError
from hornfels.directory.writing import Ahead, ChangedError, carry_out, look, look_ahead
from hornfels.formats.writes import Add, Delete, Plan, Step, planned, with_successor
from hornfels.refusals import ConflictError, NotFoundError
from hornfels.service import connections
from hornfels.service.snapshots import Snapshot
from hornfels.settings import Settings
from hornfels.store import drafts, jobs, publications
from hornfels.store.estates import load_estate
from hornfels.store.models import (
    DomainRow,
    DraftRow,
    JobRow,
    PublicationRow,
    PublicationStepRow,
)
from hornfels.store.trail import note

Progress = Callable[[str, int, int], None]


@dataclass(frozen=True, slots=True)
class Preview:
    """What publishing a draft would write. ``server`` is "" where publishing does not write into
    the directory: then nobody was asked; ``problem`` says why nobody could be.
    """

    plan: Plan
    ahead: tuple[Ahead, ...] = ()
    server: str = ""
    problem: str = ""


def preview(engine: Engine, current: Snapshot, where: Settings) -> Preview:
    """What publishing the draft that is shown would write, looked at in the directory. Nothing is
    written.
    """
    live, dns_name = current.live.estate, current.estate.domain.dns_name
    plan = planned(live, current.published.estate)
    if not _written_to(engine, dns_name):
        return Preview(plan)
    with Session(engine) as session:
        _, given = connections.find(session, dns_name)
    try:
        with linked(connections.writer(given, where)) as link:
            found = tuple(look_ahead(link, [step.write for step in plan.steps]))
            return Preview(plan, found, str(link.server))
    except (DirectoryError, ConflictError) as error:
        return Preview(plan, problem=str(error))


def _written_to(engine: Engine, dns_name: str) -> bool:
    with Session(engine) as session:
        return is_written_to(session, dns_name)


def is_written_to(session: Session, dns_name: str) -> bool:
    """Whether publishing writes into the domain's directory."""
    try:
        _, given = connections.find(session, dns_name)
    except NotFoundError:
        return False
    return given.writer is not None and given.publishes


def refuse_meanwhile(session: Session, domain_id: int) -> None:
    """Raises `ConflictError` while a draft is being written into the directory."""
    if publications.unfinished(session, domain_id):
        raise ConflictError(
            "A draft is being written into the directory, or has stopped on the way (Changes). "
            "Have it finished or taken back first."
        )


def begin(
    session: Session, domain: DomainRow, row: DraftRow, before: Estate, after: Estate, person: str
) -> JobRow | None:
    """Begin to write a draft, held for writing like its domain, into the directory; None if there
    is nothing in it that a directory holds. Until it is done, nothing changes here.
    """
    plan = planned(before, after)
    if not plan.steps:
        return None
    publication = publications.add(session, domain.id, row.id, person, plan.steps)
    row.state = drafts.PUBLISHING
    job = _job(session, domain, publication, person)
    note(
        session,
        "publishing begun",
        f"“{row.title}” (draft {row.id})",
        domain=domain.dns_name,
        steps=[
            f"{one.subject}: {one.text}: {one.before} → {one.after}"
            for step in plan.steps
            for one in step.said
        ],
    )
    return job


@dataclass(frozen=True, slots=True)
class UnderWay:
    """A publication that is not finished, whether it goes on just now, and why not."""

    row: PublicationRow
    draft: int
    title: str
    going: bool
    why: str
    job: JobRow | None
    steps: list[tuple[PublicationStepRow, Step]]


def under_way(session: Session, domain_id: int) -> UnderWay | None:
    """What is being written into the domain's directory, or has stopped on the way."""
    found = publications.unfinished(session, domain_id)
    if found is None:
        return None
    draft = session.get_one(DraftRow, found.draft_id)
    going = _is_going(session, found)
    steps = publications.steps_of(session, found.id)
    return UnderWay(
        found,
        draft.id,
        draft.title,
        going,
        "" if going else found.told or _stopped_at([row for row, _ in steps]),
        session.get(JobRow, found.job_id),
        steps,
    )


def _stopped_at(steps: list[PublicationStepRow]) -> str:
    """Return how far a publication is that was stopped between two workers, which say nothing."""
    done = sum(row.state == "done" for row in steps)
    begun = sum(row.state == "begun" for row in steps)
    if not done and not begun:
        return "The publication was stopped before the first step."
    words = f"The publication was stopped when {done} of {len(steps)} steps were done."
    return f"{words} One more step was begun, and may be done." if begun else words


def _is_going(session: Session, publication: PublicationRow) -> bool:
    """A job that somebody stopped before a worker had it leaves nothing behind but its end."""
    job = session.get(JobRow, publication.job_id)
    return publication.state == "going" and job is not None and job.state in jobs.ACTIVE


def go_on(session: Session, domain: DomainRow, person: str, *, back: bool) -> JobRow:
    """Finish what has stopped on the way, or take back what is done of it. Commits."""
    found = stopped_one(session, domain.dns_name, for_writing=True)
    found.state, found.back, found.told = "going", back, ""
    draft = session.get_one(DraftRow, found.draft_id)
    job = _job(session, domain, found, person)
    note(
        session,
        "publishing taken back" if back else "publishing gone on with",
        f"“{draft.title}” (draft {draft.id})",
        domain=domain.dns_name,
    )
    session.commit()
    session.refresh(job)
    return job


def stopped_one(session: Session, dns_name: str, *, for_writing: bool = False) -> PublicationRow:
    """Return the publication of a domain that has stopped on the way. Raises `NotFoundError`, and
    `ConflictError` while the publication goes on.
    """
    domain = session.scalars(select(DomainRow).where(DomainRow.dns_name == dns_name)).one_or_none()
    found = domain and publications.unfinished(session, domain.id, for_writing=for_writing)
    if not found:
        raise NotFoundError("Nothing waits to be finished: it is done or taken back by now.")
    if _is_going(session, found):
        raise ConflictError("It is being written just now. Stop it first.")
    return found


def made_anew(session: Session, dns_name: str) -> dict[UUID, UUID]:
    """Return the new GUIDs of what the roll-back of a domain's publication made anew, by those that
    were there before.
    """
    found = stopped_one(session, dns_name)
    return _successors(publications.steps_of(session, found.id))


def _successors(rows: list[tuple[PublicationStepRow, Step]]) -> dict[UUID, UUID]:
    return {
        step.write.guid: row.guid
        for row, step in rows
        if isinstance(step.write, Delete) and step.write.guid and row.guid
    }


def _job(session: Session, domain: DomainRow, publication: PublicationRow, person: str) -> JobRow:
    arguments = {"name": "the directory", "publication": publication.id}
    job = jobs.start(session, "publish", person, domain=domain.dns_name, arguments=arguments)
    publication.job_id = job.id
    return job


def write(
    engine: Engine, publication: int, dns_name: str, where: Settings, progress: Progress
) -> None:
    """Do every step that is not done yet, or take back every one that is, the last first. Raises
    `DirectoryError` where it cannot go on.
    """
    with Session(engine) as session:
        _, given = connections.find(session, dns_name)
        found = session.get_one(PublicationRow, publication)
        if found.state != "going":
            raise jobs.StoppedError
        back = found.back
        rows = publications.steps_of(session, publication)
        steps = [(row.number, row.state, step) for row, step in rows]
        successors = _successors(rows)
    # One that was begun may be done: it is looked at again, whichever way it goes.
    todo = [one for one in steps if one[1] != ("waiting" if back else "done")]
    todo = todo[::-1] if back else todo
    progress("connecting", 0, 0)
    with linked(connections.writer(given, where)) as link:
        for count, (number, state, step) in enumerate(todo):
            progress("taking back" if back else "writing", count, len(todo))
            publications.mark(engine, publication, number, "begun")
            try:
                if isinstance(step.write, Delete) and not back and state == "begun":
                    successors |= _made_anew(link, step.write)
                write = step.write.inverse if back else step.write
                guid = carry_out(link, with_successor(write, successors))
            except DirectoryError as error:
                if isinstance(error, ChangedError) or error.code is not None:
                    # The directory has said no: it is as it was.
                    publications.mark(engine, publication, number, state)
                raise
            made = guid if isinstance(write, Add) else None
            if made and isinstance(step.write, Delete) and step.write.guid:
                successors[step.write.guid] = made
            publications.mark(engine, publication, number, "waiting" if back else "done", made)


def _made_anew(link: Link, write: Delete) -> dict[UUID, UUID]:
    """Return the successor of an object that a roll-back made anew before it was killed: the object
    has the values of the one that was deleted.
    """
    try:
        found = look(link, write.inverse)
    except ChangedError:
        return {}
    return {write.guid: found.guid} if write.guid and found.guid else {}


def stopped(session: Session, publication: int, why: str) -> None:
    """It goes no further before somebody says how."""
    found = session.get(PublicationRow, publication, with_for_update=True)
    if found and found.state == "going":
        found.state, found.told = "stopped", why


def ended(session: Session, publication: int) -> DomainRow:
    """All is written, or taken back: the draft becomes live here, or is open again."""
    found = session.get_one(PublicationRow, publication, with_for_update=True)
    domain = session.get_one(DomainRow, found.domain_id, with_for_update=True)
    draft = session.get_one(DraftRow, found.draft_id, with_for_update=True)
    if found.back:
        found.state, draft.state = "taken back", "open"
        drafts.end_approval(session, draft, "The publication of the draft was rolled back.")
        note(session, "draft open again", f"“{draft.title}” (draft {draft.id})", domain=domain.id)
        return domain
    found.state = "done"
    live = load_estate(session, domain)
    operations = published(drafts.operations_of(draft))
    operations = readdressed(operations, _given_guids(session, publication, live, operations))
    # What a reading has brought meanwhile is there already.
    applied = apply(live, operations)
    operations = left_to_do(operations, applied.conflicts)
    applied = apply(live, operations)
    drafts.publish(
        session,
        domain,
        draft,
        live,
        applied.estate,
        operations,
        found.author,
        in_directory=True,
    )
    return domain


def _given_guids(
    session: Session, publication: int, live: Estate, operations: Operations
) -> dict[UUID, UUID]:
    """The GUIDs that the directory gave the policies that the draft adds."""
    made = {
        step.write.dn: row.guid
        for row, step in publications.steps_of(session, publication)
        if row.guid
    }
    after = apply(live, operations).estate
    return {p.guid: guid for p in after.policies if (guid := made.get(p.dn))}
