"""Two baselines side by side: what each asks of one thing, and which asks for more."""

from __future__ import annotations

from collections.abc import Mapping
from itertools import product
from math import inf, nextafter, prod
from typing import Literal, NamedTuple, get_args

from hornfels.core.baselines.baseline import Baseline, Recommendation, Who
from hornfels.core.baselines.conditions import (
    AnyOf,
    Condition,
    Feature,
    Has,
    Limit,
    leaves,
)
from hornfels.core.policy.catalogue import BY_KEY, SettingKey

Topic = SettingKey | Feature
"""What recommendations are about: a setting, or something beside them."""
Relation = Literal[
    "the same",
    "the first asks more",
    "the second asks more",
    "other things",
    "for others",
    "only the first",
    "only the second",
]

MOST_CASES = 20_000
"""Cases that are gone through to tell which of two conditions asks for more."""


class Pair(NamedTuple):
    """What two baselines recommend about one thing."""

    topic: Topic
    first: tuple[Recommendation, ...]
    second: tuple[Recommendation, ...]
    relation: Relation


def beside(first: Baseline, second: Baseline) -> list[Pair]:
    """Every thing that either has a recommendation about, in the order of the catalogue."""
    pairs = []
    for topic in (*BY_KEY, *get_args(Feature)):
        one, other = (
            tuple(r for r in baseline.recommendations if topic in topics(r.wants))
            for baseline in (first, second)
        )
        if one or other:
            pairs.append(Pair(topic, one, other, _relation(topic, one, other)))
    return pairs


def _relation(
    topic: Topic, first: tuple[Recommendation, ...], second: tuple[Recommendation, ...]
) -> Relation:
    if not second:
        return "only the first"
    if not first:
        return "only the second"
    if not any(_overlap(a.who, b.who) for a in first for b in second):
        return "for others"
    one, other = _alone(topic, first), _alone(topic, second)
    if one is None or other is None or one.when != other.when:
        return "other things"
    more, less = implies(one.wants, other.wants), implies(other.wants, one.wants)
    if more and less:
        return "the same"
    return "the first asks more" if more else "the second asks more" if less else "other things"


def _overlap(one: Who, other: Who) -> bool:
    """Whether an account can be among both (see `members`)."""
    return one == other or not {one, other} <= {"people", "service", "kiosk"}


def _alone(topic: Topic, found: tuple[Recommendation, ...]) -> Recommendation | None:
    """The one recommendation about a thing and nothing else; if there is none, the only one that is
    about it among others.
    """
    alone = [one for one in found if topics(one.wants) == {topic}] or list(found)
    return alone[0] if len(alone) == 1 else None


def topics(condition: Condition) -> frozenset[Topic]:
    """What a condition is about."""
    if isinstance(condition, Limit):
        return frozenset((condition.key,))
    if isinstance(condition, Has):
        return frozenset((condition.feature,))
    return frozenset[Topic]().union(*map(topics, condition.parts))


def implies(first: Condition, second: Condition) -> bool:
    """Whether whoever meets the first meets the second, whatever the settings. False also where
    there are too many cases to tell.
    """
    cases = _cases(first, second)
    if prod(map(len, cases.values())) > MOST_CASES:
        return False
    return all(
        _holds(second, case) or not _holds(first, case)
        for case in (dict(zip(cases, chosen, strict=True)) for chosen in product(*cases.values()))
    )


def _cases(*conditions: Condition) -> dict[Topic, list[float]]:
    """For each thing the measures between which nothing changes: each bound, and what lies right
    below and above it.
    """
    found: dict[Topic, set[float]] = {}
    for limit in (one for condition in conditions for one in leaves(condition)):
        if isinstance(limit, Has):
            found[limit.feature] = {0.0, 1.0}
            continue
        seen = found.setdefault(limit.key, {0.0, 1.0} if _is_switch(limit.key) else {0.0, inf})
        if not _is_switch(limit.key):
            for bound in (limit.least, limit.most):
                seen |= {bound, nextafter(bound, -inf), nextafter(bound, inf)}
    return {topic: sorted(n for n in seen if n >= 0) for topic, seen in found.items()}


def _is_switch(key: SettingKey) -> bool:
    return BY_KEY[key].kind == "switch"


def _holds(condition: Condition, case: Mapping[Topic, float]) -> bool:
    if isinstance(condition, Limit):
        return condition.least <= case[condition.key] <= condition.most
    if isinstance(condition, Has):
        return case[condition.feature] == 1
    parts = (_holds(part, case) for part in condition.parts)
    return any(parts) if isinstance(condition, AnyOf) else all(parts)
