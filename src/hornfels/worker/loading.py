"""The job of loading a dump that somebody has uploaded."""

from __future__ import annotations

import logging
import traceback
from typing import BinaryIO, cast

from sqlalchemy import Engine
from sqlalchemy.exc import DBAPIError, OperationalError
from sqlalchemy.orm import Session

from hornfels.core.rights.roles import rights_in
from hornfels.formats.dump import Dump, DumpError, LdifError, load_dump
from hornfels.refusals import RefusalError
from hornfels.service import import_review
from hornfels.settings import read_settings
from hornfels.store import jobs, people, uploads
from hornfels.store.estates import save_dump
from hornfels.store.models import JobRow, UploadRow
from hornfels.store.trail import Origin, act_for, note

_log = logging.getLogger(__name__)


def load(engine: Engine, job: JobRow) -> None:
    """Read the job's upload and store its domain, and end the job, all in one transaction or not at
    all.
    """
    name, held = str(job.arguments["name"]), read_settings()
    progress = jobs.Progress(engine, job.id, held.job_hours)
    try:
        _load(engine, job, name, progress, int(held.unpacked_gb * (1 << 30)))
    except (LdifError, DumpError, RefusalError) as error:
        _fail(engine, job, f"{name}: {error}")
    except jobs.OverdueError:
        hours = f"{held.job_hours:g} hours"
        _fail(engine, job, f"{name}: the import took longer than {hours}; nothing was stored.")
    except (OperationalError, jobs.StoppedError):
        raise
    except DBAPIError:
        _fail(engine, job, f"{name}: the database did not take it; nothing was stored. Try again.")
    except Exception as error:
        # Where it happened, never what was in hand.
        place = "".join(traceback.format_tb(error.__traceback__)[-6:])
        _log.error("Loading failed with %s at\n%s", type(error).__name__, place)
        _fail(
            engine,
            job,
            f"{name}: reading it failed unexpectedly; nothing was stored. Please report it.",
        )


def _load(engine: Engine, job: JobRow, name: str, progress: jobs.Progress, most_bytes: int) -> None:
    if job.upload_id is None:
        raise DumpError("the file is no longer here; choose it again")
    with Session(engine) as session:
        size = session.get_one(UploadRow, job.upload_id).size or 0
    source = uploads.UploadReader(engine, job.upload_id)
    dump = load_dump(
        cast(BinaryIO, source),
        linked_groups=job.arguments["linked_groups"],
        other_names=True,
        most_bytes=most_bytes,
        watch=lambda _bytes: progress("reading", source.at, size),
    )
    rows = len(dump.estate.accounts) + len(dump.estate.groups)
    reviewed = may_go_on(engine, job, dump)
    while reviewed:
        progress("storing", 0, rows)
        with Session(engine) as session, session.begin():
            act_for(session, origin_of(job))
            dns_name = dump.estate.domain.dns_name
            if import_review.state_of(session, dns_name, for_writing=True) == reviewed:
                domain = save_dump(
                    session,
                    dump,
                    name,
                    job.user_name,
                    progress=lambda done: progress("storing", done, rows),
                )
                uploads.drop(session, job.upload_id)
                jobs.complete(session, job.id, {"domain": domain.dns_name})
                return
        # The domain has changed since the losses were looked at.
        reviewed = may_go_on(engine, job, dump)


def may_go_on(
    engine: Engine, job: JobRow, dump: Dump, *, by_itself: bool = False
) -> import_review.DomainState | None:
    """Return the state of the domain that the dump may replace: the job's person may load the
    domain by now (not asked of what happens `by_itself`), and nothing would be lost that nobody has
    confirmed. Else the job ends here. Raises `ConflictError` for a copy that is never stored.
    """
    domain = dump.estate.domain.dns_name
    with Session(engine) as session, session.begin():
        act_for(session, origin_of(job))
        if not by_itself and not _may(session, job.user_name, domain):
            note(session, "refused", "load", domain=domain)
            jobs.fail(
                session, job.id, f"{job.user_name} may not load {domain}. Nothing was stored."
            )
            return None
        name = str(job.arguments["name"])
        if job.kind == "load":
            import_review.refuse_dump(session, domain)
        state = import_review.state_of(session, domain)
        found = import_review.review(session, dump.estate, name)
        if not import_review.unconfirmed(found, job.arguments.get("confirmed", [])):
            return state
        lost = import_review.as_json(found)
        words = import_review.in_words(lost)
        why = (
            f"{domain} would lose protection by {name}. Nothing is stored before a person confirms "
            "the losses with a reason."
        )
        note(session, "load held", name, domain=domain, reason=why, losses=words)
        jobs.hold(session, job.id, {"domain": domain, "losses": lost}, why)
        return None


def _may(session: Session, name: str, domain: str) -> bool:
    person = people.find(session, name)
    held = rights_in(people.grants_of(session, name), domain)
    return person is not None and not person.shut and "load" in held


def origin_of(job: JobRow) -> Origin:
    """The job's person, as the trail names them."""
    return Origin(job.user_name, request=f"job {job.id}")


def _fail(engine: Engine, job: JobRow, error: str) -> None:
    with Session(engine) as session, session.begin():
        act_for(session, origin_of(job))
        note(session, "load failed", str(job.arguments["name"]))
        jobs.fail(session, job.id, error)
