"""What routes ask for: a database session, the signed-in person, the domain's snapshot."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Annotated

from fastapi import Depends, Request, Response
from sqlalchemy.orm import Session

from hornfels.api.rights import Person, allowed, origin_of
from hornfels.core.rights.roles import Right
from hornfels.service.editing import Editing
from hornfels.service.places import domain_of, snapshot_at
from hornfels.service.snapshots import Snapshot, Snapshots
from hornfels.store.trail import act_for


def get_session(request: Request) -> Iterator[Session]:
    """A session that takes a connection when it is first used, and gives it back before the answer
    is sent. What is done in it is done by the request's person.
    """
    with Session(request.app.state.engine) as session:
        act_for(session, origin_of(request))
        yield session


Database = Annotated[Session, Depends(get_session, scope="function")]


async def get_user(visitor: Person) -> str:
    """The name that stands behind the request."""
    return visitor.name


User = Annotated[str, Depends(get_user)]


async def get_snapshots(request: Request) -> Snapshots:
    snapshots = request.app.state.snapshots
    assert isinstance(snapshots, Snapshots)  # noqa: S101
    return snapshots


Renewal = Annotated[Snapshots, Depends(get_snapshots)]


def get_snapshot(domain: str, _user: User, snapshots: Renewal) -> Snapshot:
    return snapshot_at(domain, snapshots)


def get_rights(domain: str, visitor: Person) -> frozenset[Right]:
    return allowed(visitor, domain_of(domain))


Rights = Annotated[frozenset[Right], Depends(get_rights)]
"""What the person may do in the domain of the address."""

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


async def _raw(request: Request) -> bytes:
    return await request.body()


RawBody = Annotated[bytes, Depends(_raw)]
"""The request's body, which is a file."""
RAW_BODY = {
    "requestBody": {
        "required": True,
        "content": {"application/octet-stream": {"schema": {"type": "string", "format": "binary"}}},
    }
}
"""How a route describes it."""
