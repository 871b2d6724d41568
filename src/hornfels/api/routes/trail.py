"""The trail: who did what. For those who may read it, where they may."""

from __future__ import annotations

import json
from collections.abc import Iterator
from typing import Annotated

from fastapi import APIRouter, Query
from fastapi.responses import Response

from hornfels.api.address import Route
from hornfels.api.deps import Database
from hornfels.api.exporting import exported, sent_as
from hornfels.api.people_schemas import EntryInfo, TrailAsked, TrailPage, TrailPageAsked
from hornfels.api.rights import Person, domains_where, needs
from hornfels.core.rights.roles import EVERYWHERE
from hornfels.store import trail
from hornfels.store.models import EntryRow
from hornfels.store.sessions import Visitor

router = APIRouter(
    prefix="/api/trail", tags=["trail"], route_class=Route, dependencies=[needs("trail")]
)

PAGE = 100
MOST_EXPORTED = 200_000


@router.get("")
def read_trail(
    asked: Annotated[TrailPageAsked, Query()], visitor: Person, database: Database
) -> TrailPage:
    """Entries, the latest first."""
    found = trail.entries(database, _wanted(asked, visitor), before=asked.before, most=PAGE + 1)
    return TrailPage(entries=[_entry(row) for row in found[:PAGE]], more=len(found) > PAGE)


@router.get(
    ".jsonl",
    response_class=Response,
    dependencies=[needs("trail", proof=True), exported("the trail")],
    responses=sent_as("application/x-ndjson", "One entry a line, with its place in the chain."),
)
def export_trail(
    asked: Annotated[TrailAsked, Query()], visitor: Person, database: Database
) -> Response:
    """Entries as JSON lines, the latest first."""

    def lines() -> Iterator[str]:
        for row in trail.entries(database, _wanted(asked, visitor), most=MOST_EXPORTED):
            told = _entry(row).model_dump()
            chained = {"previous": row.previous.hex(), "digest": row.digest.hex()}
            yield json.dumps({**told, **chained}) + "\n"

    headers = {"Content-Disposition": "attachment; filename=trail.jsonl"}
    return Response("".join(lines()), media_type="application/x-ndjson", headers=headers)


def _wanted(asked: TrailAsked, visitor: Visitor) -> trail.Wanted:
    held = domains_where(visitor, "trail")
    return trail.Wanted(
        person=asked.person,
        domain=asked.domain,
        what=asked.what,
        words=asked.words,
        since=asked.since,
        until=asked.until,
        domains=None if EVERYWHERE in held else held,
    )


def _entry(row: EntryRow) -> EntryInfo:
    return EntryInfo(
        id=row.id,
        at=row.at.isoformat(),
        person=row.person,
        address=row.address,
        request=row.request,
        domain=row.domain,
        what=row.what,
        about=row.about,
        detail=json.loads(row.detail),
    )
