"""How a domain stands, as the last moment showed it, so that verdicts as somebody types cost no
database.
"""

from __future__ import annotations

from typing import Annotated

from fastapi import Depends, Request

from hornfels.api.lately import Lately
from hornfels.service.places import snapshot_at
from hornfels.service.snapshots import Snapshot, Snapshots

LIFETIME = 0.25
"""Seconds after which the database is asked again: so late may a verdict learn what another process
changed.
"""

RECENT_PATHS = ("/verdicts", "/verdicts/many")
"""What reads `Recent` and changes nothing. Any other request empties it."""


class Recent:
    """Snapshots by their place in the address. Whatever changes through this process empties it:
    see `forget`.
    """

    def __init__(self, snapshots: Snapshots) -> None:
        self._snapshots = snapshots
        self._lately: Lately[str, Snapshot] = Lately("recent", LIFETIME)

    async def of(self, place: str) -> Snapshot:
        """The snapshot at a place; raises what `snapshot_at` raises."""
        return await self._lately.of(place, lambda: self._read(place))

    def forget(self) -> None:
        """Ask the database at the next verdict."""
        self._lately.forget()

    def close(self) -> None:
        self._lately.close()

    def _read(self, place: str) -> Snapshot:
        snapshot = snapshot_at(place, self._snapshots)
        # Here, where nobody else waits for it: resolving a million accounts would hold up every
        # request.
        _ = snapshot.resolution.winner_of_account, snapshot.rules
        return snapshot


async def get_recent(domain: str, request: Request) -> Snapshot:
    recent = request.app.state.recent
    assert isinstance(recent, Recent)  # noqa: S101
    return await recent.of(domain)


RecentSnapshot = Annotated[Snapshot, Depends(get_recent)]
