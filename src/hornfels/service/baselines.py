"""Baselines: what comes of them where one looks, and gaps closed in the draft that is shown."""

from __future__ import annotations

from collections.abc import Iterator
from typing import NamedTuple

from hornfels.core.baselines.assessing import Assessment, assess
from hornfels.core.baselines.baseline import Baseline
from hornfels.core.baselines.closing import closing
from hornfels.core.domain.account_state import settings_of
from hornfels.core.domain.estate import Estate
from hornfels.core.drafts.edits import edits
from hornfels.core.drafts.operations import Operation
from hornfels.core.policy.catalogue import SettingKey, Value
from hornfels.core.policy.model import PolicyRef, problems
from hornfels.formats.baselines.reading import SHIPPED, shipped
from hornfels.refusals import ConflictError, FieldsError, NotFoundError
from hornfels.service.editing import Editing
from hornfels.service.snapshots import Snapshot


def every() -> list[Baseline]:
    """The baselines that there are."""
    return [shipped(name) for name in SHIPPED]


def find(name: str) -> Baseline:
    """Raises `NotFoundError`."""
    if name not in SHIPPED:
        raise NotFoundError(f"There is no baseline '{name[:60]}'. Choose another one.")
    return shipped(name)


def assessed(current: Snapshot, baseline: Baseline) -> list[Assessment]:
    """What comes of a baseline, worked out once for each version of the domain."""
    held = current.assessments
    if baseline.name not in held:
        held[baseline.name] = assess(baseline, current.estate, current.resolution)
    return held[baseline.name]


class Gap(NamedTuple):
    """A policy that leaves a recommendation unmet for some accounts, and what closes it. The policy
    goes by its number, −1 for the domain policy.
    """

    policy: int
    accounts: int
    changes: dict[SettingKey, Value]


def gaps(current: Snapshot, found: Assessment) -> Iterator[Gap]:
    """The policies behind an unmet recommendation. What accounts' own flags leave unmet has no
    changes.
    """
    unmet = found.unmet
    winners = current.resolution.winner_of_account
    for policy in found.policies:
        settings = settings_of(current.estate, policy)
        count = int((unmet & (winners == policy)).sum())
        yield Gap(policy, count, closing(found.recommendation, settings))


def close(edit: Editing, name: str, key: str, policy: PolicyRef) -> Snapshot:
    """Change a policy in the draft so that it meets a recommendation."""
    recommendation = next((r for r in find(name).recommendations if r.key == key), None)
    if recommendation is None:
        raise NotFoundError("This baseline has no such recommendation.")

    def closed(estate: Estate) -> Iterator[Operation]:
        number = -1
        if policy != "domain":
            number = next((n for n, p in enumerate(estate.policies) if p.guid == policy), -2)
        if number == -2:
            raise NotFoundError("This policy no longer exists. Reload to see what is there now.")
        before = settings_of(estate, number)
        changes = closing(recommendation, before)
        if not changes:
            raise ConflictError("Nothing to do: it is met already, or no setting closes the gap.")
        after = before.changed(changes)
        held = problems(before)
        fresh = [p for p in problems(after) if p.severity == "error" and p not in held]
        if fresh:
            raise FieldsError(*((p.field, p.message) for p in fresh))
        return edits(estate, policy, settings=after)

    return edit.change(closed)
