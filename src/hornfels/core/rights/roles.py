"""Roles, what each allows, and what somebody may do in a domain."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from typing import Literal, get_args

Role = Literal["viewer", "help desk", "author", "approver", "administrator"]

Right = Literal[
    "see",
    "bench",
    "unlock",
    "draft",
    "approve",
    "publish",
    "load",
    "settings",
    "people",
    "trail",
    "rehearse",
    "exposed",
]
"""What can be allowed: look at a domain; try candidates and stories; unlock accounts; write drafts,
trials and accepted findings; approve a draft; make one live; bring a directory in and follow other
people's loads; choose what counts in a domain or take it out; say who may do what; read the trail;
make an account for a moment and try a policy on it in the directory; see whose password others
know.
"""

ROLES: tuple[Role, ...] = get_args(Role)
RIGHTS: tuple[Right, ...] = get_args(Right)

ALLOWED: Mapping[Role, frozenset[Right]] = {
    "viewer": frozenset({"see"}),
    "help desk": frozenset({"see", "bench", "unlock"}),
    "author": frozenset({"see", "bench", "draft", "publish", "rehearse", "exposed"}),
    "approver": frozenset({"see", "bench", "approve", "publish"}),
    "administrator": frozenset(RIGHTS),
}

SAID: Mapping[Right, str] = {
    "see": "look at it",
    "bench": "try candidates",
    "unlock": "unlock accounts",
    "draft": "write drafts and trials",
    "approve": "approve drafts",
    "publish": "publish drafts",
    "load": "load a directory",
    "settings": "choose what counts in a domain",
    "people": "say who may do what",
    "trail": "read the trail",
    "rehearse": "rehearse in the directory",
    "exposed": "see whose password others know",
}

EVERYWHERE = "*"
"""Stands for every domain in a grant, those still to come too."""

Grants = Mapping[str, Collection[Role]]
"""Roles by the domain they are held in."""


def rights_in(grants: Grants, domain: str) -> frozenset[Right]:
    """What somebody may do in a domain, by their roles there and everywhere."""
    roles = {*grants.get(domain, ()), *grants.get(EVERYWHERE, ())}
    return frozenset[Right]().union(*(ALLOWED[role] for role in roles))


def rights_anywhere(grants: Grants) -> frozenset[Right]:
    """What somebody may do in one domain at least."""
    return frozenset[Right]().union(*(rights_in(grants, domain) for domain in grants))


def domains_with(grants: Grants, right: Right) -> frozenset[str]:
    """The domains in which somebody may do it; `EVERYWHERE` among them for all."""
    return frozenset(domain for domain in grants if right in rights_in(grants, domain))


def roles_with(right: Right) -> tuple[Role, ...]:
    """The roles that allow it."""
    return tuple(role for role in ROLES if right in ALLOWED[role])
