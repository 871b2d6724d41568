"""Which of two policies is stronger, setting by setting."""

from __future__ import annotations

from typing import Literal

from hornfels.core.policy.catalogue import CATALOGUE, SettingKey
from hornfels.core.policy.model import Settings, expires, until_unlocked
from hornfels.core.values.time import Span

Comparison = Literal["stronger", "weaker"]


def _grade(key: SettingKey, s: Settings) -> float:
    """A number that is larger the harder the setting makes it for an attacker; a lockout that never
    locks grades as none.
    """
    endless = float("inf")
    locks = s.lockout_threshold > 0
    grades: dict[SettingKey, float | Span] = {
        "min_length": s.min_length,
        "complexity": s.complexity,
        "history_length": s.history_length,
        "reversible_encryption": -int(s.reversible_encryption),
        "min_age": s.min_age,
        "max_age": -(s.max_age or 0) if expires(s.max_age) else -endless,
        "lockout_threshold": -s.lockout_threshold if locks else -endless,
        "lockout_window": s.lockout_window if locks else 0,
        "lockout_duration": (endless if until_unlocked(s.lockout_duration) else s.lockout_duration)
        if locks
        else 0,
    }
    return float(grades[key] or 0)


def compare(before: Settings, after: Settings) -> dict[SettingKey, Comparison]:
    """The settings that differ in strength, by key: whether `after` is stronger or weaker than
    `before`.
    """
    found: dict[SettingKey, Comparison] = {}
    for setting in CATALOGUE:
        old, new = _grade(setting.key, before), _grade(setting.key, after)
        if new != old:
            found[setting.key] = "stronger" if new > old else "weaker"
    return found
