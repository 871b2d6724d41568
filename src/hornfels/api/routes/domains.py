"""Domains: what is stored, its strata, taking one out."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query
from sqlalchemy import select

from hornfels.api.address import Route
from hornfels.api.deps import Current, Database, Renewal, User
from hornfels.api.routes.policies import merged
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
from hornfels.api.views import domain_info, strata
from hornfels.core.policy.catalogue import BY_KEY, CATALOGUE
from hornfels.core.policy.dependencies import adjustments
from hornfels.core.policy.model import DEFAULTS
from hornfels.core.policy.starting_points import STARTING_POINTS
from hornfels.core.values.time import TICKS_PER_SECOND, seconds
from hornfels.refusals import ChangedMeanwhileError, NotFoundError
from hornfels.service.editing import domain_for_writing
from hornfels.store.estates import remove_domain
from hornfels.store.models import DomainRow

router = APIRouter(prefix="/api", tags=["domains"], route_class=Route)


@router.get("/settings")
def settings(_user: User) -> list[SettingInfo]:
    """The catalogue of settings; spans in seconds."""
    return [
        SettingInfo(
            key=s.key,
            label=s.label,
            kind=s.kind,
            unit=s.unit,
            section=s.section,
            explanation=s.explanation,
            takes_effect=s.takes_effect,
            endless=s.endless,
            low=s.low // TICKS_PER_SECOND if s.kind == "span" else s.low,
            high=s.high // TICKS_PER_SECOND if s.kind == "span" else s.high,
        )
        for s in CATALOGUE
    ]


@router.get("/starting-points")
def starting_points(_user: User) -> list[StartingPointInfo]:
    """What a new policy can start from."""
    return [
        StartingPointInfo(key=p.key, label=p.label, settings=p.settings.plain(), reasons=p.reasons)
        for p in STARTING_POINTS
    ]


@router.post("/adjustments")
def get_adjustments(body: AdjustmentsAsked, _user: User) -> list[AdjustmentInfo]:
    """What to change along with a setting that somebody changes."""
    found = adjustments(merged(DEFAULTS, body.settings), body.changed)
    return [
        AdjustmentInfo(
            key=c.key,
            value=seconds(c.value) if BY_KEY[c.key].kind == "span" else c.value,
            reason=c.reason,
        )
        for c in found
    ]


@router.get("/domains")
def domains(database: Database, _user: User, snapshots: Renewal) -> list[DomainInfo]:
    names = database.scalars(select(DomainRow.dns_name).order_by(DomainRow.dns_name)).all()
    database.rollback()  # a domain that is read anew takes a connection of its own
    return [domain_info(found) for name in names if (found := snapshots.of(name))]


@router.patch("/domains/{domain}")
def edit_domain(
    body: DomainEdit, current: Current, database: Database, snapshots: Renewal
) -> DomainInfo:
    """Choose which linked groups count in this domain, and what publishing wants."""
    row = domain_for_writing(database, current)
    if row.version != body.version:
        raise ChangedMeanwhileError(
            "The domain changed meanwhile. Look at it again before choosing."
        )
    if body.linked_groups is not None:
        row.linked_groups = body.linked_groups
    if body.approval_required is not None:
        row.approval_required = body.approval_required
    if body.trials_required is not None:
        row.trials_required = body.trials_required
    row.version += 1
    database.commit()
    return domain_info(snapshots.of(current.estate.domain.dns_name) or current)


@router.get("/domains/{domain}/strata")
def get_strata(current: Current, show: Annotated[str, Query(max_length=2000)] = "") -> Strata:
    """The section; ``show`` lists keys of populations, comma-separated, that must not be
    summed up.
    """
    return strata(current, frozenset(show.split(",")))


@router.delete("/domains/{domain}", status_code=204)
def delete_domain(
    domain: str, version: Annotated[Version, Query()], database: Database, _user: User
) -> None:
    """Take a domain out of Hornfels, with its drafts, history, trials and accepted findings. The
    directory keeps all it has.
    """
    row = database.scalars(
        select(DomainRow).where(DomainRow.dns_name == domain).with_for_update()
    ).one_or_none()
    if row is None:
        raise NotFoundError(f"There is no domain '{domain[:200]}' here.")
    if row.version != version:
        raise ChangedMeanwhileError(
            "The domain changed meanwhile. Look at it again before taking it out."
        )
    remove_domain(database, row)
    database.commit()
