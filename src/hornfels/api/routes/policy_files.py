"""Policy files: handed out, held against live, made into a draft."""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import APIRouter, Query
from fastapi.responses import PlainTextResponse, Response
from sqlalchemy.orm import Session

from hornfels.api.address import Route
from hornfels.api.deps import RAW_BODY, Current, Database, RawBody, User
from hornfels.api.exporting import attached, exported, sent_as
from hornfels.api.policy_file_schemas import (
    FileProblem,
    PolicyFilePlan,
    PolicyFileTaken,
    WatchedAnswer,
    WatchedFile,
)
from hornfels.api.publication_schemas import SaidInfo
from hornfels.api.rights import SIGNED_IN, needs
from hornfels.api.schemas import Title
from hornfels.api.views import draft_info
from hornfels.formats.policy_file.model import schema
from hornfels.refusals import NotFoundError
from hornfels.service import drafts, policy_files
from hornfels.service.policy_files import Planned
from hornfels.service.snapshots import Snapshot
from hornfels.service.watched_files import Watched, brought_up_to_date, watched
from hornfels.settings import read_settings
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
    responses=sent_as("text/plain", "A policy file."),
)
def get_policy_file(current: Current, database: Database) -> PlainTextResponse:
    """The policies as they are shown, and the trials, as a policy file."""
    return PlainTextResponse(
        policy_files.written(database, current),
        headers=attached(f"{current.estate.domain.dns_name}.yaml"),
    )


@router.post(
    "/domains/{domain}/policy-file/plan",
    openapi_extra=RAW_BODY,
    dependencies=[needs("see", proof=False)],
)
def plan(body: RawBody, current: Current, database: Database) -> PolicyFilePlan:
    """What a policy file (the request's body) would change of live. Nothing is changed."""
    return _plan(policy_files.look(database, current.live, body), current.live)


def _plan(found: Planned, live: Snapshot) -> PolicyFilePlan:
    return PolicyFilePlan(
        changes=[
            SaidInfo(subject=s.subject, text=s.text, before=s.before, after=s.after)
            for s in found.sentences(live)
        ],
        new_trials=len(found.new_trials),
    )


@router.post(
    "/domains/{domain}/policy-file",
    openapi_extra=RAW_BODY,
    dependencies=[needs("draft", proof=False)],
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
    return _taken(database, current, user, body, title.strip() or "From a policy file")


def _taken(
    database: Session, current: Snapshot, user: str, data: bytes, title: str
) -> PolicyFileTaken:
    row, new_trials = policy_files.draft_of(database, current.live, user, data, title)
    info = draft_info(*drafts.in_short(current, row)) if row else None
    return PolicyFileTaken(draft=info, new_trials=new_trials)


@router.get("/domains/{domain}/policy-file/watched", dependencies=[needs("see")])
def get_watched(current: Current, database: Database) -> WatchedAnswer:
    """The domain's policy file on the machine, if there is one, held against live."""
    found = watched(database, current.live, read_settings())
    if found is None:
        return WatchedAnswer(file=None)
    return WatchedAnswer(
        file=WatchedFile(
            name=found.name,
            changed_at=found.changed_at.isoformat(),
            plan=_plan(found.planned, current.live) if found.planned else None,
            wrong=[FileProblem(place=place, message=told) for place, told in found.wrong],
            behind_since=found.behind_since.isoformat() if found.behind_since else None,
        )
    )


@router.post("/domains/{domain}/policy-file/watched", dependencies=[needs("draft", proof=False)])
def take_watched(current: Current, database: Database, user: User) -> PolicyFileTaken:
    """Make a draft of what the watched file wants of live, and keep its trials."""
    found = _watched(database, current)
    return _taken(database, current, user, found.data, f"From {found.name}")


@router.get(
    "/domains/{domain}/policy-file/watched/up-to-date",
    dependencies=[needs("see"), exported("a policy file brought up to date")],
    response_class=Response,
    responses=sent_as("text/plain", "A policy file."),
)
def get_up_to_date(current: Current, database: Database) -> PlainTextResponse:
    """The watched file as it says what live is by now; its comments stay."""
    found = _watched(database, current)
    return PlainTextResponse(brought_up_to_date(found, current.live), headers=attached(found.name))


def _watched(database: Session, current: Snapshot) -> Watched:
    found = watched(database, current.live, read_settings())
    if found is None:
        raise NotFoundError("No policy file is watched for this domain.")
    return found
