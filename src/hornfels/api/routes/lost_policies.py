"""Policies that are gone, and policies that have come under their names."""

from __future__ import annotations

from uuid import UUID

from fastapi import APIRouter
from pydantic import BaseModel

from hornfels.api.address import Route
from hornfels.api.deps import Current, Database
from hornfels.api.rights import needs
from hornfels.api.schemas import Strict
from hornfels.core.drafts.written_additions import addition_read
from hornfels.core.policy.addition_words import lines
from hornfels.service.editing import domain_for_writing
from hornfels.store import lost_policies

router = APIRouter(
    prefix="/api/domains/{domain}/lost-policies",
    tags=["lost policies"],
    route_class=Route,
    dependencies=[needs("see")],
)


class LostPolicyInfo(BaseModel):
    """A policy that was lost, and the policy that has its name now, with another GUID."""

    guid: UUID
    policy: UUID
    name: str
    lost_at: str
    guarded: bool
    additional_rules: list[str]


class Restored(Strict):
    policy: UUID


@router.get("")
def list_lost(current: Current, database: Database) -> list[LostPolicyInfo]:
    """List lost policies whose names other policies have now, with their rules and guards."""
    return [
        LostPolicyInfo(
            guid=lost.guid,
            policy=row.guid,
            name=row.name,
            lost_at=lost.lost_at.isoformat(),
            guarded=lost.guarded,
            additional_rules=[text for _, text in lines(addition_read(lost.addition))],
        )
        for lost, row in lost_policies.offered(database, current.domain_id)
    ]


@router.post("/{guid}/restore", status_code=204, dependencies=[needs("load", proof=False)])
def restore(guid: UUID, body: Restored, current: Current, database: Database) -> None:
    """Give the policy what the lost policy of its name had: additional rules, guard, accepted
    risks, notification days.
    """
    domain = domain_for_writing(database, current)
    lost_policies.restore(database, domain, guid, body.policy)
    database.commit()
