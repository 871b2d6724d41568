"""Domains: what is stored, its strata, taking one out."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query

from hornfels.api.address import Route
from hornfels.api.deps import Current, Database, Renewal, Rights, User
from hornfels.api.rights import SIGNED_IN, Person, allowed, needs, signed_in
from hornfels.api.schemas import (
    MOST_REASON,
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


@router.get("/settings", dependencies=[SIGNED_IN])
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


@router.get("/starting-points", dependencies=[SIGNED_IN])
def starting_points(_user: User) -> list[StartingPointInfo]:
    """What a new policy can start from."""
    return [
        StartingPointInfo(
            key=p.key, label=p.label, settings=settings_info(p.settings), reasons=p.reasons
        )
        for p in STARTING_POINTS
    ]


@router.post("/adjustments", dependencies=[signed_in(proof=False)])
def get_adjustments(body: AdjustmentsAsked, _user: User) -> list[AdjustmentInfo]:
    """What to change along with a setting that somebody changes."""
    found = adjustments(DEFAULTS.edited(body.settings.given()), body.changed)
    return [AdjustmentInfo(key=c.key, value=plain(c.key, c.value), reason=c.reason) for c in found]


@router.get("/domains", dependencies=[SIGNED_IN])
def list_domains(database: Database, visitor: Person, snapshots: Renewal) -> list[DomainInfo]:
    """The domains that one may see, with what one may do in each."""
    held = (
        (found, allowed(visitor, found.estate.domain.dns_name))
        for found in domains.every(database, snapshots)
    )
    return [domain_info(found, rights) for found, rights in held if "see" in rights]


@router.patch("/domains/{domain}", dependencies=[needs("settings", proof=True)])
def edit_domain(
    body: DomainEdit,
    current: Current,
    database: Database,
    user: User,
    rights: Rights,
    snapshots: Renewal,
) -> DomainInfo:
    """Choose which linked groups count in this domain, and what publishing wants. It takes a reason
    and the password once more, and waits for a second person where approval is required.
    """
    asked = {"approval_required": body.approval_required, "trials_required": body.trials_required}
    publishing = {key: value for key, value in asked.items() if value is not None}
    chosen = domains.choose(
        database,
        snapshots,
        current,
        user,
        body.version,
        linked_groups=body.linked_groups,
        publishing=publishing,
        reason=body.reason,
    )
    return domain_info(chosen, rights)


@router.get("/domains/{domain}/strata", dependencies=[needs("see")])
def get_strata(
    current: Current, rights: Rights, show: Annotated[str, Query(max_length=2000)] = ""
) -> Strata:
    """The section; ``show`` lists keys of populations, comma-separated, that must not be
    summed up.
    """
    return strata(current, rights, frozenset(show.split(",")))


@router.delete("/domains/{domain}", status_code=204, dependencies=[needs("settings", proof=True)])
def delete_domain(
    domain: str,
    version: Annotated[Version, Query()],
    database: Database,
    user: User,
    reason: Annotated[str, Query(max_length=MOST_REASON)] = "",
) -> None:
    """Take a domain out of Hornfels, with its drafts, history, trials and accepted findings. The
    directory keeps all it has. It waits for a second person where approval is required.
    """
    domains.remove(database, domain, user, version, reason)
