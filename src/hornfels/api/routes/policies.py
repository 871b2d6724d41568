"""Policies: read, create, edit, delete, link, unlink."""

from __future__ import annotations

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Query, Request
from fastapi.responses import JSONResponse

from hornfels.api.address import Route
from hornfels.api.deps import Current, Edit
from hornfels.api.refusals import Refusal
from hornfels.api.rights import needs
from hornfels.api.schemas import (
    AttributeInfo,
    Bedrock,
    BedrockEdit,
    Conflict,
    Fingerprint,
    LinkNew,
    PolicyDetail,
    PolicyEdit,
    PolicyNew,
)
from hornfels.api.views import bedrock, policy_detail
from hornfels.core.drafts.edits import GONE
from hornfels.formats.attributes import domain_attributes, policy_attributes
from hornfels.refusals import NotFoundError
from hornfels.service import policies
from hornfels.service.policies import StalePolicyError
from hornfels.service.snapshots import Snapshot

router = APIRouter(
    prefix="/api/domains/{domain}/policies",
    tags=["policies"],
    route_class=Route,
    dependencies=[needs("see")],
)


def _detail(current: Snapshot, guid: UUID) -> PolicyDetail:
    if guid not in current.index:
        raise NotFoundError(GONE)
    return policy_detail(current, current.index[guid])


async def answer_conflict(_request: Request, error: Exception) -> JSONResponse:
    """Both sides of a conflict: the person still has theirs, this is the draft's."""
    assert isinstance(error, StalePolicyError)  # noqa: S101
    current: PolicyDetail | Bedrock
    if error.policy == "domain":
        current, said = bedrock(error.current), "Somebody else changed the domain policy"
    else:
        current = _detail(error.current, error.policy)
        said = f"{current.changed_by} changed {current.name}"
    body = Conflict(
        message=f"{said} while you were editing it. Nothing of yours was saved.", current=current
    )
    return JSONResponse(body.model_dump(), status_code=409)


@router.get("/{guid}")
def get_policy(guid: UUID, current: Current) -> PolicyDetail:
    return _detail(current, guid)


@router.get("/domain/attributes")
def get_domain_attributes(current: Current) -> list[AttributeInfo]:
    """The domain policy as attributes of the domain object."""
    return [AttributeInfo(**a._asdict()) for a in domain_attributes(current.estate)]


@router.get("/{guid}/attributes")
def get_policy_attributes(guid: UUID, current: Current) -> list[AttributeInfo]:
    """A policy as the directory holds it."""
    if guid not in current.index:
        raise NotFoundError(GONE)
    return [
        AttributeInfo(**a._asdict()) for a in policy_attributes(current.estate, current.index[guid])
    ]


@router.post("", status_code=201, dependencies=[needs("draft", proof=False)])
def create_policy(body: PolicyNew, edit: Edit) -> PolicyDetail:
    """Add a policy to the draft that is shown."""
    guid, current = policies.create(
        edit,
        body.name,
        body.precedence,
        body.copy_of or body.start,
        body.settings.given(),
        body.links,
        same_links=body.same_links,
    )
    return _detail(current, guid)


@router.patch(
    "/domain",
    responses={409: {"model": Conflict | Refusal}},
    dependencies=[needs("draft", proof=False)],
)
def edit_bedrock(body: BedrockEdit, edit: Edit) -> Bedrock:
    """Edit the domain policy in the draft that is shown."""
    return bedrock(policies.edit_domain_policy(edit, body.version, body.settings.given()))


@router.patch(
    "/{guid}",
    responses={409: {"model": Conflict | Refusal}},
    dependencies=[needs("draft", proof=False)],
)
def edit_policy(guid: UUID, body: PolicyEdit, edit: Edit) -> PolicyDetail:
    current = policies.edit_policy(
        edit,
        guid,
        body.version,
        body.settings.given(),
        name=body.name,
        precedence=body.precedence,
        guarded=body.guarded,
    )
    return _detail(current, guid)


@router.delete(
    "/{guid}",
    status_code=204,
    responses={409: {"model": Conflict | Refusal}},
    dependencies=[needs("draft", proof=False)],
)
def delete_policy(guid: UUID, version: Annotated[Fingerprint, Query()], edit: Edit) -> None:
    policies.remove(edit, guid, version)


@router.post(
    "/{guid}/links",
    responses={409: {"model": Conflict | Refusal}},
    dependencies=[needs("draft", proof=False)],
)
def link_policy(guid: UUID, body: LinkNew, edit: Edit) -> PolicyDetail:
    """Link a policy to an account or group of the estate, by its DN."""
    return _detail(policies.link(edit, guid, body.dn, body.version), guid)


@router.delete(
    "/{guid}/links",
    responses={409: {"model": Conflict | Refusal}},
    dependencies=[needs("draft", proof=False)],
)
def unlink_policy(
    guid: UUID,
    dn: Annotated[str, Query(max_length=4000)],
    version: Annotated[Fingerprint, Query()],
    edit: Edit,
) -> PolicyDetail:
    return _detail(policies.unlink(edit, guid, dn, version), guid)
