"""Where the domain policy comes from: templates read in, and what a draft changes in them and in
their links.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import Annotated, Any

from fastapi import APIRouter, Depends, Query, Request

from hornfels.api.address import Route
from hornfels.api.deps import Current, Database, Edit, Renewal, User
from hornfels.api.schemas import Bedrock, ExtendedInfo, SourceEdit, SourceLinkEdit
from hornfels.api.views import bedrock
from hornfels.core.domain.estate import Domain, Estate, GpoLink
from hornfels.core.domain.sources import (
    EXTENDED,
    EXTENDED_BY_KEY,
    is_span,
    root_links,
    template_problems,
)
from hornfels.core.drafts.operations import EditSource, Operation, OrderSources, Said, SwitchSource
from hornfels.core.policy.catalogue import BY_KEY
from hornfels.core.values.dn import loose_key
from hornfels.core.values.time import seconds, span_from_seconds
from hornfels.formats.template import TemplateError, read_template
from hornfels.refusals import ConflictError, FieldsError, NotFoundError
from hornfels.service.editing import domain_for_writing
from hornfels.store.estates import save_template

router = APIRouter(prefix="/api/domains/{domain}/sources", tags=["sources"], route_class=Route)
extended = APIRouter(prefix="/api", tags=["sources"], route_class=Route)


async def _raw(request: Request) -> bytes:
    return await request.body()


RawBody = Annotated[bytes, Depends(_raw)]
_BODY = {
    "requestBody": {
        "required": True,
        "content": {"application/octet-stream": {"schema": {"type": "string", "format": "binary"}}},
    }
}


@extended.get("/extended-settings")
def extended_settings(_user: User) -> list[ExtendedInfo]:
    """The settings that only the domain policy has."""
    return [
        ExtendedInfo(
            key=e.key,
            label=e.label,
            kind=e.kind,
            unit=e.unit,
            section=e.section,
            explanation=e.explanation,
            default=seconds(e.default) if e.kind == "span" else e.default,
        )
        for e in EXTENDED
    ]


@router.put("/template", openapi_extra=_BODY)
def put_template(
    gpo: Annotated[str, Query(max_length=4000)],
    current: Current,
    body: RawBody,
    database: Database,
    user: User,
    snapshots: Renewal,
) -> Bedrock:
    """Read the security template of one group policy object (the request's body)."""
    if current.draft:
        raise ConflictError(
            "A template is read from the directory: it belongs to live. Switch to live first."
        )
    try:
        template = read_template(body)
        save_template(database, domain_for_writing(database, current), gpo, template, user)
    except (TemplateError, NotFoundError) as error:
        raise FieldsError(("template", str(error))) from None
    database.commit()
    return bedrock(snapshots.of(current.estate.domain.dns_name) or current)


@router.patch("/template")
def edit_template(body: SourceEdit, edit: Edit) -> Bedrock:
    """Edit what a source says, in the draft that is shown."""
    unknown = [
        key
        for key in (*body.settings, *body.unset)
        if key not in BY_KEY and key not in EXTENDED_BY_KEY
    ]
    if unknown:
        raise FieldsError(*((key, "There is no such setting in a template.") for key in unknown))

    def changed(estate: Estate) -> Iterator[Operation]:
        link = _link(estate.domain.gpo_links, body.gpo)
        template = estate.domain.templates.get(loose_key(link.gpo), {})
        after = {key: value for key, value in template.items() if key not in body.unset} | {
            key: _value(key, value) for key, value in body.settings.items()
        }
        before = template_problems(template)
        fresh = {
            key: message
            for key, message in template_problems(after).items()
            if before.get(key) != message
        }
        if fresh:
            raise FieldsError(*((key, message) for key, message in fresh.items()))
        for key in dict.fromkeys((*template, *after)):
            was, now = ((t[key],) if key in t else () for t in (template, after))
            if was != now:
                yield EditSource(gpo=link.gpo, changes={key: Said(before=was, after=now)})

    return bedrock(edit.change(changed))


@router.patch("/link")
def edit_link(body: SourceLinkEdit, edit: Edit) -> Bedrock:
    """Order, enforce or switch off a link at the domain root, in the draft that is shown."""

    def changed(estate: Estate) -> Iterator[Operation]:
        at_root = root_links(estate.domain)
        link = _link(tuple(at_root), body.gpo)
        if body.place is not None:
            yield from _moved(estate.domain, link, body.place)
        for what, wanted in (("enforced", body.enforced), ("disabled", body.disabled)):
            held = bool(getattr(link, what))
            if wanted is not None and wanted != held:
                yield SwitchSource(gpo=link.gpo, what=what, before=held, after=wanted)

    return bedrock(edit.change(changed))


def _moved(domain: Domain, link: GpoLink, place: int) -> Iterator[Operation]:
    before = tuple(one.gpo for one in sorted(root_links(domain), key=lambda one: one.order))
    rest = [gpo for gpo in before if loose_key(gpo) != loose_key(link.gpo)]
    after = (*rest[:place], link.gpo, *rest[place:])
    if after != before:
        yield OrderSources(before=before, after=after)


def _link(links: tuple[GpoLink, ...], gpo: str) -> GpoLink:
    found = next((link for link in links if loose_key(link.gpo) == loose_key(gpo)), None)
    if found is None:
        raise NotFoundError("No group policy object of that name is linked there.")
    return found


def _value(key: str, value: Any) -> bool | int | None:
    setting = BY_KEY.get(key) or EXTENDED_BY_KEY[key]
    endless = key in BY_KEY and BY_KEY[key].endless
    fits = (
        isinstance(value, bool)
        if setting.kind == "switch"
        else (value is None and endless)
        or (isinstance(value, int | float) and not isinstance(value, bool))
    )
    if not fits or (setting.kind == "count" and not isinstance(value, int)):
        raise FieldsError((key, f"{setting.label} needs a value of its own kind."))
    return span_from_seconds(value) if is_span(key) else value
