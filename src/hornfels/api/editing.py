"""How a route changes the draft that is shown: all of its operations or none, written as shortly as they can be."""

from __future__ import annotations

from collections.abc import Callable, Iterable

from fastapi import HTTPException
from sqlalchemy.orm import Session

from hornfels.api.snapshot import Draft, Snapshot, Snapshots
from hornfels.core.draft import apply
from hornfels.core.estate import Estate
from hornfels.core.fold import fold
from hornfels.core.operations import Operation
from hornfels.store import drafts
from hornfels.store.models import DraftRow

_FIELDS = {"rename_policy": "name", "add_policy": "name", "link_policy": "link", "unlink_policy": "link"}


def shown_draft(current: Snapshot) -> Draft:
    if current.draft is None:
        raise HTTPException(409, "Live is never edited. Open a draft and make the change there.")
    return current.draft


def draft_for_writing(database: Session, current: Snapshot) -> DraftRow:
    """The row of the draft that is shown, held until the transaction ends."""
    try:
        return drafts.find(database, current.domain_id, shown_draft(current).id, for_writing=True)
    except LookupError as error:
        raise HTTPException(404, str(error)) from None


def change(
    database: Session, snapshots: Snapshots, current: Snapshot, user: str, make: Callable[[Estate], Iterable[Operation]]
) -> Snapshot:
    """Add what `make` makes of the estate as the draft has it by now; commits, and gives the draft's new snapshot."""
    row = draft_for_writing(database, current)
    live = shown_draft(current).live
    operations = before = drafts.operations_of(row)
    estate = apply(live.estate, operations).estate
    for operation in list(make(estate)):
        applied = apply(estate, (operation,))
        if applied.conflicts:
            field = _FIELDS.get(operation.kind, "")
            raise HTTPException(422, [{"field": field, "message": applied.conflicts[0].reason}])
        estate, operations = applied.estate, fold(operations, operation)
    if operations != before:
        drafts.record(database, row, operations, user)
        database.commit()
    return snapshots.with_draft(database, live, row.id)
