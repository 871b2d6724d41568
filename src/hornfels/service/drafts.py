"""Drafts as a whole: opened, described, weighed, changed step by step, approved, ended."""

from __future__ import annotations

from datetime import UTC, datetime

from sqlalchemy.orm import Session

from hornfels.core.domain.estate import Control, Estate
from hornfels.core.drafts.applying import all_there, apply
from hornfels.core.drafts.approval import draft_text
from hornfels.core.drafts.edits import renumber
from hornfels.core.drafts.operations import (
    Flag,
    JoinGroup,
    LeaveGroup,
    Operation,
    Operations,
    SetFlag,
    inverse,
)
from hornfels.refusals import (
    ChangedMeanwhileError,
    ConflictError,
    ForbiddenError,
    NotFoundError,
)
from hornfels.service.editing import Editing
from hornfels.service.snapshots import Snapshot, Tally, tallied
from hornfels.store import drafts, history
from hornfels.store.drafts import State
from hornfels.store.estates import successors_in
from hornfels.store.models import DraftRow


def open_draft(database: Session, current: Snapshot, person: str, title: str) -> DraftRow:
    """Open a draft. Without a title it is the person's own of today, a new one if there is none
    yet.
    """
    drafts.hold_titles(database, current.domain_id)
    row = None
    if title:
        drafts.refuse_taken(database, current.domain_id, title)
    else:
        title = f"Draft of {datetime.now(UTC):%-d %B}"
        row = drafts.own(database, current.domain_id, title, person)
        title = drafts.free_title(database, current.domain_id, title)
    row = row or drafts.create(database, current.domain_id, title, person)
    database.commit()
    database.refresh(row)
    return row


def take_back(database: Session, current: Snapshot, person: str, point: int) -> DraftRow:
    """A draft that takes a publish back. Nothing changes until it is published itself."""
    found = history.find(database, current.domain_id, point)
    successors = successors_in(database, current.domain_id)
    operations = inverse(history.operations_of(found, successors))
    if not operations:
        raise ConflictError("A load cannot be undone: the directory is the system of record.")
    drafts.hold_titles(database, current.domain_id)
    title = drafts.free_title(
        database, current.domain_id, f"Undo: {found.title}"[: drafts.MOST_TITLE]
    )
    row = drafts.create(database, current.domain_id, title, person, operations)
    database.commit()
    database.refresh(row)
    return row


def in_short(current: Snapshot, row: DraftRow) -> tuple[State, Tally]:
    """A draft without what it does, and what comes of it on live."""
    estate, operations = current.live.estate, drafts.operations_of(row)
    return drafts.state_of(row), tallied(estate, operations, apply(estate, operations))


def describe(edit: Editing, version: int, title: str, reason: str) -> Snapshot:
    """Give a draft another title and reason; an empty title leaves the one it has."""
    drafts.hold_titles(edit.database, edit.current.domain_id)
    row = edit.row(version)
    title = title or row.title
    drafts.refuse_taken(edit.database, row.domain_id, title, but=row.id)
    drafts.describe(edit.database, row, title, reason, edit.user)
    return edit.saved(row, version)


def discard(
    database: Session,
    live: Snapshot,
    draft: int | None,
    version: int,
    person: str,
    *,
    of_others: bool,
) -> None:
    """Drop a draft of a domain, also one that cannot be read: one's own, or anybody's for whom
    those `of_others` are theirs to drop.
    """
    if draft is None:
        raise ConflictError("Live is never dropped. Choose a draft.")
    row = drafts.find(database, live.domain_id, draft, for_writing=True)
    if row.author != person and not of_others:
        raise ForbiddenError(
            f"{row.author} has opened this draft. They or an administrator can drop it."
        )
    drafts.expect(row, version, person)
    drafts.discard(database, row)
    database.commit()


def close(edit: Editing, version: int) -> None:
    """End a draft of which nothing is left to do: all of it is so already."""
    row = edit.row(version)
    estate = edit.current.live.estate
    if not all_there(estate, apply(estate, drafts.operations_of(row))):
        raise ConflictError(
            "Something of this draft is still to be done. Publish it, or drop the draft."
        )
    drafts.close(edit.database, row)
    edit.database.commit()


def undo(edit: Editing, version: int) -> Snapshot:
    row = edit.row(version)
    drafts.undo(edit.database, row, edit.user)
    return edit.saved(row, version)


def redo(edit: Editing, version: int) -> Snapshot:
    row = edit.row(version)
    drafts.redo(edit.database, row, edit.user)
    return edit.saved(row, version)


def approve(edit: Editing, version: int, digest: str) -> Snapshot:
    """Approve the draft whose text has the `digest` that the approver was shown. Raises
    `ChangedMeanwhileError` where the text is another one by now.
    """
    row = edit.row(version)
    text = draft_text(edit.current.live.estate, drafts.operations_of(row))
    if text.digest != digest:
        raise ChangedMeanwhileError(
            f"The draft “{row.title}” was not approved: a sync or an import changed the objects "
            "that the draft names. Read the draft again, then approve the draft."
        )
    drafts.approve(edit.database, row, edit.user, text)
    return edit.saved(row, version)


def drop_operation(edit: Editing, number: int, version: int) -> Snapshot:
    """Take one operation out of the draft. What depended on it shows as not fitting."""
    row = edit.row(version)
    operations = drafts.operations_of(row)
    _in_range(operations, number)
    drafts.record(edit.database, row, (*operations[:number], *operations[number + 1 :]), edit.user)
    return edit.saved(row, version)


def keep_operation(edit: Editing, number: int, version: int) -> Snapshot:
    """Resolve a conflict in the draft's favour: what is live now becomes what the operation
    changes.
    """
    row = edit.row(version)
    operations = drafts.operations_of(row)
    _in_range(operations, number)
    found = next(
        (c for c in apply(edit.current.live.estate, operations).conflicts if c.index == number),
        None,
    )
    if found is None or found.rebased is None:
        raise ConflictError(
            "There is no conflict to resolve here; the only way is to drop the change."
        )
    kept = (*operations[:number], *found.rebased, *operations[number + 1 :])
    drafts.record(edit.database, row, kept, edit.user)
    return edit.saved(row, version)


def _in_range(operations: Operations, number: int) -> None:
    if not 0 <= number < len(operations):
        raise NotFoundError("The draft has no such change any more.")


def renumber_policies(edit: Editing) -> Snapshot:
    """Give every policy a number with gaps, in the same order."""
    return edit.change(lambda estate: [renumber(estate)])


def weigh_membership(edit: Editing, member: str, group: str, *, join: bool) -> Snapshot:
    """What if this account or group were in that group, or were not? Never published."""
    kind = JoinGroup if join else LeaveGroup
    operation: Operation = kind(member=member, group=group)
    return edit.change(lambda _estate: [operation])


def weigh_flag(edit: Editing, account: str, flag: Flag, *, on: bool) -> Snapshot:
    """What if this account had this flag, or had it not? Never published."""

    def flagged(estate: Estate) -> list[Operation]:
        row = estate.find_account(account)
        if row is None:
            raise NotFoundError(f"There is no account '{account}' in this domain.")
        held = bool(int(estate.accounts.control[row]) & Control[flag])
        name = estate.accounts.name[row]
        return [SetFlag(account=name, flag=flag, before=held, after=on)] if held != on else []

    return edit.change(flagged)
