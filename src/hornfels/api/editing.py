"""How a route changes the draft that is shown: all of its operations or none, written as shortly as
they can be.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import Annotated

from fastapi import Depends, HTTPException, Response

from hornfels.api.deps import Current, Database, Renewal, User
from hornfels.api.snapshot import Draft, Snapshot
from hornfels.core.domain.estate import Estate
from hornfels.core.drafts.applying import Applied, Extended, UnfitError, extended
from hornfels.core.drafts.operations import Operation
from hornfels.store import drafts
from hornfels.store.models import DraftRow

MOVED = "Draft-Moved"
"""The header that says from which version to which a write has taken the draft, so that a browser
knows its own writes.
"""

_FIELDS = {
    "rename_policy": "name",
    "add_policy": "name",
    "link_policy": "link",
    "unlink_policy": "link",
}


def shown_draft(current: Snapshot) -> Draft:
    if current.draft is None:
        raise HTTPException(409, "Live is never edited. Open a draft and make the change there.")
    return current.draft


class Editing:
    """The draft that is shown, being changed by the person who is signed in."""

    def __init__(
        self,
        current: Current,
        database: Database,
        user: User,
        snapshots: Renewal,
        response: Response,
    ) -> None:
        self.current, self.database, self.user, self.snapshots = current, database, user, snapshots
        self._response = response

    def row(self, version: int | None = None) -> DraftRow:
        """The draft's row, held until the transaction ends; refused if it is not the version that
        was seen, where one is named.
        """
        try:
            row = drafts.find(
                self.database,
                self.current.domain_id,
                shown_draft(self.current).id,
                for_writing=True,
            )
        except LookupError as error:
            raise HTTPException(404, str(error)) from None
        if version is not None:
            drafts.expect(row, version, self.user)
        return row

    def saved(self, row: DraftRow, before: int, made: Extended | None = None) -> Snapshot:
        """Commit, say how far the draft has moved from the version `before`, and give its new
        snapshot, `made` of what is known.
        """
        self._response.headers[MOVED] = f"{before} {row.version}"
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
            raise HTTPException(422, [{"field": field, "message": str(error)}]) from None
        if made.operations != operations:
            drafts.record(self.database, row, made.operations, self.user)
        return self.saved(row, before, made)


Edit = Annotated[Editing, Depends()]
