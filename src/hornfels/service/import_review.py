"""The review between an import or a sync and the live snapshot. An import of a
connected domain is refused. A copy without any policy is never stored. Losses wait for a person.
"""

from __future__ import annotations

from dataclasses import replace
from datetime import UTC, datetime, timedelta
from typing import NamedTuple

from sqlalchemy import select
from sqlalchemy.orm import Session

from hornfels.core.domain.estate import Estate
from hornfels.core.drafts.import_review import Loss, losses, shows_no_policies
from hornfels.refusals import ConflictError, NotFoundError
from hornfels.store import lost_policies
from hornfels.store.estates import hold_imports, load_estate
from hornfels.store.models import ConnectionRow, DomainRow
from hornfels.store.publications import unfinished

DUMPS_FOR = timedelta(hours=1)
"""Time for which dumps of a connected domain are taken after an administrator allowed dumps."""
MOST_SHOWN = 50
"""Losses that are shown one by one."""


def refuse_dump(session: Session, dns_name: str) -> None:
    """Raise `ConflictError` for a dump of a domain that Hornfels syncs with the domain's directory,
    or into which a draft is being written.
    """
    connection = session.get(ConnectionRow, dns_name)
    until = connection.dumps_until if connection else None
    if connection and (until is None or until <= datetime.now(UTC)):
        raise ConflictError(
            f"The directory of {dns_name} is connected, so dumps of the domain are refused. Sync "
            "the domain, or let an administrator turn dumps on for an hour (Sources)."
        )
    domain = session.scalars(select(DomainRow).where(DomainRow.dns_name == dns_name)).one_or_none()
    if domain and unfinished(session, domain.id):
        raise ConflictError(
            f"A draft is being written into the directory of {dns_name} (Changes). Finish the "
            "publication or roll the publication back, then import the dump."
        )


def allow_dumps(session: Session, dns_name: str, now: datetime) -> None:
    """Let dumps of a connected domain be imported for an hour. Raises `NotFoundError`."""
    row = session.get(ConnectionRow, dns_name, with_for_update=True)
    if row is None:
        raise NotFoundError(f"No directory is connected for {dns_name[:200]}.")
    row.dumps_until = now + DUMPS_FOR


class DomainState(NamedTuple):
    """A state of a domain's snapshot; all three are 0 where there is no such domain."""

    domain: int
    estate: int
    version: int


def state_of(session: Session, dns_name: str, *, for_writing: bool = False) -> DomainState:
    """Return the state of the domain, which stays until the transaction ends if `for_writing`."""
    asked = select(DomainRow).where(DomainRow.dns_name == dns_name)
    if for_writing:
        hold_imports(session)
        asked = asked.with_for_update().execution_options(populate_existing=True)
    row = session.scalars(asked).one_or_none()
    return DomainState(row.id, row.estate_id, row.version) if row else DomainState(0, 0, 0)


def review(session: Session, after: Estate, source: str) -> tuple[Loss, ...]:
    """Return what the domain would lose by becoming `after`, read from `source`; nothing for a
    domain that is new. Raises `ConflictError` where all policies are gone at once.
    """
    name = after.domain.dns_name
    domain = session.scalars(select(DomainRow).where(DomainRow.dns_name == name)).one_or_none()
    if domain is None:
        return ()
    before = load_estate(session, domain)
    if shows_no_policies(before, after):
        count = len(before.policies)
        raise ConflictError(
            f"{source} shows no fine-grained policies of {name}, and Hornfels knows {count}. "
            "Nothing was stored: the account that reads has probably lost the right to see the "
            "password settings container. Give the account this right, then try again. If the "
            "policies were deleted on purpose, remove them in a draft and publish the draft."
        )
    after = replace(after, linked_groups=before.linked_groups)
    return losses(before, after, lost_policies.of_domain(session, domain.id))


def unconfirmed(found: tuple[Loss, ...], confirmed: list[list[object]]) -> list[Loss]:
    """Return the losses that nobody has confirmed; `confirmed` as `as_json` wrote them."""
    known = [Loss(*one) for one in confirmed]  # type: ignore[arg-type]
    return [loss for loss in found if not loss.is_covered_by(known)]


def as_json(found: tuple[Loss, ...]) -> list[list[object]]:
    return [list(loss) for loss in found]


def in_words(found: list[list[object]]) -> list[str]:
    """Return losses as sentences for people, the first ones and how many more there are."""
    shown = [f"{subject}: {text}" for _, subject, text, _ in found[:MOST_SHOWN]]
    rest = len(found) - len(shown)
    return [*shown, f"{rest:,} more"] if rest else shown
