"""Lists of blocked terms: read, handed out, filled, taken away."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Path, Query
from fastapi.responses import PlainTextResponse, Response

from hornfels.api.addition_schemas import TermListInfo, TermListsAnswer, TermsAnswer
from hornfels.api.address import Route
from hornfels.api.deps import RAW_BODY, Current, Database, Edit, RawBody
from hornfels.api.exporting import attached, exported, sent_as
from hornfels.api.rights import needs
from hornfels.core.policy.term_lists import LONGEST_LIST_NAME, TermList
from hornfels.refusals import FieldsError, NotFoundError
from hornfels.service import additions
from hornfels.service.naming import policy_name
from hornfels.service.snapshots import Snapshot
from hornfels.store import terms

router = APIRouter(
    prefix="/api/domains/{domain}/blocked-terms", tags=["additions"], route_class=Route
)

Name = Annotated[str, Path(min_length=1, max_length=LONGEST_LIST_NAME)]
Seen = Annotated[
    str, Query(max_length=64, description="the digest of the list as it was seen; empty if new")
]
SHOWN = 2_000
"""Terms that are shown to be edited one by one."""


def _list(current: Snapshot, name: str) -> TermList:
    found = current.estate.domain.term_lists.get(name)
    if found is None:
        raise NotFoundError(f"There is no list “{name[:60]}” in this domain.")
    return found


@router.get("", dependencies=[needs("see")])
def get_lists(current: Current) -> TermListsAnswer:
    """All lists of blocked terms, with who uses them, and terms of the house to block."""
    estate = current.estate
    return TermListsAnswer(
        lists=[
            TermListInfo(
                name=name,
                digest=held.digest,
                count=held.count,
                used_by=[policy_name(current, p) for p in additions.users_of(estate, name)],
            )
            for name, held in sorted(estate.domain.term_lists.items())
        ],
        house=current.house_terms,
    )


@router.get("/{name}", dependencies=[needs("see")])
def get_terms(name: Name, current: Current, database: Database) -> TermsAnswer:
    """The terms of a list, the first ones of a long one."""
    held = _list(current, name)
    found = terms.of_digest(database, current.domain_id, held.digest)
    return TermsAnswer(name=name, digest=held.digest, count=held.count, terms=list(found[:SHOWN]))


@router.get(
    "/{name}/export",
    dependencies=[needs("see"), exported("a list of blocked terms")],
    response_class=Response,
    responses=sent_as("text/plain", "The terms, one a line."),
)
def export_terms(name: Name, current: Current, database: Database) -> PlainTextResponse:
    """All terms of a list, one a line."""
    found = terms.of_digest(database, current.domain_id, _list(current, name).digest)
    return PlainTextResponse("".join(f"{term}\n" for term in found), headers=attached("terms.txt"))


@router.put("/{name}", openapi_extra=RAW_BODY, dependencies=[needs("draft", proof=False)])
def set_terms(name: Name, seen: Seen, body: RawBody, edit: Edit) -> TermListInfo:
    """Make a list hold the terms in the request's body, one a line in UTF-8, in the draft that is
    shown.
    """
    try:
        lines = body.decode("utf-8-sig").splitlines()
    except UnicodeDecodeError as error:
        line = body[: error.start].count(b"\n") + 1
        message = "This is no UTF-8 text. Save the list as UTF-8 and send it again."
        raise FieldsError((f"line {line}", message)) from None
    current = additions.set_terms(edit, name, seen, lines)
    held = _list(current, name)
    users = [policy_name(current, p) for p in additions.users_of(current.estate, name)]
    return TermListInfo(name=name, digest=held.digest, count=held.count, used_by=users)


@router.delete("/{name}", status_code=204, dependencies=[needs("draft", proof=False)])
def drop_terms(name: Name, seen: Seen, edit: Edit) -> None:
    """Take a list away that no rule names, in the draft that is shown."""
    additions.drop_terms(edit, name, seen)
