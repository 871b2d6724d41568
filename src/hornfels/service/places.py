"""A place is a domain, or a domain as one of its drafts would make it."""

from __future__ import annotations

import re

from hornfels.refusals import NotFoundError
from hornfels.service.snapshots import Snapshot, Snapshots

DRAFT_MARK = "~"
"""Between a domain and a draft in an address: ``sky.tarnholt.example~12`` is the domain as draft 12
would make it.
"""
_PLACE = re.compile(rf"(?P<name>.+){DRAFT_MARK}(?P<draft>[^{DRAFT_MARK}]{{0,20}})", re.DOTALL)


def snapshot_at(place: str, snapshots: Snapshots) -> Snapshot:
    """What lies at a place in an address. Holds no connection afterwards. Raises
    `NotFoundError` for what is not there.
    """
    live, draft = live_at(place, snapshots)
    return live if draft is None else snapshots.with_draft(live, draft)


def domain_of(place: str) -> str:
    """The name of the domain at a place."""
    marked = _PLACE.fullmatch(place)
    return marked["name"] if marked else place


def live_at(place: str, snapshots: Snapshots) -> tuple[Snapshot, int | None]:
    """The domain at a place as it is, and the number of the draft that the place names, if any."""
    marked, name = _PLACE.fullmatch(place), domain_of(place)
    found = snapshots.of(name)
    if found is None:
        raise NotFoundError(
            f"There is no domain '{name[:200]}' here. Load a dump of it on Sources."
        )
    if not marked:
        return found, None
    try:
        return found, int(marked["draft"])
    except ValueError:
        raise NotFoundError(f"'{marked['draft']}' is no number of a draft.") from None
