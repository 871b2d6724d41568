"""The attribute ``gPLink`` of a domain or container ([MS-GPOL] 2.2.2): group policy objects in the
order they are applied, so that link order 1 comes last.
"""

from __future__ import annotations

import re

from hornfels.core.domain.estate import LINK_DISABLED, LINK_ENFORCED, Domain
from hornfels.core.domain.sources import root_links

ATTRIBUTE = "gPLink"
_LINK = re.compile(r"(?P<gpo>.*);(?P<options>[0-9]{1,10})\]\s*", re.DOTALL)
_START = re.compile(r"\[LDAP://", re.IGNORECASE)


def linked(text: str) -> list[tuple[str, int]]:
    """The group policy objects that the attribute names, each with its options, in its order."""
    found = (_LINK.fullmatch(part) for part in _START.split(text)[1:])
    return [(match["gpo"], int(match["options"])) for match in found if match]


def written(domain: Domain) -> str:
    """The attribute of the domain object."""
    links = sorted(root_links(domain), key=lambda link: -link.order)
    return "".join(
        f"[LDAP://{link.gpo};{link.disabled * LINK_DISABLED + link.enforced * LINK_ENFORCED}]"
        for link in links
    )
