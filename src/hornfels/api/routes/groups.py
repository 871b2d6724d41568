"""A group's side: what is linked to it, and what its members really get and from where."""

from __future__ import annotations

import numpy as np
from fastapi import APIRouter

from hornfels.api.address import Route
from hornfels.api.deps import Current
from hornfels.api.rights import needs
from hornfels.api.schemas import GroupInfo, GroupLink, GroupShare
from hornfels.core.resolution.reach import link_trouble
from hornfels.refusals import NotFoundError
from hornfels.service.naming import policy_mark, policy_name, policy_ref

router = APIRouter(
    prefix="/api/domains/{domain}/groups",
    tags=["groups"],
    route_class=Route,
    dependencies=[needs("see")],
)


@router.get("/{name}")
def get_group(name: str, current: Current) -> GroupInfo:
    estate, resolution = current.estate, current.resolution
    found = estate.groups.name.find(name)
    if not len(found):
        raise NotFoundError(f"There is no group '{name}' in this domain.")
    group = int(found[0])
    below = estate.memberships.accounts_below(group)
    policies, first, counts = np.unique(
        resolution.winner_of_account[below], return_index=True, return_counts=True
    )
    shares = sorted(
        zip(policies.tolist(), below[first].tolist(), counts.tolist(), strict=True),
        key=lambda item: -item[2],
    )
    links = [link for link in estate.links if link.kind == "group" and link.target == group]
    return GroupInfo(
        name=estate.groups.name[group],
        dn=estate.groups.dn[group],
        scope=estate.groups.scope(group),
        security=bool(estate.groups.security[group]),
        direct=len(np.unique(estate.memberships.members.of(group))),
        accounts=len(below),
        inside=[
            estate.groups.name[g] for g in estate.memberships.groups_of_group.of(group).tolist()
        ],
        nested=[estate.groups.name[g] for g in estate.memberships.secure.of(group).tolist()],
        links=[
            GroupLink(
                guid=str(estate.policies[link.policy].guid),
                name=estate.policies[link.policy].name,
                precedence=estate.policies[link.policy].precedence,
                mark=policy_mark(current, link.policy) or 0,
                trouble=link_trouble(estate, link),
            )
            for link in sorted(links, key=lambda ln: resolution.order.index(ln.policy))
        ],
        shares=[
            GroupShare(
                guid=policy_ref(current, p),
                name=policy_name(current, p),
                mark=policy_mark(current, p),
                accounts=n,
                sample=estate.accounts.name[row],
            )
            for p, row, n in shares
        ],
    )
