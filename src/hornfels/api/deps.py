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


DRAFT_MARK = "~"
"""Between a domain and a draft in an address: ``sky.tarnholt.example~12`` is the domain as draft 12 would make it."""


Renewal = Annotated[Snapshots, Depends(get_snapshots)]


def get_snapshot(domain: str, database: Database, _user: User, snapshots: Renewal) -> Snapshot:
    name, marked, draft = domain.partition(DRAFT_MARK)
    found = snapshots.of(database, name)
    if found is None:
        raise HTTPException(404, f"There is no domain '{name}' here. Load a dump of it on Sources.")
    if not marked:
        return found
    try:
        return snapshots.with_draft(database, found, int(draft))
    except (ValueError, LookupError) as error:
        what = str(error) if isinstance(error, LookupError) else f"'{draft[:20]}' is no number of a draft."
        raise HTTPException(404, what) from None


Current = Annotated[Snapshot, Depends(get_snapshot)]


def domain_for_writing(database: Session, current: Snapshot) -> DomainRow:
    """The domain's row, held until the transaction ends, so that versions move one at a time."""
    row = database.get(DomainRow, current.domain_id, with_for_update=True)
    if row is None or row.estate_id != current.estate_id:
        raise HTTPException(409, "The domain was loaded anew a moment ago. Reload the page and make the change again.")
    return row
