"""What policies ask beyond the directory's own rules: read, weighed, set."""

from __future__ import annotations

from secrets import SystemRandom
from uuid import UUID

from fastapi import APIRouter

from hornfels.api.addition_schemas import (
    AdditionEdit,
    AdditionInfo,
    EffectsAnswer,
    EffectsAsked,
    LifetimeBand,
    RuleEffectInfo,
    RuleSaid,
    SpaceInfo,
)
from hornfels.api.address import Route
from hornfels.api.deps import Current, Edit
from hornfels.api.refusals import Refusal
from hornfels.api.rights import needs
from hornfels.api.schemas import Conflict, ProblemInfo
from hornfels.core.domain.account_state import addition_of, settings_of
from hornfels.core.drafts.edits import GONE, fingerprint
from hornfels.core.drafts.written_additions import RulePart, rule_written
from hornfels.core.passwords.drawing import needs_of
from hornfels.core.passwords.layouts import LAYOUTS
from hornfels.core.policy.addition import Addition, Asked
from hornfels.core.policy.addition_words import said
from hornfels.core.policy.model import PolicyRef
from hornfels.core.values.time import seconds
from hornfels.refusals import NotFoundError
from hornfels.service import additions
from hornfels.service.naming import policy_number, policy_ref
from hornfels.service.snapshots import Snapshot

router = APIRouter(prefix="/api/domains/{domain}/additions", tags=["additions"], route_class=Route)


def _number(current: Snapshot, policy: PolicyRef) -> int:
    found = policy_number(current, str(policy))
    if found is None:
        raise NotFoundError(GONE)
    return found


@router.get("/{policy}", response_model_exclude_none=True, dependencies=[needs("see")])
def get_addition(policy: PolicyRef, current: Current) -> AdditionInfo:
    """What a policy asks besides."""
    return _info(current, _number(current, policy), policy)


@router.put(
    "/{policy}",
    response_model_exclude_none=True,
    responses={409: {"model": Conflict | Refusal}},
    dependencies=[needs("draft", proof=False)],
)
def set_addition(policy: PolicyRef, body: AdditionEdit, edit: Edit) -> AdditionInfo:
    """Say what a policy asks besides, in the draft that is shown."""
    wanted = body.addition.addition() if body.addition else None
    current = additions.set_addition(edit, policy, body.version, wanted)
    return _info(current, _number(current, policy), policy)


@router.post("/{policy}/effects", dependencies=[needs("bench", proof=False)])
def get_effects(policy: PolicyRef, body: EffectsAsked, current: Current) -> EffectsAnswer:
    """What each rule of an addition does, saved or not: an example that it alone refuses, and what
    it refuses of passwords as people choose them. Nothing of it is kept.
    """
    number, addition = _number(current, policy), body.addition.addition()
    sample = [one.get_secret_value() for one in body.sample]
    weighed = additions.weigh(current, number, addition, sample, SystemRandom())
    found = weighed.effects
    settings = settings_of(current.estate, number)
    return EffectsAnswer(
        rules=[
            RuleEffectInfo(
                path=one.path,
                number=one.number,
                said=one.said,
                example=one.example,
                present=one.present,
                repair=one.repair,
                refused=one.refused,
                alone=one.alone,
            )
            for one in found.rules
        ],
        sample=found.sample,
        natively=found.natively,
        altogether=found.altogether,
        problems=[
            ProblemInfo(field=path, severity="warning", message=f"Nothing can keep it: {why}.")
            for path, asked in addition.paths()
            if (why := needs_of(settings, asked).contradiction())
        ],
        space=[
            SpaceInfo(
                path=path,
                length=left.length,
                natively=left.natively,
                left=left.left,
                counted=left.counted,
            )
            for path, left in weighed.spaces
        ],
    )


def _info(current: Snapshot, number: int, policy: PolicyRef) -> AdditionInfo:
    addition = addition_of(current.estate, number) or Addition()
    return AdditionInfo(
        policy=policy_ref(current, number),
        version=fingerprint(current.estate, policy if policy == "domain" else UUID(str(policy))),
        password=_rules(addition.password),
        phrase=_rules(addition.phrase),
        bands=[
            LifetimeBand(length=band.length, lifetime=seconds(band.lifetime) or 0)
            for band in addition.bands
        ],
        layouts=list(LAYOUTS),
    )


def _rules(asked: tuple[Asked, ...] | None) -> list[RuleSaid] | None:
    if asked is None:
        return None
    return [
        RuleSaid(rule=RulePart.model_validate(rule_written(one)), said=said(one)) for one in asked
    ]
