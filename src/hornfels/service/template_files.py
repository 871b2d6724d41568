"""Security templates as a draft has them: files that somebody puts into the domain share."""

from __future__ import annotations

from hornfels.core.domain.estate import Domain
from hornfels.core.values.dn import first_value, loose_key
from hornfels.formats.policies_folder import PLACE, template_file
from hornfels.formats.template import TemplateError, write_template
from hornfels.refusals import ConflictError, NotFoundError
from hornfels.settings import Settings

FILE = PLACE[-1]


def name_of(domain: Domain, gpo: str) -> str:
    """What a group policy object is called."""
    key = loose_key(gpo)
    names = (link.name for link in domain.gpo_links if loose_key(link.gpo) == key)
    return next(names, first_value(gpo))


def place_of(domain: Domain, gpo: str) -> str:
    """Where the file belongs, as a machine of the domain sees it."""
    name = domain.dns_name
    return "\\".join(("\\", name, "SYSVOL", name, "Policies", first_value(gpo), *PLACE))


def corrected(domain: Domain, gpo: str, where: Settings) -> bytes:
    """The file with what the domain's template of the object says; the rest of it is the file in
    the domain share, where that is mounted. Raises `NotFoundError`, `ConflictError`.
    """
    template = domain.templates.get(loose_key(gpo))
    if template is None:
        raise NotFoundError("Nothing is known of the template of that group policy object.")
    try:
        held = None
        if where.sysvol is not None:
            held = template_file(where.sysvol / domain.dns_name / "Policies", first_value(gpo))
        return write_template(template, held)
    except (TemplateError, OSError) as error:
        raise ConflictError(f"The file in the domain share cannot be used: {error}") from None
    except ValueError as error:
        raise ConflictError(f"No template can say this: {error}") from None
