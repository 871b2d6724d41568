"""What routes ask for: a database session, the signed-in person, the domain's snapshot."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Annotated

from fastapi import Depends, HTTPException, Request
from sqlalchemy.orm import Session

from hornfels.api.snapshot import Snapshot, Snapshots
from hornfels.store.models import DomainRow


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


DRAFT_MARK = "~"
"""Between a domain and a draft in an address: ``sky.tarnholt.example~12`` is the domain as draft 12
would make it.
"""
_PLACE = re.compile(rf"(?P<name>.+){DRAFT_MARK}(?P<draft>[^{DRAFT_MARK}]{{0,20}})", re.DOTALL)

Renewal = Annotated[Snapshots, Depends(get_snapshots)]


def get_snapshot(domain: str, _user: User, snapshots: Renewal) -> Snapshot:
    return snapshot_at(domain, snapshots)


def snapshot_at(place: str, snapshots: Snapshots) -> Snapshot:
    """What lies at a place in an address. Holds no connection afterwards. Raises 404 for what is
    not there.
    """
    marked = _PLACE.fullmatch(place)
    found = snapshots.of(marked["name"]) if marked else None
    if marked and found:
        try:
            return snapshots.with_draft(found, int(marked["draft"]))
        except (ValueError, LookupError) as error:
            what = (
                str(error)
                if isinstance(error, LookupError)
                else f"'{marked['draft']}' is no number of a draft."
            )
            raise HTTPException(404, what) from None
    found = snapshots.of(place)
    if found is None:
        raise HTTPException(
            404,
            (
                f"There is no domain '{(marked['name'] if marked else place)[:200]}' here. Load "
                "a dump of it on Sources."
            ),
        )
    return found


Current = Annotated[Snapshot, Depends(get_snapshot)]


def domain_for_writing(database: Session, current: Snapshot) -> DomainRow:
    """The domain's row, held until the transaction ends, so that versions move one at a time."""
    row = database.get(DomainRow, current.domain_id, with_for_update=True)
    if row is None or row.estate_id != current.estate_id:
        raise HTTPException(
            409,
            "The domain was loaded anew a moment ago. Reload the page and make the change again.",
        )
    return row
