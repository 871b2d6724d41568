"""Policies as frozen values, and the rules between their settings (domain rules §2)."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any, ClassVar, Literal, cast
from uuid import UUID

from hornfels.core.policy.addition import Addition
from hornfels.core.policy.catalogue import (
    BY_KEY,
    CATALOGUE,
    HIGHEST_PRECEDENCE_NUMBER,
    PlainValue,
    SettingKey,
    Value,
)
from hornfels.core.policy.plain import PlainSettings, plain, values_of
from hornfels.core.values.text import hidden
from hornfels.core.values.time import NEVER, Span, describe_span


@dataclass(frozen=True)
class Settings:
    """The nine settings of one policy. Spans are ticks of 100 ns, ``None`` for never / until
    unlocked.

    Values are held as read, however odd: a directory may hold what the specification forbids.
    `problems` says what is wrong.
    """

    min_length: int
    complexity: bool
    history_length: int
    reversible_encryption: bool
    min_age: int
    max_age: Span
    lockout_threshold: int
    lockout_window: int
    lockout_duration: Span

    # For operations, which hold settings and are validated when they come out of the database.
    __pydantic_config__: ClassVar[dict[str, str]] = {"extra": "forbid"}

    def plain(self) -> PlainSettings:
        """The settings with spans in seconds."""
        return cast(PlainSettings, {key: plain(key, v) for key, v in self.values().items()})

    def values(self) -> dict[SettingKey, Value]:
        """The settings by key."""
        return {key: getattr(self, key) for key in BY_KEY}

    def changed(self, values: Mapping[SettingKey, Value]) -> Settings:
        """These settings with other values for some."""
        return replace(self, **values)  # type: ignore[arg-type]

    def edited(self, given: Mapping[SettingKey, PlainValue]) -> Settings:
        """These settings with some of them as given, spans in seconds. Raises `FieldsError` for a
        value that a setting cannot have.
        """
        return self.changed(values_of(given))


PolicyRef = UUID | Literal["domain"]
"""A policy by its GUID, or the domain policy."""

DEFAULTS = Settings(**{s.key: s.default for s in CATALOGUE})  # type: ignore[arg-type]
"""What a new domain starts with."""


@dataclass(frozen=True)
class Policy:
    """A fine-grained policy (password settings object) without its links."""

    guid: UUID
    dn: str
    name: str
    precedence: int
    settings: Settings
    guarded: bool = True
    """Whether it is guarded against deletion."""
    addition: Addition | None = None
    """What it asks beyond the directory's own rules, which no directory holds."""

    @property
    def rank(self) -> tuple[int, bytes]:
        """Sort key: the smallest wins. At a tie the stored bytes of the GUID decide, first byte
        first (domain rules §3).
        """
        return (self.precedence, self.guid.bytes_le)


@dataclass(frozen=True)
class Problem:
    """Something wrong with a policy: an *error* the specification forbids, a *warning* it allows
    but nobody wants.
    """

    field: str
    """The key of the setting to mend."""
    severity: Literal["error", "warning"]
    message: str


LONGEST_NAME = 64
"""Characters of a policy's name: the range of its ``cn`` ([MS-ADA1] 2.110)."""


def name_problem(name: str) -> str:
    """What is wrong with a name for a policy, and what to do; "" if nothing is."""
    if not name.strip():
        return "Give the policy a name."
    if len(name) > LONGEST_NAME:
        return (
            f"A name has at most {LONGEST_NAME} characters; this one has {len(name)}. Shorten it."
        )
    if name != name.strip():
        return "A name cannot begin or end with a space. Take the space away."
    if any(map(hidden, name)):
        return (
            "A name cannot hold line breaks or other control characters, nor any that are not "
            "seen. Take them out."
        )
    return ""


def expires(max_age: Span) -> bool:
    """Whether passwords expire at all: never and 0 both mean they do not (domain rules §3)."""
    return max_age is not NEVER and max_age != 0


def until_unlocked(duration: Span) -> bool:
    """Whether a lock lasts until an operator lifts it: 0 and *until unlocked* both do (domain rules
    §6).
    """
    return duration is NEVER or duration == 0


def _range_problem(key: SettingKey, value: Any) -> Problem | None:
    setting = BY_KEY[key]
    if setting.kind == "switch" or value is NEVER or setting.low <= value <= setting.high:
        return None
    if setting.kind == "span":
        wrong = (
            "cannot be negative"
            if value < 0
            else "is longer than a directory can hold; choose a shorter one"
        )
        return Problem(field=key, severity="error", message=f"{setting.label} {wrong}.")
    return Problem(
        field=key,
        severity="error",
        message=(
            f"{setting.label} goes from {setting.low} to {setting.high:,} {setting.unit}; "
            f"{value:,} is outside."
        ),
    )


def fresh_errors(
    settings: Settings, precedence: int | None, before: Sequence[Problem]
) -> list[Problem]:
    """The errors that an edit would bring in. What a directory held `before` may stay as it is."""
    return [
        one
        for one in problems(settings, precedence)
        if one.severity == "error" and one not in before
    ]


def problems(settings: Settings, precedence: int | None = None) -> list[Problem]:
    """What is wrong with these settings, errors first (domain rules §2 and §8). `precedence` is
    None for the domain policy.
    """
    found = [p for s in CATALOGUE if (p := _range_problem(s.key, getattr(settings, s.key)))]

    def error(field: str, message: str) -> None:
        found.append(Problem(field=field, severity="error", message=message))

    def warning(field: str, message: str) -> None:
        found.append(Problem(field=field, severity="warning", message=message))

    if precedence is not None and not 1 <= precedence <= HIGHEST_PRECEDENCE_NUMBER:
        error(
            "precedence", f"Precedence is a whole number from 1 to {HIGHEST_PRECEDENCE_NUMBER:,}."
        )
    # On the domain object a maximum age of 0 is a common way to say never.
    never_by_zero = settings.max_age == 0 and precedence is None
    if settings.max_age is not NEVER and settings.max_age <= settings.min_age and not never_by_zero:
        shortest = describe_span(settings.min_age)
        error(
            "max_age",
            (
                f"Maximum age must be longer than the minimum age of {shortest}. Lengthen it, or "
                "choose never."
            ),
        )
    if not until_unlocked(settings.lockout_duration) and settings.lockout_window > (
        settings.lockout_duration or 0
    ):
        error(
            "lockout_window",
            f"The observation window ({describe_span(settings.lockout_window)}) cannot "
            "exceed the lockout duration "
            f"({describe_span(settings.lockout_duration)}).",
        )
    if settings.lockout_threshold > 0 and settings.lockout_window == 0:
        error("lockout_window", "A lockout threshold needs an observation window longer than 0.")
    if settings.history_length > 0 and settings.min_age == 0:
        warning(
            "min_age",
            (
                "With a minimum age of 0 the history is worthless: a favourite password is back "
                "within minutes."
            ),
        )
    if 0 < settings.lockout_threshold <= 2:
        warning("lockout_threshold", "One or two typing mistakes lock the account.")
    if settings.reversible_encryption:
        warning("reversible_encryption", "Passwords are stored so that they can be read back.")
    return sorted(found, key=lambda p: p.severity)
