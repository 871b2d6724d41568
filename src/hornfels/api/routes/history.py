"""History: every load and publish of a domain, comparing two of them, undoing a publish."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, HTTPException, Query
from sqlalchemy.orm import Session

from hornfels.api.deps import Current, Database, User
from hornfels.api.schemas import Comparison, DraftInfo, PointInfo
from hornfels.api.snapshot import Snapshot
from hornfels.api.views import change_groups, draft_info
from hornfels.core.draft import apply, differences
from hornfels.core.operations import ADAPTER, inverse
from hornfels.store import drafts, history
from hornfels.store.models import PointRow

router = APIRouter(prefix="/api/domains/{domain}/history", tags=["history"])


@router.get("")
def list_history(current: Current, database: Database) -> list[PointInfo]:
    """Every load and publish, the latest first."""
    estate = _live(current).estate
    return [
        PointInfo(
            id=p.id, kind="loaded" if p.kind == "loaded" else "published", title=p.title, reason=p.reason, author=p.author,
            approver=p.approver, at=p.at.isoformat(),
            groups=change_groups(ADAPTER.validate_python(p.operations), history.estate_at(p, estate)),
            can_undo=bool(p.operations),
        )
        for p in history.points(database, current.domain_id)
    ]  # fmt: skip


@router.get("/compare")
def compare(
    before: Annotated[int, Query()], after: Annotated[int, Query()], current: Current, database: Database
) -> Comparison:  # fmt: skip
    """What changed in the policies from one point to another."""
    estate = _live(current).estate
    old, new = (history.estate_at(_point(database, current, p), estate) for p in (before, after))
    return Comparison(groups=change_groups(differences(old, new), old))


@router.post("/{point}/undo", status_code=201)
def undo(point: int, current: Current, database: Database, user: User) -> DraftInfo:
    """A draft that takes a publish back. Nothing changes until it is published itself."""
    found = _point(database, current, point)
    operations = inverse(ADAPTER.validate_python(found.operations))
    if not operations:
        raise HTTPException(409, "A load cannot be undone: the directory is the system of record.")
    row = drafts.create(database, current.domain_id, f"Undo: {found.title}"[:100], user, operations)
    database.commit()
    return draft_info(row, len(apply(_live(current).estate, operations).conflicts))


def _live(current: Snapshot) -> Snapshot:
    return current.draft.live if current.draft else current


def _point(database: Session, current: Snapshot, point: int) -> PointRow:
    try:
        return history.find(database, current.domain_id, point)
    except LookupError as error:
        raise HTTPException(404, str(error)) from None
