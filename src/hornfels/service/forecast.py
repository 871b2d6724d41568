"""Policies here, as live, as baselines want them and of nobody yet: what forecasts compare."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

from hornfels.core.baselines.closing import closing
from hornfels.core.domain.account_state import settings_of
from hornfels.core.domain.wording import ref_of
from hornfels.core.drafts.edits import fingerprint
from hornfels.core.policy.model import Settings
from hornfels.core.policy.starting_points import STARTING_POINTS
from hornfels.core.resolution.engine import DOMAIN_POLICY
from hornfels.service import baselines
from hornfels.service.naming import policy_mark, policy_name, policy_number, policy_ref
from hornfels.service.snapshots import Snapshot
from hornfels.settings import Settings as Where


@dataclass(frozen=True, slots=True)
class Standing:
    """Settings to be shown: of a policy here, of one as it is live where the draft has another one,
    of a starting point, or of a policy as a baseline wants it.
    """

    kind: Literal["policy", "live", "start", "baseline"]
    key: str
    name: str
    mark: int | None
    settings: Settings
    version: int | None = None
    """The state of a policy here, for whoever saves a change of it."""


def standings(current: Snapshot) -> Iterator[Standing]:
    """All of them, the policies in the order in which they are evaluated."""
    live = current.live
    for policy in (*current.resolution.order, DOMAIN_POLICY):
        settings = settings_of(current.estate, policy)
        key, name = policy_ref(current, policy), policy_name(current, policy)
        mark = policy_mark(current, policy)
        yield Standing("policy", key, name, mark, settings, _version(current, policy))
        before = policy_number(live, key)
        if before is not None and (was := settings_of(live.estate, before)) != settings:
            yield Standing("live", key, policy_name(live, before), mark, was)
    for point in STARTING_POINTS:
        yield Standing("start", point.key, point.label, None, point.settings)


def by_baselines(current: Snapshot, policy: int, where: Where) -> Iterator[Standing]:
    """A policy (−1: the domain policy) as each baseline wants it that asks anything of those under
    it, the same as here where nothing is to be changed.
    """
    settings, mark = settings_of(current.estate, policy), policy_mark(current, policy)
    for one in baselines.every(where):
        if one.baseline is None:
            continue
        asked = list(baselines.asked_of(current, one.baseline, policy))
        if not asked:
            continue
        wanted = settings
        for recommendation in (one.recommendation for one in asked if one.not_met):
            wanted = wanted.changed(closing(recommendation, wanted))
        yield Standing("baseline", one.baseline.name, one.baseline.title, mark, wanted)


def _version(current: Snapshot, policy: int) -> int | None:
    if policy == DOMAIN_POLICY and current.estate.domain.templates:
        return None  # what its sources say is edited there
    return fingerprint(current.estate, ref_of(current.estate, policy))
