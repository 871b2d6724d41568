"""What leaves Hornfels as a file: by which name, and that it stands in the trail."""

from __future__ import annotations

from urllib.parse import quote

from fastapi import Depends, Request
from fastapi.params import Depends as Dependency

from hornfels.api.deps import Database
from hornfels.service.places import domain_of
from hornfels.store.trail import note


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
