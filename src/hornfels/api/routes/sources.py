"""Where the domain policy comes from: templates read in, and what a draft changes in them and in
their links.
"""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query

from hornfels.api.address import Route
from hornfels.api.deps import RAW_BODY, Edit, RawBody
from hornfels.api.rights import needs
from hornfels.api.schemas import Bedrock, SourceEdit, SourceLinkEdit
from hornfels.api.views import bedrock
from hornfels.service import sources

router = APIRouter(prefix="/api/domains/{domain}/sources", tags=["sources"], route_class=Route)


@router.put("/template", openapi_extra=RAW_BODY, dependencies=[needs("load", proof=True)])
def put_template(gpo: Annotated[str, Query(max_length=4000)], body: RawBody, edit: Edit) -> Bedrock:
    """Read the security template of one group policy object (the request's body)."""
    return bedrock(sources.read_in(edit, gpo, body))


@router.patch("/template", dependencies=[needs("draft", proof=False)])
def edit_template(body: SourceEdit, edit: Edit) -> Bedrock:
    """Edit what a source says, in the draft that is shown."""
    return bedrock(sources.edit_template(edit, body.gpo, body.settings, body.unset))


@router.patch("/link", dependencies=[needs("draft", proof=False)])
def edit_link(body: SourceLinkEdit, edit: Edit) -> Bedrock:
    """Order, enforce or switch off a link at the domain root, in the draft that is shown."""
    return bedrock(sources.edit_link(edit, body.gpo, body.place, body.enforced, body.disabled))
