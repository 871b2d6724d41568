"""Policy files: handed out, held against live, made into a draft."""

from __future__ import annotations

from typing import Annotated, Any
from urllib.parse import quote

from fastapi import APIRouter, Query
from fastapi.responses import PlainTextResponse, Response

from hornfels.api.address import Route
from hornfels.api.deps import RAW_BODY, Current, Database, RawBody, User
from hornfels.api.exporting import exported
from hornfels.api.policy_file_schemas import PolicyFilePlan, PolicyFileTaken
from hornfels.api.publication_schemas import SaidInfo
from hornfels.api.rights import SIGNED_IN, needs
from hornfels.api.schemas import Title
from hornfels.api.views import draft_info
from hornfels.formats.policy_file.model import schema
from hornfels.service import drafts, policy_files
from hornfels.store.drafts import MOST_TITLE

router = APIRouter(prefix="/api", tags=["policy files"], route_class=Route)


@router.get("/policy-file.schema.json", dependencies=[SIGNED_IN])
def get_schema() -> dict[str, Any]:
    """The JSON Schema of policy files, for editors."""
    return schema()


@router.get(
    "/domains/{domain}/policy-file",
    dependencies=[needs("see"), exported("policies and trials as a policy file")],
    response_class=Response,
    responses={
        200: {
            "content": {"text/plain": {"schema": {"type": "string"}}},
            "description": "A policy file.",
        }
    },
)
def get_policy_file(current: Current, database: Database) -> PlainTextResponse:
    """The policies as they are shown, and the trials, as a policy file."""
    name = quote(f"{current.estate.domain.dns_name}.yaml", safe="")
    return PlainTextResponse(
        policy_files.written(database, current),
        headers={"Content-Disposition": f"attachment; filename*=UTF-8''{name}"},
    )


@router.post(
    "/domains/{domain}/policy-file/plan", openapi_extra=RAW_BODY, dependencies=[needs("see")]
)
def plan(body: RawBody, current: Current, database: Database) -> PolicyFilePlan:
    """What a policy file (the request's body) would change of live. Nothing is changed."""
    found = policy_files.look(database, current.live, body)
    return PolicyFilePlan(
        changes=[
            SaidInfo(subject=s.subject, text=s.text, before=s.before, after=s.after)
            for s in found.sentences(current.live)
        ],
        new_trials=len(found.new_trials),
    )


@router.post(
    "/domains/{domain}/policy-file",
    openapi_extra=RAW_BODY,
    dependencies=[needs("draft")],
)
def take(
    body: RawBody,
    current: Current,
    database: Database,
    user: User,
    title: Annotated[Title, Query(max_length=MOST_TITLE)] = "",
) -> PolicyFileTaken:
    """Make a draft of what a policy file (the request's body) wants of live, and keep its
    trials.
    """
    live = current.live
    name = title.strip() or "From a policy file"
    row, new_trials = policy_files.draft_of(database, live, user, body, name)
    info = draft_info(*drafts.in_short(current, row)) if row else None
    return PolicyFileTaken(draft=info, new_trials=new_trials)
