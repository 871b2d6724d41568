"""How a domain stands, as the last moment showed it, so that verdicts as somebody types cost no
database.
"""

from __future__ import annotations

from typing import Annotated

from fastapi import Depends, Request

from hornfels.api.short_lived import ShortLived
from hornfels.service.places import snapshot_at
from hornfels.service.snapshots import Snapshot, Snapshots

LIFETIME = 0.25
"""Seconds after which the database is asked again: so late may a verdict learn what another process
changed.
"""

CACHED_PATHS = ("/verdicts", "/verdicts/many")
"""What reads `SnapshotCache` and changes nothing. Any other request empties it."""


class SnapshotCache:
    """Snapshots by their place in the address. Whatever changes through this process empties it:
    see `forget`.
    """

    def __init__(self, snapshots: Snapshots) -> None:
        self._snapshots = snapshots
        self._held: ShortLived[str, Snapshot] = ShortLived("snapshots", LIFETIME)

    async def of(self, place: str) -> Snapshot:
        """The snapshot at a place; raises what `snapshot_at` raises."""
        return await self._held.of(place, lambda: self._read(place))

    def forget(self) -> None:
        """Ask the database at the next verdict."""
        self._held.forget()

    def close(self) -> None:
        self._held.close()

    def _read(self, place: str) -> Snapshot:
        snapshot = snapshot_at(place, self._snapshots)
        # Here, where nobody else waits for it: resolving a million accounts would hold up every
        # request.
        _ = snapshot.resolution.winner_of_account, snapshot.rules
        return snapshot


async def cached_snapshot(domain: str, request: Request) -> Snapshot:
    cache = request.app.state.snapshot_cache
    assert isinstance(cache, SnapshotCache)  # noqa: S101
    return await cache.of(domain)


CachedSnapshot = Annotated[Snapshot, Depends(cached_snapshot)]
