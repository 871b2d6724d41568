"""What routes ask for: a database session, the signed-in person, the domain's snapshot."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Annotated

from fastapi import Depends, HTTPException, Request, Response
from sqlalchemy.orm import Session

from hornfels.service.editing import Editing
from hornfels.service.places import snapshot_at
from hornfels.service.snapshots import Snapshot, Snapshots


def get_session(request: Request) -> Iterator[Session]:
    """A session that takes a connection when it is first used, and gives it back before the answer
    is sent.
    """
    with Session(request.app.state.engine) as session:
        yield session


Database = Annotated[Session, Depends(get_session, scope="function")]


async def get_user(request: Request) -> str:
    """The name that stands behind the request, as whoever guards the routes found it."""
    name = getattr(request.state, "user", None)
    if name is None:
        raise HTTPException(401, "Sign in first.")
    return str(name)


User = Annotated[str, Depends(get_user)]


async def get_snapshots(request: Request) -> Snapshots:
    snapshots = request.app.state.snapshots
    assert isinstance(snapshots, Snapshots)  # noqa: S101
    return snapshots


Renewal = Annotated[Snapshots, Depends(get_snapshots)]


def get_snapshot(domain: str, _user: User, snapshots: Renewal) -> Snapshot:
    return snapshot_at(domain, snapshots)


Current = Annotated[Snapshot, Depends(get_snapshot)]

MOVED = "Draft-Moved"
"""The header that says from which version to which a write has taken the draft, so that a browser
knows its own writes.
"""


def get_editing(
    current: Current, database: Database, user: User, snapshots: Renewal, response: Response
) -> Editing:
    def moved(before: int, after: int) -> None:
        response.headers[MOVED] = f"{before} {after}"

    return Editing(current, database, user, snapshots, moved)


Edit = Annotated[Editing, Depends(get_editing)]
