"""Domains: what is stored, its strata, taking one out."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query

from hornfels.api.address import Route
from hornfels.api.deps import Current, Database, Renewal, User
from hornfels.api.schemas import (
    AdjustmentInfo,
    AdjustmentsAsked,
    DomainEdit,
    DomainInfo,
    SettingInfo,
    StartingPointInfo,
    Strata,
    Version,
)
from hornfels.api.views import domain_info, settings_info, strata
from hornfels.core.policy.catalogue import TEMPLATE_SETTINGS, Setting
from hornfels.core.policy.dependencies import adjustments
from hornfels.core.policy.model import DEFAULTS
from hornfels.core.policy.plain import plain
from hornfels.core.policy.starting_points import STARTING_POINTS
from hornfels.service import domains

router = APIRouter(prefix="/api", tags=["domains"], route_class=Route)


@router.get("/settings")
def settings(_user: User) -> list[SettingInfo]:
    """The catalogue of settings, those that only templates hold too; spans in seconds."""
    return [
        SettingInfo(
            key=s.key,
            everywhere=isinstance(s, Setting),
            label=s.label,
            kind=s.kind,
            unit=s.unit,
            section=s.section,
            explanation=s.explanation,
            takes_effect=s.takes_effect,
            endless=s.endless,
            zero=s.zero,
            low=int(plain(s.key, s.low) or 0),
            high=int(plain(s.key, s.high) or 0),
            default=plain(s.key, s.default),
        )
        for s in TEMPLATE_SETTINGS.values()
    ]


@router.get("/starting-points")
def starting_points(_user: User) -> list[StartingPointInfo]:
    """What a new policy can start from."""
    return [
        StartingPointInfo(
            key=p.key, label=p.label, settings=settings_info(p.settings), reasons=p.reasons
        )
        for p in STARTING_POINTS
    ]


@router.post("/adjustments")
def get_adjustments(body: AdjustmentsAsked, _user: User) -> list[AdjustmentInfo]:
    """What to change along with a setting that somebody changes."""
    found = adjustments(DEFAULTS.edited(body.settings.given()), body.changed)
    return [AdjustmentInfo(key=c.key, value=plain(c.key, c.value), reason=c.reason) for c in found]


@router.get("/domains")
def list_domains(database: Database, _user: User, snapshots: Renewal) -> list[DomainInfo]:
    return [domain_info(found) for found in domains.every(database, snapshots)]


@router.patch("/domains/{domain}")
def edit_domain(
    body: DomainEdit, current: Current, database: Database, user: User, snapshots: Renewal
) -> DomainInfo:
    """Choose which linked groups count in this domain, and what publishing wants."""
    chosen = domains.choose(
        database,
        snapshots,
        current,
        user,
        body.version,
        linked_groups=body.linked_groups,
        approval_required=body.approval_required,
        trials_required=body.trials_required,
    )
    return domain_info(chosen)


@router.get("/domains/{domain}/strata")
def get_strata(current: Current, show: Annotated[str, Query(max_length=2000)] = "") -> Strata:
    """The section; ``show`` lists keys of populations, comma-separated, that must not be
    summed up.
    """
    return strata(current, frozenset(show.split(",")))


@router.delete("/domains/{domain}", status_code=204)
def delete_domain(
    domain: str, version: Annotated[Version, Query()], database: Database, user: User
) -> None:
    """Take a domain out of Hornfels, with its drafts, history, trials and accepted findings. The
    directory keeps all it has.
    """
    domains.remove(database, domain, user, version)
