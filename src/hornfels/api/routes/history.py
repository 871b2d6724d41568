"""History: loads, publishes and unlockings of a domain, comparing two points, undoing a publish."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from typing import Annotated, cast
from uuid import UUID

from fastapi import APIRouter, Path, Query
from fastapi.responses import PlainTextResponse, Response

from hornfels.api.address import Route
from hornfels.api.deps import Current, Database, Rights, User
from hornfels.api.exporting import attached, exported, sent_as
from hornfels.api.rights import needs
from hornfels.api.schemas import ChangeGroup, Comparison, DraftInfo, Number, PointInfo, PointKind
from hornfels.api.views import change_groups, draft_info
from hornfels.core.drafts.comparison import differences
from hornfels.core.rights.roles import Right
from hornfels.formats.changes import AccountDeed, write_account_changes
from hornfels.refusals import ForbiddenError, NotFoundError
from hornfels.service.drafts import in_short, take_back
from hornfels.service.snapshots import Snapshot
from hornfels.store import history, locks
from hornfels.store.estates import successors_in
from hornfels.store.models import PointRow
from hornfels.store.operations import UnreadableOperationsError

router = APIRouter(
    prefix="/api/domains/{domain}/history",
    tags=["history"],
    route_class=Route,
    dependencies=[needs("see")],
)


@router.get("")
def list_history(current: Current, database: Database, rights: Rights) -> list[PointInfo]:
    """Every load, publish and unlocking, the latest first. Accounts with compromised passwords are
    named only to those who may see whose they are.
    """
    successors = successors_in(database, current.domain_id)
    points = history.points(database, current.domain_id)
    recorded = history.with_change_records(database, current.domain_id)
    return [_point(current, point, successors, rights, recorded) for point in points]


def _point(
    current: Snapshot,
    point: PointRow,
    successors: Mapping[UUID, UUID],
    rights: Collection[Right],
    recorded: Collection[int],
) -> PointInfo:
    named = history.may_be_named(point, rights)
    try:
        groups = change_groups(
            history.operations_of(point, successors),
            history.estate_at(point, current.live.estate, successors),
        )
        known = True
    except UnreadableOperationsError as error:
        groups, known = [ChangeGroup(subject=str(error), changes=[])], False
    return PointInfo(
        id=point.id,
        kind=cast(PointKind, point.kind),
        title=point.title,
        reason=point.reason if named else "",
        author=point.author,
        approver=point.approver,
        at=point.at.isoformat(),
        effect=point.effect.splitlines(),
        groups=groups,
        can_undo=known and bool(point.operations),
        in_directory=point.in_directory,
        change_records=point.id in recorded,
        unlocked=[one.name for one in locks.unlocked_at(point)] if named else [],
    )


@router.get("/compare")
def compare(
    before: Annotated[Number, Query()],
    after: Annotated[Number, Query()],
    current: Current,
    database: Database,
) -> Comparison:
    """What changed in the policies from one point to another."""
    estate, successors = current.live.estate, successors_in(database, current.domain_id)
    old, new = (
        history.estate_at(history.find(database, current.domain_id, p), estate, successors)
        for p in (before, after)
    )
    return Comparison(groups=change_groups(differences(old, new), old))


@router.post("/{point}/undo", status_code=201, dependencies=[needs("draft", proof=False)])
def undo(
    point: Annotated[Number, Path()], current: Current, database: Database, user: User
) -> DraftInfo:
    """A draft that takes a publish back. Nothing changes until it is published itself."""
    return draft_info(*in_short(current, take_back(database, current, user, point)))


@router.get(
    "/{point}/changes.ldif",
    dependencies=[exported("a publication as change records")],
    response_class=Response,
    responses=sent_as("text/plain", "An LDIF file."),
)
def export_changes(
    point: Annotated[Number, Path()], current: Current, database: Database
) -> PlainTextResponse:
    """A publication that Hornfels did not write into the directory, as LDIF change records."""
    found = history.find(database, current.domain_id, point)
    text = history.change_records(database, found)
    name = f"{current.estate.domain.dns_name}-changes-{point}.ldif"
    return PlainTextResponse(text, headers=attached(name))


@router.get(
    "/{point}/unlocking.ldif",
    dependencies=[exported("an unlocking as change records")],
    response_class=Response,
    responses=sent_as("text/plain", "An LDIF file."),
)
def export_unlocking(
    point: Annotated[Number, Path()], current: Current, database: Database, rights: Rights
) -> PlainTextResponse:
    """An unlocking, or that passwords have to be changed, as LDIF change records, for whoever
    carries it out in the directory.
    """
    found = history.find(database, current.domain_id, point)
    if not history.may_be_named(found, rights):
        raise ForbiddenError(
            "The accounts of this entry have compromised passwords. Ask an author or an "
            "administrator for the change records."
        )
    accounts = locks.unlocked_at(found)
    if not accounts:
        raise NotFoundError("Nobody was to be unlocked at this point of the history.")
    title = f"{found.title}\n{found.reason}"
    deed = cast(AccountDeed, found.kind)
    text = b"".join(write_account_changes([one.dn for one in accounts], deed, title))
    name = f"{current.estate.domain.dns_name}-unlocking-{point}.ldif"
    return PlainTextResponse(text, headers=attached(name))
