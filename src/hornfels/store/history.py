"""The points of a domain's history: every load, publish and unlocking, with all policies as they
stood after it.
"""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import asdict, replace
from typing import Any
from uuid import UUID

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from hornfels.core.domain.estate import Domain, Estate, GpoLink, Link
from hornfels.core.drafts.operations import Operations, readdressed
from hornfels.core.drafts.written_additions import addition_read, addition_written
from hornfels.core.policy.model import Policy, Settings
from hornfels.core.policy.term_lists import TermList
from hornfels.core.rights.roles import Right
from hornfels.refusals import NotFoundError
from hornfels.store.models import DomainRow, PointRow
from hornfels.store.operations import read, written


def add(
    session: Session,
    row: DomainRow,
    policies: tuple[Policy, ...],
    links: tuple[Link, ...],
    domain: Domain,
    *,
    kind: str,
    title: str,
    author: str,
    reason: str = "",
    approver: str | None = None,
    operations: Operations = (),
    accounts: Sequence[dict[str, Any]] = (),
    confidential: bool = False,
    effect: str = "",
    task: str | None = None,
    in_directory: bool | None = None,
    change_records: str | None = None,
) -> PointRow:
    """Write down how the domain's policies stand now."""
    point = PointRow(
        domain_id=row.id,
        kind=kind,
        title=title,
        author=author,
        reason=reason,
        approver=approver,
        operations=written(operations),
        accounts=list(accounts),
        confidential=confidential,
        effect=effect,
        task=task,
        in_directory=in_directory,
        change_records=change_records,
        policies=_written(policies, links, domain),
    )
    session.add(point)
    session.flush()
    return point


def points(session: Session, domain_id: int) -> list[PointRow]:
    """All of them, the latest first."""
    return list(
        session.scalars(
            select(PointRow).where(PointRow.domain_id == domain_id).order_by(PointRow.id.desc())
        )
    )


def find(session: Session, domain_id: int, point: int) -> PointRow:
    """One point. Raises NotFoundError if the domain has no such point."""
    row = session.get(PointRow, point)
    if row is None or row.domain_id != domain_id:
        raise NotFoundError("There is no such point in this domain's history.")
    return row


def pending(session: Session, domain_id: int) -> list[PointRow]:
    """Return the publications that the directory does not hold yet, the first ones first."""
    asked = select(PointRow).where(
        PointRow.domain_id == domain_id,
        PointRow.kind == "published",
        PointRow.in_directory.is_(False),
    )
    return list(session.scalars(asked.order_by(PointRow.id)))


def pending_count(session: Session, domain_id: int) -> int:
    """Return how many publications the directory does not hold yet."""
    asked = select(func.count()).where(
        PointRow.domain_id == domain_id,
        PointRow.kind == "published",
        PointRow.in_directory.is_(False),
    )
    return session.scalar(asked) or 0


def with_change_records(session: Session, domain_id: int) -> set[int]:
    """Return the numbers of the points that have change records."""
    asked = select(PointRow.id).where(
        PointRow.domain_id == domain_id, PointRow.change_records.is_not(None)
    )
    return set(session.scalars(asked))


def change_records(session: Session, point: PointRow) -> str:
    """Return a publication's change records. Raises `NotFoundError` where there are none."""
    asked = select(PointRow.change_records).where(PointRow.id == point.id)
    found = session.scalar(asked)
    if found is None:
        raise NotFoundError(
            "This entry has no change records: Hornfels wrote the changes into the directory, or "
            "no directory holds such changes."
        )
    return found


def of_task(session: Session, domain_id: int, task: str) -> PointRow | None:
    """Return the point of an automatic task, if the task has come that far."""
    asked = select(PointRow).where(PointRow.domain_id == domain_id, PointRow.task == task)
    return session.scalars(asked).one_or_none()


def _written(
    policies: tuple[Policy, ...], links: tuple[Link, ...], domain: Domain
) -> dict[str, Any]:
    held = [
        {
            **asdict(replace(p, addition=None)),
            "guid": str(p.guid),
            "links": [],
            "addition": addition_written(p.addition),
        }
        for p in policies
    ]
    for link in links:
        held[link.policy]["links"].append({"kind": link.kind, "dn": link.dn})
    return {
        "domain": asdict(domain.settings),
        "policies": held,
        "gpo_links": [asdict(link) for link in domain.gpo_links],
        "templates": {gpo: dict(template) for gpo, template in domain.templates.items()},
        "addition": addition_written(domain.addition),
        "term_lists": {name: asdict(terms) for name, terms in domain.term_lists.items()},
    }


def may_be_named(point: PointRow, rights: Collection[Right]) -> bool:
    """Return whether somebody with these `rights` may see accounts and reason of a point."""
    return not point.confidential or "exposed" in rights


def operations_of(point: PointRow, successors: Mapping[UUID, UUID]) -> Operations:
    """What was published, about policies by the GUIDs they have now."""
    return readdressed(read(point.operations, f"“{point.title}” in the history"), successors)


def estate_at(point: PointRow, estate: Estate, successors: Mapping[UUID, UUID]) -> Estate:
    """The policies as they stood at a point, by the GUIDs they have now, over the accounts of
    `estate`.

    Links carry no rows: it is for comparing only.
    """
    policies, links = [], []
    for index, kept in enumerate(point.policies["policies"]):
        guid = UUID(kept["guid"])
        guid = successors.get(guid, guid)
        policies.append(
            Policy(
                guid,
                kept["dn"],
                kept["name"],
                kept["precedence"],
                Settings(**kept["settings"]),
                kept["guarded"],
                addition_read(kept.get("addition")),
            )
        )
        links += [Link(index, ln["kind"], -1, ln["dn"]) for ln in kept["links"]]
    stood = point.policies
    domain = replace(
        estate.domain,
        settings=Settings(**stood["domain"]),
        gpo_links=tuple(GpoLink(**link) for link in stood["gpo_links"]),
        templates=stood["templates"],
        # Points from before there were any do not say.
        addition=addition_read(stood.get("addition")),
        term_lists={n: TermList(**held) for n, held in stood.get("term_lists", {}).items()},
    )
    return replace(estate, domain=domain, policies=tuple(policies), links=tuple(links))
