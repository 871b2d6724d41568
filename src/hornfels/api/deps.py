"""What routes ask for: a database session, the signed-in person, the domain's snapshot."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Annotated

from fastapi import Cookie, Depends, HTTPException, Request
from sqlalchemy.orm import Session

from hornfels.api.snapshot import Snapshot, Snapshots
from hornfels.store.models import DomainRow
from hornfels.store.people import signed_in

COOKIE = "hornfels_session"


def get_session(request: Request) -> Iterator[Session]:
    with Session(request.app.state.engine) as session:
        yield session


Database = Annotated[Session, Depends(get_session, scope="function")]


def get_user(database: Database, hornfels_session: Annotated[str | None, Cookie()] = None) -> str:
    name = signed_in(database, hornfels_session) if hornfels_session else None
    if name is None:
        raise HTTPException(401, "Sign in first.")
    return name


User = Annotated[str, Depends(get_user)]


def get_snapshots(request: Request) -> Snapshots:
    snapshots = request.app.state.snapshots
    assert isinstance(snapshots, Snapshots)  # noqa: S101
    return snapshots


def get_snapshot(domain: str, database: Database, _user: User, snapshots: Annotated[Snapshots, Depends(get_snapshots)]) -> Snapshot:
    found = snapshots.of(database, domain)
    if found is None:
        raise HTTPException(404, f"There is no domain '{domain}' here. Load a dump of it on Sources.")
    return found


Current = Annotated[Snapshot, Depends(get_snapshot)]


def domain_for_writing(database: Session, current: Snapshot) -> DomainRow:
    """The domain's row, held until the transaction ends, so that versions move one at a time."""
    row = database.get(DomainRow, current.domain_id, with_for_update=True)
    if row is None or row.estate_id != current.estate_id:
        raise HTTPException(409, "The domain was loaded anew a moment ago. Reload the page and make the change again.")
    return row
