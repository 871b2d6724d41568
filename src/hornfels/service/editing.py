"""How the draft that is shown is changed: all of a change or none of it, written as shortly as it
can be.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass

from sqlalchemy.orm import Session

from hornfels.core.domain.estate import Estate
from hornfels.core.drafts.applying import Applied, Extended, UnfitError, extended
from hornfels.core.drafts.operations import Operation
from hornfels.refusals import ChangedMeanwhileError, ConflictError, FieldsError
from hornfels.service.snapshots import Draft, Snapshot, Snapshots
from hornfels.store import drafts
from hornfels.store.models import DomainRow, DraftRow, MailingRow, ReportOrderRow

_FIELDS = {
    "rename_policy": "name",
    "add_policy": "name",
    "link_policy": "link",
    "unlink_policy": "link",
}


def domain_for_writing(database: Session, current: Snapshot) -> DomainRow:
    """The domain's row, held until the transaction ends, so that versions move one at a time."""
    row = database.get(DomainRow, current.domain_id, with_for_update=True)
    if row is None or row.estate_id != current.estate_id:
        raise ChangedMeanwhileError(
            "The domain was loaded anew a moment ago. Reload the page and make the change again."
        )
    return row


def refuse_other_version(row: MailingRow | ReportOrderRow | None, version: int) -> None:
    """Raise `ChangedMeanwhileError` for settings that are not in the version that a person saw; 0
    is the version of settings that were never changed.
    """
    if (row.version if row else 0) != version:
        raise ChangedMeanwhileError(
            "Another person changed these settings. Reload the page and make the change again."
        )


def shown_draft(current: Snapshot) -> Draft:
    """The draft that is shown; refuses live, which is never edited."""
    if current.draft is None:
        raise ConflictError("Live is never edited. Open a draft and make the change there.")
    return current.draft


@dataclass
class Editing:
    """The draft that is shown, being changed by the person who acts.

    ``moved`` is told from which version to which a write has taken the draft.
    """

    current: Snapshot
    database: Session
    user: str
    snapshots: Snapshots
    moved: Callable[[int, int], None]

    def row(self, version: int | None = None) -> DraftRow:
        """The draft's row, held until the transaction ends; refused if it is not the version that
        was seen, where one is named.
        """
        row = drafts.find(
            self.database,
            self.current.domain_id,
            shown_draft(self.current).id,
            for_writing=True,
        )
        if version is not None:
            drafts.expect(row, version, self.user)
        return row

    def saved(self, row: DraftRow, before: int, made: Extended | None = None) -> Snapshot:
        """Commit, tell how far the draft has moved from the version `before`, and give its new
        snapshot, `made` of what is known.
        """
        self.moved(before, row.version)
        state = drafts.state_of(row)
        self.database.commit()
        draft = shown_draft(self.current)
        if made is not None and made.estate is not None:
            return self.snapshots.keep_draft(
                draft.live, state, made.operations, Applied(made.estate, ())
            )
        return self.snapshots.with_draft(draft.live, draft.id)

    def change(self, make: Callable[[Estate], Iterable[Operation]]) -> Snapshot:
        """Add what `make` makes of the estate as the draft has it by now."""
        row = self.row()
        before, draft = row.version, shown_draft(self.current)
        as_shown = draft.version == before
        operations = draft.operations if as_shown else drafts.operations_of(row)
        so_far = self.current.estate if as_shown and not draft.conflicts else None
        try:
            made = extended(draft.live.estate, operations, make, so_far)
        except UnfitError as error:
            field = _FIELDS.get(error.operation.kind, "")
            raise FieldsError((field, str(error))) from None
        if made.operations != operations:
            drafts.record(self.database, row, made.operations, self.user)
        return self.saved(row, before, made)
