"""Finding accounts, groups and policies by name."""

from __future__ import annotations

from typing import Annotated, Literal

from fastapi import APIRouter, Query

from hornfels.api.address import Route
from hornfels.api.deps import Current
from hornfels.api.rights import needs
from hornfels.api.schemas import Hit, Hits
from hornfels.core.values.text import TextColumn
from hornfels.service.naming import policy_mark

router = APIRouter(
    prefix="/api/domains/{domain}", tags=["search"], route_class=Route, dependencies=[needs("see")]
)

_EACH = 7


def _best(columns: list[TextColumn], needle: str) -> list[int]:
    """Rows that contain the needle in one of the columns: those that begin with it first, then the
    shortest names.
    """
    folded = needle.upper()
    found: dict[int, tuple[bool, int]] = {}
    for column in columns:
        for row in column.best(needle, _EACH).tolist():
            value = column[row]
            rank = (not value.upper().startswith(folded), len(value))
            found[row] = min(found.get(row, rank), rank)
    return sorted(found, key=lambda row: (*found[row], row))[:_EACH]


@router.get("/search")
def search(
    current: Current,
    q: Annotated[str, Query(min_length=1, max_length=200)],
    kind: Annotated[list[Literal["account", "group", "policy"]] | None, Query()] = None,
) -> Hits:
    """The best few hits of each kind."""
    estate, hits = current.estate, []
    kinds = kind or ["policy", "group", "account"]
    if "policy" in kinds:
        wanted = [
            n for n in current.resolution.order if q.upper() in estate.policies[n].name.upper()
        ]
        for n in wanted[:_EACH]:
            p = estate.policies[n]
            hits.append(
                Hit(
                    kind="policy",
                    name=p.name,
                    detail=f"precedence {p.precedence}",
                    dn=p.dn,
                    guid=str(p.guid),
                    mark=policy_mark(current, n),
                    counts=True,
                )
            )
    if "group" in kinds:
        counts = estate.groups.counts_when_linked(estate.linked_groups)
        for row in _best([estate.groups.name], q):
            size = len(estate.memberships.members.of(row))
            scope = estate.groups.scope(row) if estate.groups.security[row] else "distribution"
            detail = f"{scope} · {size:,} direct"
            hits.append(
                Hit(
                    kind="group",
                    name=estate.groups.name[row],
                    detail=detail,
                    dn=estate.groups.dn[row],
                    guid=None,
                    mark=None,
                    counts=bool(counts[row]),
                )
            )
    if "account" in kinds:
        for row in _best([estate.accounts.name, estate.accounts.display_name], q):
            hits.append(
                Hit(
                    kind="account",
                    name=estate.accounts.name[row],
                    detail=estate.accounts.display_name[row],
                    dn=estate.accounts.dn[row],
                    guid=None,
                    mark=None,
                    counts=not bool(estate.exempt[row]),
                )
            )
    return Hits(hits=hits)
