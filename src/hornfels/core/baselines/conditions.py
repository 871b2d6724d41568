"""What a recommendation asks of an account's settings. What cannot be seen here is neither true nor
false, and neither is what hangs on it (Kleene's logic of three values).
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

from hornfels.core.drafts.sentences import value_text
from hornfels.core.policy.catalogue import BY_KEY, SettingKey
from hornfels.core.policy.model import Settings, expires, until_unlocked

Answer = bool | None
"""None where it cannot be told."""

ENDLESS = math.inf
"""The measure of what has no end: no expiry, until unlocked, a threshold that never locks."""


def measure(key: SettingKey, settings: Settings) -> float:
    """A setting as a number that can be compared: spans in ticks, switches 0 and 1, `ENDLESS` for
    what has no end, however that is written.
    """
    value = getattr(settings, key)
    if key == "max_age" and not expires(value):
        return ENDLESS
    if key == "lockout_duration" and until_unlocked(value):
        return ENDLESS
    if key == "lockout_threshold" and value == 0:
        return ENDLESS
    return float(value)


def _bare(key: SettingKey, number: float) -> str:
    """A measure without the unit that its setting counts in."""
    is_count = BY_KEY[key].kind == "count" and abs(number) != ENDLESS
    return f"{int(number):,}" if is_count else measured_text(key, max(number, 0))


def measured_text(key: SettingKey, number: float) -> str:
    """A measure in words."""
    setting = BY_KEY[key]
    if number == ENDLESS:
        return setting.endless or setting.zero or "no end"
    return value_text(setting, bool(number) if setting.kind == "switch" else int(number))


@dataclass(frozen=True, slots=True)
class Limit:
    """One setting between two measures, both included."""

    key: SettingKey
    least: float = -ENDLESS
    most: float = ENDLESS

    def holds(self, settings: Settings) -> Answer:
        """Whether it is so."""
        return self.least <= measure(self.key, settings) <= self.most

    def text(self) -> str:
        """It in words."""
        label = BY_KEY[self.key].label.lower()
        if self.least == self.most:
            return f"{label} {measured_text(self.key, self.least)}"
        bounds = [
            f"{word}{measured_text(self.key, bound)}"
            for word, bound, open_end in (
                ("at least ", self.least, -ENDLESS),
                ("at most ", self.most, ENDLESS),
            )
            if bound != open_end
        ]
        return f"{label} {' and '.join(bounds)}"

    def short(self) -> str:
        """The bounds as short as can be: “≥ 15”, “3–10”, “off”."""
        least, most = (_bare(self.key, bound) for bound in (self.least, self.most))
        if self.least == self.most:
            return least
        if self.least == -ENDLESS:
            return f"≤ {most}"
        return f"≥ {least}" if self.most == ENDLESS else f"{least}–{most}"

    def settings(self) -> tuple[SettingKey, ...]:
        """The settings it looks at."""
        return (self.key,)


Feature = Literal["blocked list", "exposed passwords"]


@dataclass(frozen=True, slots=True)
class Has:
    """Something beside the directory's own settings, which cannot be seen here."""

    feature: Feature

    def holds(self, _settings: Settings) -> Answer:
        return None

    def text(self) -> str:
        words = {
            "blocked list": "a list of blocked words",
            "exposed passwords": "a check against exposed passwords",
        }
        return words[self.feature]

    def settings(self) -> tuple[SettingKey, ...]:
        return ()


@dataclass(frozen=True, slots=True)
class All:
    """All of them."""

    parts: tuple[Condition, ...]

    def holds(self, settings: Settings) -> Answer:
        answers = [part.holds(settings) for part in self.parts]
        return False if False in answers else None if None in answers else True

    def text(self) -> str:
        return " and ".join(part.text() for part in self.parts)

    def settings(self) -> tuple[SettingKey, ...]:
        return _settings(self.parts)


@dataclass(frozen=True, slots=True)
class AnyOf:
    """One of them at least."""

    parts: tuple[Condition, ...]

    def holds(self, settings: Settings) -> Answer:
        answers = [part.holds(settings) for part in self.parts]
        return True if True in answers else None if None in answers else False

    def text(self) -> str:
        return ", or ".join(part.text() for part in self.parts)

    def settings(self) -> tuple[SettingKey, ...]:
        return _settings(self.parts)


Condition = Limit | Has | All | AnyOf


def limits(condition: Condition) -> Iterator[tuple[SettingKey, str]]:
    """The bounds in a condition by setting, in short; where a setting has several, the first."""
    seen: set[SettingKey] = set()
    for one in leaves(condition):
        if isinstance(one, Limit) and one.key not in seen:
            seen.add(one.key)
            yield one.key, one.short()


def leaves(condition: Condition) -> Iterator[Limit | Has]:
    """What a condition is put together of."""
    if isinstance(condition, Limit | Has):
        yield condition
    else:
        for part in condition.parts:
            yield from leaves(part)


def _settings(parts: tuple[Condition, ...]) -> tuple[SettingKey, ...]:
    return tuple(dict.fromkeys(key for part in parts for key in part.settings()))
