"""Making a draft live: all of it or nothing, and only with the approval and the trials that the
domain wants.
"""

from __future__ import annotations

from sqlalchemy import Engine

from hornfels.core.domain.estate import Estate
from hornfels.core.drafts.applying import apply, left_to_do
from hornfels.core.drafts.operations import Operations, published
from hornfels.formats.changes import write_changes
from hornfels.formats.writes import planned
from hornfels.refusals import ChangedMeanwhileError, ConflictError
from hornfels.service import publications
from hornfels.service.editing import Editing, domain_for_writing, shown_draft
from hornfels.service.long_answers import outcomes_once_published
from hornfels.service.snapshots import Told
from hornfels.store import drafts, trials
from hornfels.store.models import DraftRow, JobRow


def publish(edit: Editing, engine: Engine, version: int) -> JobRow | None:
    """Make the draft live: all of it or, if anything does not fit, nothing. What is so already is
    left as it is. Where somebody is set to write into the directory, the job that does so first;
    None where the draft is live already.
    """
    database = edit.database
    # Before anything is held: on many accounts a worker runs them.
    told = _trials_told(edit, engine) if edit.current.trials_required else {}
    domain = domain_for_writing(database, edit.current)
    live = edit.snapshots.of(domain.dns_name, database)
    row = edit.row(version)
    operations = published(drafts.operations_of(row))
    if live is None or not operations:
        raise ConflictError("The draft holds nothing to publish.")
    applied = apply(live.estate, operations)
    unfit = [c for c in applied.conflicts if not c.already]
    if unfit:
        raise ConflictError(
            f"Nothing was published: {unfit[0].reason} Resolve or drop the changes that do not fit."
        )
    operations = left_to_do(operations, applied.conflicts)
    if not operations:
        raise ConflictError("Nothing is left to publish: all of it is so already. Close the draft.")
    if domain.trials_required:
        as_told = (live.estate_id, live.version) == (edit.current.estate_id, edit.current.version)
        if not as_told or {row.id for row, _ in trials.kept(database, domain.id)} != told.keys():
            raise ChangedMeanwhileError(
                "Nothing was published: the domain or its trials have changed meanwhile. "
                "Publish again."
            )
    if drafts.end_outdated_approval(database, row, live.estate):
        why = row.approval_ended
        database.commit()
        raise ChangedMeanwhileError(
            f"Nothing was published: the approval has ended. {why} Have the draft approved again."
        )
    if domain.approval_required and row.approved_by is None:
        raise ConflictError(
            "This domain wants drafts approved by a second person before they are published."
        )
    publications.refuse_meanwhile(database, domain.id)
    job = None
    if publications.is_written_to(database, domain.dns_name):
        job = publications.begin(database, domain, row, live.estate, applied.estate, edit.user)
    if job is None:
        records = _change_records(live.estate, applied.estate, operations, row)
        drafts.publish(
            database,
            domain,
            row,
            live.estate,
            applied.estate,
            operations,
            edit.user,
            in_directory=None if records is None else False,
            change_records=records,
        )
    database.commit()
    return job


def _change_records(
    before: Estate, after: Estate, operations: Operations, row: DraftRow
) -> str | None:
    """Return the change records of a draft that Hornfels does not write into the directory itself;
    None where the directory holds nothing of the draft.
    """
    if not planned(before, after).steps:
        return None
    title = f"{row.title}\n{row.reason}" if row.reason else row.title
    return b"".join(write_changes(before, operations, title)).decode()


def _trials_told(edit: Editing, engine: Engine) -> dict[int, Told]:
    """What comes of every trial once the draft is published. Refused unless all of them are met."""
    shown_draft(edit.current)
    kept = trials.kept(edit.database, edit.current.domain_id)
    edit.database.close()
    told = outcomes_once_published(engine, edit.current, kept, edit.user)
    if told is None:
        raise ConflictError(
            "Nothing was published: the trials are still being run on all accounts. Publish "
            "again in a moment."
        )
    unmet = [row for row, _ in kept if not told[row.id].met]
    if unmet:
        raise ConflictError(
            f"Nothing was published: {len(unmet)} of {len(kept)} trials "
            f"{'is' if len(unmet) == 1 else 'are'} not met. "
            f"“{unmet[0].title}”: {told[unmet[0].id].said}"
        )
    return told
