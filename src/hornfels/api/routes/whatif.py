"""Weighing a change before it is made."""

from __future__ import annotations

from dataclasses import asdict

from fastapi import APIRouter

from hornfels.api.address import Route
from hornfels.api.deps import Current
from hornfels.api.rights import needs
from hornfels.api.schemas import (
    EditToWeigh,
    EditWeighed,
    MoveInfo,
    ProblemInfo,
    WhatIf,
    WhatIfAnswer,
)
from hornfels.api.views import course_info, now_moment
from hornfels.core.domain.account_state import settings_of
from hornfels.core.drafts.edits import GONE
from hornfels.core.drafts.weighing import in_short, weigh_edit
from hornfels.core.policy.catalogue import BY_KEY
from hornfels.core.policy.lockout import guess_budget, reuse_sentence
from hornfels.core.policy.model import DEFAULTS, problems
from hornfels.core.policy.strength import compare
from hornfels.core.resolution.what_if import (
    Move,
    weigh_link,
    weigh_place,
    weigh_precedence,
)
from hornfels.refusals import FieldsError, NotFoundError
from hornfels.service.naming import (
    policy_mark,
    policy_name,
    policy_number,
    policy_ref,
    population_key,
)
from hornfels.service.snapshots import Snapshot

router = APIRouter(
    prefix="/api/domains/{domain}/what-if",
    tags=["what-if"],
    route_class=Route,
    dependencies=[needs("see")],
)


@router.post("", dependencies=[needs("see", proof=False)])
def weigh(body: WhatIf, current: Current) -> WhatIfAnswer:
    """Which accounts would change policy, from which to which, population by population."""
    chosen = [v for v in (body.precedence, body.place, body.link, body.unlink) if v is not None]
    if len(chosen) != 1:
        raise FieldsError(("", "Weigh one change at a time: precedence, place, link or unlink."))
    policy = current.index.get(body.guid)
    if policy is None:
        raise NotFoundError(GONE)
    estate, resolution = current.estate, current.resolution
    if body.precedence is not None:
        told = weigh_precedence(estate, resolution, policy, body.precedence)
    elif body.place is not None:
        told = weigh_place(estate, resolution, policy, body.place)
    else:
        group = _group(current, body.link or body.unlink or "")
        told = weigh_link(estate, resolution, policy, group, link=body.link is not None)
    return WhatIfAnswer(
        precedence=told.precedence,
        order=[str(estate.policies[p].guid) for p in told.order],
        accounts=told.accounts,
        moves=[_move(current, move) for move in told.moves],
        sentence=told.sentence,
    )


@router.post("/edit", dependencies=[needs("see", proof=False)])
def weigh_settings(body: EditToWeigh, current: Current) -> EditWeighed:
    """What is wrong with an edit of settings, and whom it would hit, before it is saved."""
    estate = current.estate
    if body.policy is None:
        settings = DEFAULTS.edited(body.settings.given())
        sentence = ""
    else:
        policy = policy_number(current, str(body.policy))
        if policy is None:
            raise NotFoundError(GONE)
        settings = settings_of(estate, policy).edited(body.settings.given())
        sentence = in_short(
            weigh_edit(estate, current.resolution, policy, settings, body.precedence, now_moment())
        )
    found = problems(settings, body.precedence)
    return EditWeighed(
        problems=[ProblemInfo(**asdict(p)) for p in found],
        sentence=sentence,
        guess_budget=guess_budget(settings),
        reuse=reuse_sentence(settings),
        course=course_info(settings),
    )


def _group(current: Snapshot, dn: str) -> int:
    rows = current.estate.groups.dn.find(dn)
    if not len(rows):
        raise FieldsError(("", f"There is no group '{dn}' in this domain."))
    return int(rows[0])


def _move(current: Snapshot, move: Move) -> MoveInfo:
    estate = current.estate
    differs = compare(settings_of(estate, move.before), settings_of(estate, move.after))
    return MoveInfo(
        population=population_key(estate, current.resolution.stack(move.population)),
        accounts=move.accounts,
        before=policy_ref(current, move.before),
        before_name=policy_name(current, move.before),
        after=policy_ref(current, move.after),
        after_name=policy_name(current, move.after),
        after_mark=policy_mark(current, move.after),
        stronger=[BY_KEY[key].label for key, how in differs.items() if how == "stronger"],
        weaker=[BY_KEY[key].label for key, how in differs.items() if how == "weaker"],
    )
