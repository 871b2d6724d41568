"""Policies: read, create, edit, delete, link, unlink."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from typing import Annotated, Any
from uuid import UUID, uuid4

from fastapi import APIRouter, Query, Request
from fastapi.responses import JSONResponse

from hornfels.api.address import Route
from hornfels.api.deps import Current, Edit
from hornfels.api.refusals import Refusal
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
    SettingsEdit,
)
from hornfels.api.views import bedrock, policy_detail
from hornfels.core.domain.estate import Estate
from hornfels.core.drafts.edits import GONE, edits, find_target, fingerprint, removal, target_of
from hornfels.core.drafts.operations import AddPolicy, LinkPolicy, Operation, Target, UnlinkPolicy
from hornfels.core.policy.catalogue import BY_KEY
from hornfels.core.policy.model import DEFAULTS, Policy, Problem, Settings, problems
from hornfels.core.values.time import span_from_seconds
from hornfels.formats.attributes import domain_attributes, policy_attributes
from hornfels.refusals import FieldsError, NotFoundError
from hornfels.service.editing import Editing, shown_draft
from hornfels.service.snapshots import Snapshot

router = APIRouter(prefix="/api/domains/{domain}/policies", tags=["policies"], route_class=Route)


def _detail(current: Snapshot | None, guid: UUID) -> PolicyDetail:
    if current is None or guid not in current.index:
        raise NotFoundError(GONE)
    return policy_detail(current, current.index[guid])


def merged(settings: Settings, edit: SettingsEdit) -> Settings:
    """Settings with an edit's values, those in seconds made ticks. Refuses null where there is no
    "never".
    """
    changes: dict[str, Any] = {}
    for key in edit.model_fields_set:
        value = getattr(edit, key)
        setting = BY_KEY[key]
        if value is None and not setting.endless:
            raise _invalid(
                [Problem(field=key, severity="error", message=f"{setting.label} needs a value.")]
            )
        changes[key] = span_from_seconds(value) if setting.kind == "span" else value
    return replace(settings, **changes)


def _invalid(found: list[Problem]) -> FieldsError:
    return FieldsError(*((p.field, p.message) for p in found))


def _check(settings: Settings, precedence: int | None, before: list[Problem]) -> None:
    """Refuse errors that this edit would bring in. What a directory already held may stay
    as it is.
    """
    fresh = [p for p in problems(settings, precedence) if p.severity == "error" and p not in before]
    if fresh:
        raise _invalid(fresh)


class StalePolicyError(Exception):
    """Somebody else changed the policy in the same draft since it was read."""

    def __init__(self, guid: UUID, current: Snapshot) -> None:
        super().__init__(str(guid))
        self.guid = guid
        self.current = current


async def answer_conflict(_request: Request, error: Exception) -> JSONResponse:
    """Both sides of a conflict: the person still has theirs, this is the draft's."""
    assert isinstance(error, StalePolicyError)  # noqa: S101
    current = _detail(error.current, error.guid)
    body = Conflict(
        message=(
            f"{current.changed_by} changed {current.name} while you were editing it. Nothing of "
            "yours was saved."
        ),
        current=current,
    )
    return JSONResponse(body.model_dump(), status_code=409)


def _seen(estate: Estate, guid: UUID, version: int, edit: Editing) -> Policy:
    """The policy as the draft has it, if that is the state the write was made for."""
    policy = next((p for p in estate.policies if p.guid == guid), None)
    if policy is None:
        raise NotFoundError(GONE)
    if fingerprint(estate, guid) != version:
        draft = shown_draft(edit.current)
        edit.database.rollback()  # the draft is read anew, by another connection
        raise StalePolicyError(guid, edit.snapshots.with_draft(draft.live, draft.id))
    return policy


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


@router.post("", status_code=201)
def create_policy(body: PolicyNew, edit: Edit) -> PolicyDetail:
    """Add a policy to the draft that is shown."""
    settings = merged(DEFAULTS, body.settings)
    _check(settings, body.precedence, [])
    guid = uuid4()
    targets = tuple(_target(edit.current, dn) for dn in body.links)

    def add(_estate: Estate) -> list[Operation]:
        return [
            AddPolicy(
                policy=guid,
                name=body.name,
                precedence=body.precedence,
                settings=vars(settings),
                links=targets,
            )
        ]

    return _detail(edit.change(add), guid)


@router.patch("/domain")
def edit_bedrock(body: BedrockEdit, edit: Edit) -> Bedrock:
    """Edit the domain policy in the draft that is shown."""

    def changed(estate: Estate) -> Iterator[Operation]:
        before = estate.domain.settings
        settings = merged(before, body.settings)
        _check(settings, None, problems(before))
        return edits(estate, None, settings=settings)

    return bedrock(edit.change(changed))


@router.patch("/{guid}", responses={409: {"model": Conflict | Refusal}})
def edit_policy(guid: UUID, body: PolicyEdit, edit: Edit) -> PolicyDetail:
    def changed(estate: Estate) -> Iterator[Operation]:
        before = _seen(estate, guid, body.version, edit)
        settings = merged(before.settings, body.settings)
        precedence = before.precedence if body.precedence is None else body.precedence
        _check(settings, precedence, problems(before.settings, before.precedence))
        return edits(
            estate,
            guid,
            name=body.name,
            precedence=body.precedence,
            guarded=body.guarded,
            settings=settings,
        )

    return _detail(edit.change(changed), guid)


@router.delete("/{guid}", status_code=204, responses={409: {"model": Conflict | Refusal}})
def delete_policy(guid: UUID, version: Annotated[Fingerprint, Query()], edit: Edit) -> None:
    def remove(estate: Estate) -> list[Operation]:
        policy = _seen(estate, guid, version, edit)
        if policy.guarded:
            message = f"{policy.name} is guarded against deletion. Lift the guard first."
            raise FieldsError(("guarded", message))
        return [removal(estate, guid)]

    edit.change(remove)


@router.post("/{guid}/links", responses={409: {"model": Conflict | Refusal}})
def link_policy(guid: UUID, body: LinkNew, edit: Edit) -> PolicyDetail:
    """Link a policy to an account or group of the estate, by its DN."""
    target = _target(edit.current, body.dn)

    def link(estate: Estate) -> list[Operation]:
        _seen(estate, guid, body.version, edit)
        return [LinkPolicy(policy=guid, target=target)]

    return _detail(edit.change(link), guid)


@router.delete("/{guid}/links", responses={409: {"model": Conflict | Refusal}})
def unlink_policy(
    guid: UUID,
    dn: Annotated[str, Query(max_length=4000)],
    version: Annotated[Fingerprint, Query()],
    edit: Edit,
) -> PolicyDetail:
    def unlink(estate: Estate) -> list[Operation]:
        _seen(estate, guid, version, edit)
        known = next(
            (
                link
                for link in estate.links
                if link.dn == dn and estate.policies[link.policy].guid == guid
            ),
            None,
        )
        return [UnlinkPolicy(policy=guid, target=target_of(known) if known else Target(dn=dn))]

    return _detail(edit.change(unlink), guid)


def _target(current: Snapshot, dn: str) -> Target:
    found = find_target(current.estate, dn)
    if found is None:
        raise FieldsError(("link", f"There is no account or group '{dn}' in this domain."))
    return found
