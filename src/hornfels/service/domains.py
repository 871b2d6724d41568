"""Domains as a whole: what publishing wants, which linked groups count, taking one out."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

import numpy as np
from sqlalchemy import select
from sqlalchemy.orm import Session

from hornfels.core.domain.estate import Estate, LinkedGroups
from hornfels.core.resolution.engine import resolve
from hornfels.refusals import ChangedMeanwhileError, NotFoundError
from hornfels.service import acts
from hornfels.service.editing import domain_for_writing
from hornfels.service.snapshots import Snapshot, Snapshots
from hornfels.store.models import DomainRow
from hornfels.store.trail import note


def every(database: Session, snapshots: Snapshots) -> list[Snapshot]:
    """All domains, by name."""
    found = names(database)
    database.rollback()  # a domain that is read anew takes a connection of its own
    return [one for name in found if (one := snapshots.of(name))]


def names(database: Session) -> list[str]:
    """The names of all domains, in order."""
    return list(database.scalars(select(DomainRow.dns_name).order_by(DomainRow.dns_name)))


def choose(
    database: Session,
    snapshots: Snapshots,
    current: Snapshot,
    person: str,
    version: int,
    *,
    linked_groups: LinkedGroups | None = None,
    publishing: Mapping[str, bool],
    reason: str,
) -> Snapshot:
    """Choose which linked groups count, and what `publishing` wants (``approval_required``,
    ``trials_required``), if the domain is the version that was seen. Both are acts with a reason,
    which may have to wait for a second person.
    """
    row = domain_for_writing(database, current)
    if row.version != version:
        raise ChangedMeanwhileError(
            "The domain changed meanwhile. Look at it again before choosing."
        )
    if linked_groups is not None and linked_groups != row.linked_groups:
        acts.ask(
            database,
            person,
            "linked groups",
            row.dns_name,
            reason,
            linked_groups=linked_groups,
            said=f"Linked groups that count: {_GROUPS[linked_groups]}",
            effect=_moved(current.live.estate, linked_groups),
        )
    wanted = {key: value for key, value in publishing.items() if getattr(row, key) != value}
    if wanted:
        acts.ask(database, person, "settings", row.dns_name, reason, **wanted)
    database.commit()
    return snapshots.of(current.estate.domain.dns_name) or current


_GROUPS: dict[LinkedGroups, str] = {
    "global": "global security groups",
    "any": "every security group",
}


def _moved(estate: Estate, linked_groups: LinkedGroups) -> str:
    """Return the count of accounts that change policy under another choice of linked groups."""
    other = resolve(replace(estate, linked_groups=linked_groups)).winner_of_account
    count = int(np.count_nonzero(resolve(estate).winner_of_account != other))
    return f"{count:,} account{' changes' if count == 1 else 's change'} policy"


def apply_setting(
    session: Session, row: DomainRow, arguments: Mapping[str, Any], _person: str
) -> acts.Done:
    """Let other linked groups count in a domain, which is held for writing."""
    note(
        session,
        "linked groups chosen",
        domain=row.dns_name,
        before=row.linked_groups,
        after=arguments["linked_groups"],
    )
    row.linked_groups = arguments["linked_groups"]
    row.version += 1
    return acts.Done()


def remove(database: Session, domain: str, person: str, version: int, reason: str) -> bool:
    """Take a domain out of Hornfels, with its drafts, history, trials and accepted findings. The
    directory keeps all it has. False if it waits for a second person.
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
    return isinstance(acts.ask(database, person, "remove", domain, reason), acts.Done)
