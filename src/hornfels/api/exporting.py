"""What leaves Hornfels as a file: how a route describes it, by which name it goes, and that it
stands in the trail.
"""

from __future__ import annotations

from typing import Any
from urllib.parse import quote

from fastapi import Depends, Request
from fastapi.params import Depends as Dependency

from hornfels.api.deps import Database
from hornfels.service.places import domain_of
from hornfels.store.trail import note


def sent_as(kind: str, what: str, *, binary: bool = False) -> dict[int | str, dict[str, Any]]:
    """How a route describes an answer that is not JSON, of a media type: `what` it is, in words."""
    schema = {"type": "string"} | ({"format": "binary"} if binary else {})
    return {200: {"content": {kind: {"schema": schema}}, "description": what}}


def exported(what: str) -> Dependency:
    """The route hands out a file: `what` is in it, in words."""

    def say(request: Request, database: Database) -> None:
        domain = domain_of(request.path_params.get("domain", ""))
        note(database, "exported", what, domain=domain, asked=str(request.query_params)[:1000])
        database.commit()

    found: Dependency = Depends(say)
    return found


def attached(name: str) -> dict[str, str]:
    """The header by which a browser saves an answer as a file of that name."""
    return {"Content-Disposition": f"attachment; filename*=UTF-8''{quote(name, safe='')}"}
