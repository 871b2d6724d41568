"""Weighing a change before it is made."""

from __future__ import annotations

from dataclasses import asdict

from fastapi import APIRouter

from hornfels.api.address import Route
from hornfels.api.deps import Current
from hornfels.api.schemas import (
    EditToWeigh,
    EditWeighed,
    MoveInfo,
    ProblemInfo,
    WhatIf,
    WhatIfAnswer,
)
from hornfels.api.views import now_moment
from hornfels.core.domain.account_state import settings_of
from hornfels.core.drafts.edits import GONE
from hornfels.core.drafts.weighing import in_short, weigh_edit
from hornfels.core.policy.catalogue import BY_KEY, HIGHEST_PRECEDENCE_NUMBER
from hornfels.core.policy.lockout import guess_budget, reuse_sentence
from hornfels.core.policy.model import DEFAULTS, problems
from hornfels.core.policy.strength import compare
from hornfels.core.resolution.what_if import (
    Move,
    link_moves,
    precedence_for_place,
    precedence_moves,
    unlink_moves,
)
from hornfels.refusals import FieldsError, NotFoundError
from hornfels.service.naming import (
    policy_guid,
    policy_mark,
    policy_name,
    policy_number,
    population_key,
)
from hornfels.service.snapshots import Snapshot

router = APIRouter(prefix="/api/domains/{domain}/what-if", tags=["what-if"], route_class=Route)


@router.post("")
def weigh(body: WhatIf, current: Current) -> WhatIfAnswer:
    """Which accounts would change policy, from which to which, population by population."""
    chosen = [v for v in (body.precedence, body.place, body.link, body.unlink) if v is not None]
    if len(chosen) != 1:
        raise FieldsError(("", "Weigh one change at a time: precedence, place, link or unlink."))
    policy = current.index.get(body.guid)
    if policy is None:
        raise NotFoundError(GONE)
    estate, resolution = current.estate, current.resolution
    name = estate.policies[policy].name
    if body.link is not None or body.unlink is not None:
        group = _group(current, body.link or body.unlink or "")
        moves = (link_moves if body.link is not None else unlink_moves)(
            estate, resolution, policy, group
        )
        what = f"{'Linking' if body.link is not None else 'Unlinking'} {estate.groups.name[group]}"
        return _answer(current, moves, resolution.order, estate.policies[policy].precedence, what)
    number = body.precedence
    if body.place is not None:
        place = min(body.place, len(resolution.order) - 1)
        if resolution.order.index(policy) == place:
            number = estate.policies[policy].precedence
        else:
            number = precedence_for_place(estate, policy, place)
        if number is None:
            sentence = (
                f"No whole number is free for {name} there. Give one of its neighbours another "
                "number first."
            )
            stands = [str(estate.policies[p].guid) for p in resolution.order]
            return WhatIfAnswer(
                precedence=None, order=stands, accounts=0, moves=[], sentence=sentence
            )
    if number is None or not 1 <= number <= HIGHEST_PRECEDENCE_NUMBER:
        raise FieldsError(
            ("", f"Precedence is a whole number from 1 to {HIGHEST_PRECEDENCE_NUMBER:,}.")
        )
    moves, order = precedence_moves(estate, resolution, policy, number)
    return _answer(current, moves, order, number, f"{name} at {number}")


@router.post("/edit")
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
    )


def _group(current: Snapshot, dn: str) -> int:
    rows = current.estate.groups.dn.find(dn)
    if not len(rows):
        raise FieldsError(("", f"There is no group '{dn}' in this domain."))
    return int(rows[0])


def _answer(
    current: Snapshot, moves: list[Move], order: tuple[int, ...], precedence: int, what: str
) -> WhatIfAnswer:
    accounts = sum(m.accounts for m in moves)
    if not accounts:
        sentence = f"{what}: nobody changes policy."
    else:
        routes: dict[tuple[int, int], int] = {}
        for m in moves:
            routes[m.before, m.after] = routes.get((m.before, m.after), 0) + m.accounts
        listed = sorted(routes.items(), key=lambda item: -item[1])
        told = "; ".join(
            f"{n:,} from {policy_name(current, a)} to {policy_name(current, b)}"
            for (a, b), n in listed[:3]
        )
        more = f"; and {len(listed) - 3} more ways" if len(listed) > 3 else ""
        sentence = (
            f"{what}: {accounts:,} account{'s change' if accounts != 1 else ' changes'} policy, "
            f"{told}{more}."
        )
    return WhatIfAnswer(
        precedence=precedence,
        order=[str(current.estate.policies[p].guid) for p in order],
        accounts=accounts,
        moves=[_move(current, m) for m in moves],
        sentence=sentence,
    )


def _move(current: Snapshot, move: Move) -> MoveInfo:
    estate = current.estate
    differs = compare(settings_of(estate, move.before), settings_of(estate, move.after))
    return MoveInfo(
        population=population_key(estate, current.resolution.stack(move.population)),
        accounts=move.accounts,
        before=policy_guid(current, move.before),
        before_name=policy_name(current, move.before),
        after=policy_guid(current, move.after),
        after_name=policy_name(current, move.after),
        after_mark=policy_mark(current, move.after),
        stronger=[BY_KEY[key].label for key, how in differs.items() if how == "stronger"],
        weaker=[BY_KEY[key].label for key, how in differs.items() if how == "weaker"],
    )
