"""What closes the gap between a policy and a recommendation."""

from __future__ import annotations

from collections.abc import Iterator

from hornfels.core.baselines.baseline import Recommendation
from hornfels.core.baselines.conditions import All, AnyOf, Condition, Limit
from hornfels.core.policy.catalogue import SettingKey, Value
from hornfels.core.policy.model import Settings


def closing(recommendation: Recommendation, settings: Settings) -> dict[SettingKey, Value]:
    """The settings to change so that a policy meets a recommendation, as far as settings can: those
    that are as wanted already stay, however much more than wanted they are. Empty where nothing is
    to be done or no setting does it.
    """
    if recommendation.when and recommendation.when.holds(settings) is False:
        return {}
    if recommendation.wants.holds(settings) is not False:
        return {}
    limits = list(_limits(recommendation.wants))
    return {
        key: value
        for key, value in recommendation.sets.items()
        if any(limit.key == key and not limit.holds(settings) for limit in limits)
    }


def _limits(condition: Condition) -> Iterator[Limit]:
    match condition:
        case Limit():
            yield condition
        case All(parts=parts) | AnyOf(parts=parts):
            for part in parts:
                yield from _limits(part)
