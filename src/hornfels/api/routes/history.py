"""History: every load and publish of a domain, comparing two of them, undoing a publish."""

from __future__ import annotations

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Path, Query
from sqlalchemy.orm import Session

from hornfels.api.address import Route
from hornfels.api.deps import Current, Database, User
from hornfels.api.schemas import Comparison, DraftInfo, Number, PointInfo
from hornfels.api.views import change_groups, draft_info
from hornfels.core.drafts.applying import apply
from hornfels.core.drafts.comparison import differences
from hornfels.core.drafts.operations import inverse
from hornfels.refusals import ConflictError
from hornfels.service.snapshots import Snapshot, tallied
from hornfels.store import drafts, history
from hornfels.store.estates import successors_of
from hornfels.store.models import DomainRow

router = APIRouter(prefix="/api/domains/{domain}/history", tags=["history"], route_class=Route)


@router.get("")
def list_history(current: Current, database: Database) -> list[PointInfo]:
    """Every load and publish, the latest first."""
    estate, successors = current.live.estate, _successors(database, current)
    return [
        PointInfo(
            id=p.id,
            kind="loaded" if p.kind == "loaded" else "published",
            title=p.title,
            reason=p.reason,
            author=p.author,
            approver=p.approver,
            at=p.at.isoformat(),
            groups=change_groups(
                history.operations_of(p, successors), history.estate_at(p, estate, successors)
            ),
            can_undo=bool(p.operations),
        )
        for p in history.points(database, current.domain_id)
    ]


@router.get("/compare")
def compare(
    before: Annotated[Number, Query()],
    after: Annotated[Number, Query()],
    current: Current,
    database: Database,
) -> Comparison:
    """What changed in the policies from one point to another."""
    estate, successors = current.live.estate, _successors(database, current)
    old, new = (
        history.estate_at(history.find(database, current.domain_id, p), estate, successors)
        for p in (before, after)
    )
    return Comparison(groups=change_groups(differences(old, new), old))


@router.post("/{point}/undo", status_code=201)
def undo(
    point: Annotated[Number, Path()], current: Current, database: Database, user: User
) -> DraftInfo:
    """A draft that takes a publish back. Nothing changes until it is published itself."""
    found = history.find(database, current.domain_id, point)
    operations = inverse(history.operations_of(found, _successors(database, current)))
    if not operations:
        raise ConflictError("A load cannot be undone: the directory is the system of record.")
    drafts.hold_titles(database, current.domain_id)
    title = drafts.free_title(
        database, current.domain_id, f"Undo: {found.title}"[: drafts.MOST_TITLE]
    )
    row = drafts.create(database, current.domain_id, title, user, operations)
    database.commit()
    estate = current.live.estate
    return draft_info(drafts.state_of(row), tallied(estate, operations, apply(estate, operations)))


def _successors(database: Session, current: Snapshot) -> dict[UUID, UUID]:
    domain = database.get(DomainRow, current.domain_id)
    return successors_of(domain) if domain else {}
