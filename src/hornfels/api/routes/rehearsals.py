"""Policies rehearsed in the directory itself. Candidates come in request bodies and go to the
directory and nowhere else.
"""

from __future__ import annotations

from functools import partial

from fastapi import APIRouter, Request
from sqlalchemy import Engine

from hornfels.api.address import Route
from hornfels.api.deps import Current
from hornfels.api.rehearsal_schemas import (
    PlayedInfo,
    RehearsalAnswer,
    RehearsalAsked,
    TriedInfo,
)
from hornfels.api.rights import needs, origin_of
from hornfels.api.turnstile import Turnstile
from hornfels.core.values.time import seconds
from hornfels.service import rehearsing
from hornfels.service.drilling import as_written
from hornfels.service.rehearsing import Wanted
from hornfels.settings import read_settings

router = APIRouter(prefix="/api/domains/{domain}", tags=["rehearsals"], route_class=Route)


@router.post("/rehearsals", dependencies=[needs("rehearse", proof=False)])
async def rehearse(body: RehearsalAsked, current: Current, request: Request) -> RehearsalAnswer:
    """Make an account in the directory, put it under the policy, try what is asked on it, and
    delete it.
    """
    engine: Engine = request.app.state.engine
    asking: Turnstile = request.app.state.asking
    wanted = Wanted(
        body.policy,
        body.candidate.get_secret_value() if body.candidate else None,
        body.boundary_set,
        as_written(body.story) if body.story else None,
    )
    act = partial(rehearsing.rehearse, engine, current, wanted, read_settings(), origin_of(request))
    async with asking.place():
        found = await asking.run(act)
    labels = {rule.key: rule.label for rule in current.rules[-1]}
    same = [
        *(one.accepted == one.ours for one in found.tries),
        *(one.outcome == one.ours for one in found.played),
    ]
    return RehearsalAnswer(
        server=found.server,
        tries=[
            TriedInfo(
                about=one.about,
                text=one.text,
                accepted=one.accepted,
                ours=one.ours,
                refused_by=[labels[key] for key in one.refused_by],
                why=one.why,
            )
            for one in found.tries
        ],
        played=[
            PlayedInfo(
                at=seconds(one.event.at) or 0,
                event=one.event.kind,
                outcome=one.outcome,
                ours=one.ours,
            )
            for one in found.played
        ],
        agree="all" if all(same) else "some" if any(same) else "none",
    )
