"""Settings that hang together (domain rules §2): what to change along with one that somebody
changes, and why.
"""

from __future__ import annotations

from dataclasses import dataclass

from hornfels.core.policy.catalogue import SettingKey
from hornfels.core.policy.model import DEFAULTS, Settings, expires, until_unlocked
from hornfels.core.values.time import DAY


@dataclass(frozen=True, slots=True)
class Adjustment:
    """Another setting's new value, and the reason."""

    key: SettingKey
    value: int
    reason: str


def adjustments(settings: Settings, changed: SettingKey) -> list[Adjustment]:
    """What to change along with the setting just `changed` in `settings`; nothing where all fits
    already.
    """
    if changed == "lockout_threshold":
        return _for_threshold(settings)
    window, duration = settings.lockout_window, settings.lockout_duration
    if not until_unlocked(duration) and window > (duration or 0):
        if changed == "lockout_window":
            return [
                Adjustment(
                    "lockout_duration",
                    window,
                    "The observation window cannot exceed the lockout duration.",
                )
            ]
        if changed == "lockout_duration":
            return [
                Adjustment(
                    "lockout_window",
                    duration or 0,
                    "The observation window cannot exceed the lockout duration.",
                )
            ]
    if expires(settings.max_age) and settings.min_age >= (settings.max_age or 0):
        if changed == "min_age":
            return [
                Adjustment(
                    "max_age",
                    settings.min_age + DAY,
                    "The maximum age must be longer than the minimum age.",
                )
            ]
        if changed == "max_age":
            shorter = max(0, (settings.max_age or 0) - DAY)
            return [
                Adjustment(
                    "min_age", shorter, "The minimum age must be shorter than the maximum age."
                )
            ]
    return []


def _for_threshold(settings: Settings) -> list[Adjustment]:
    if settings.lockout_threshold == 0:
        return []
    found = []
    window, duration = settings.lockout_window, settings.lockout_duration
    if window == 0:
        window = DEFAULTS.lockout_window
        found.append(
            Adjustment(
                "lockout_window",
                window,
                "A threshold needs a time over which bad tries are counted.",
            )
        )
    if not until_unlocked(duration) and (duration or 0) < window:
        found.append(
            Adjustment(
                "lockout_duration",
                window,
                "A threshold needs a lock at least as long as the observation window.",
            )
        )
    return found
