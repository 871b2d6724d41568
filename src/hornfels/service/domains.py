"""Domains as a whole: what publishing wants, which linked groups count, taking one out."""

from __future__ import annotations

import logging

from sqlalchemy import select
from sqlalchemy.orm import Session

from hornfels.core.domain.estate import LinkedGroups
from hornfels.refusals import ChangedMeanwhileError, NotFoundError
from hornfels.service.editing import domain_for_writing
from hornfels.service.snapshots import Snapshot, Snapshots
from hornfels.store.estates import remove_domain
from hornfels.store.models import DomainRow

_log = logging.getLogger(__name__)


def every(database: Session, snapshots: Snapshots) -> list[Snapshot]:
    """All domains, by name."""
    names = database.scalars(select(DomainRow.dns_name).order_by(DomainRow.dns_name)).all()
    database.rollback()  # a domain that is read anew takes a connection of its own
    return [found for name in names if (found := snapshots.of(name))]


def choose(
    database: Session,
    snapshots: Snapshots,
    current: Snapshot,
    person: str,
    version: int,
    *,
    linked_groups: LinkedGroups | None = None,
    approval_required: bool | None = None,
    trials_required: bool | None = None,
) -> Snapshot:
    """Choose what is given, if the domain is the version that was seen."""
    row = domain_for_writing(database, current)
    if row.version != version:
        raise ChangedMeanwhileError(
            "The domain changed meanwhile. Look at it again before choosing."
        )
    if linked_groups is not None:
        row.linked_groups = linked_groups
    if approval_required is not None:
        row.approval_required = approval_required
    if trials_required is not None:
        row.trials_required = trials_required
    row.version += 1
    database.commit()
    _log.info("%s changed what counts in %s.", person, row.dns_name)
    return snapshots.of(current.estate.domain.dns_name) or current


def remove(database: Session, domain: str, person: str, version: int) -> None:
    """Take a domain out of Hornfels, with its drafts, history, trials and accepted findings. The
    directory keeps all it has.
    """
    row = database.scalars(
        select(DomainRow).where(DomainRow.dns_name == domain).with_for_update()
    ).one_or_none()
    if row is None:
        raise NotFoundError(f"There is no domain '{domain[:200]}' here.")
    if row.version != version:
        raise ChangedMeanwhileError(
            "The domain changed meanwhile. Look at it again before taking it out."
        )
    remove_domain(database, row)
    database.commit()
    _log.info("%s took %s out.", person, domain)
