"""Where the domain policy comes from: templates read in, and what a draft changes in them and in
their links.
"""

from __future__ import annotations

from collections.abc import Collection, Iterator, Mapping

from hornfels.core.domain.estate import Domain, Estate, GpoLink
from hornfels.core.domain.sources import root_links, template_problems
from hornfels.core.drafts.operations import EditSource, Operation, OrderSources, Said, SwitchSource
from hornfels.core.policy.catalogue import PlainValue, TemplateKey
from hornfels.core.policy.plain import values_of
from hornfels.core.values.dn import loose_key
from hornfels.formats.template import TemplateError, read_template
from hornfels.refusals import ConflictError, FieldsError, NotFoundError
from hornfels.service.editing import Editing, domain_for_writing
from hornfels.service.snapshots import Snapshot
from hornfels.store.estates import save_template


def read_in(edit: Editing, gpo: str, file: bytes) -> Snapshot:
    """Take the security template of one group policy object into live."""
    current = edit.current
    if current.draft:
        raise ConflictError(
            "A template is read from the directory: it belongs to live. Switch to live first."
        )
    try:
        template = read_template(file)
        row = domain_for_writing(edit.database, current)
        save_template(edit.database, row, gpo, template, edit.user)
    except (TemplateError, NotFoundError) as error:
        raise FieldsError(("template", str(error))) from None
    edit.database.commit()
    return edit.snapshots.of(current.estate.domain.dns_name) or current


def edit_template(
    edit: Editing,
    gpo: str,
    settings: Mapping[TemplateKey, PlainValue],
    unset: Collection[TemplateKey],
) -> Snapshot:
    """Change what a source says in the draft that is shown; it says nothing of what is `unset`."""
    given = values_of(settings)

    def changed(estate: Estate) -> Iterator[Operation]:
        link = _link(estate.domain.gpo_links, gpo)
        template = estate.domain.templates.get(loose_key(link.gpo), {})
        after = {key: value for key, value in template.items() if key not in unset} | given
        before = template_problems(template)
        fresh = {
            key: message
            for key, message in template_problems(after).items()
            if before.get(key) != message
        }
        if fresh:
            raise FieldsError(*fresh.items())
        for key in dict.fromkeys((*template, *after)):
            was, now = ((t[key],) if key in t else () for t in (template, after))
            if was != now:
                yield EditSource(gpo=link.gpo, changes={key: Said(before=was, after=now)})

    return edit.change(changed)


def edit_link(
    edit: Editing, gpo: str, place: int | None, enforced: bool | None, disabled: bool | None
) -> Snapshot:
    """Order, enforce or switch off a link at the domain root, in the draft that is shown."""

    def changed(estate: Estate) -> Iterator[Operation]:
        link = _link(tuple(root_links(estate.domain)), gpo)
        if place is not None:
            yield from _moved(estate.domain, link, place)
        if enforced is not None and enforced != link.enforced:
            yield SwitchSource(gpo=link.gpo, what="enforced", before=link.enforced, after=enforced)
        if disabled is not None and disabled != link.disabled:
            yield SwitchSource(gpo=link.gpo, what="disabled", before=link.disabled, after=disabled)

    return edit.change(changed)


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
