"""What a policy costs the people under it, beside what it leaves a guesser (domain rules §10)."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

from hornfels.core.lockout.guessing import (
    YEAR,
    Assumptions,
    Figure,
    accidental_locks,
    life,
    number,
    share,
)
from hornfels.core.lockout.popularity import chance
from hornfels.core.lockout.tradeoff import Plane
from hornfels.core.policy.lockout import guesses_locking, guesses_within, limits
from hornfels.core.policy.model import Settings, expires, until_unlocked
from hornfels.core.values.time import DAY, MINUTE, describe_span

WORKING_DAYS = 220
"""Of a year."""
AGES = (30, 60, 90, 180, 365)
"""Maximum ages, in days, for which a policy's course is drawn."""
THRESHOLDS = (3, 5, 10, 20, 50)

Varied = Literal["age", "threshold"]


@dataclass(frozen=True, slots=True)
class Habits:
    """How people sign in, which nobody can read from a directory: how often they type the password
    on a working day, the seconds that a character takes, and the minutes that a change takes and a
    lock that somebody at the help desk opens.
    """

    sign_ins: float = 3.0
    seconds: float = 0.4
    change: float = 4.0
    call: float = 20.0


@dataclass(frozen=True, slots=True)
class Burden:
    """Of one person in a year: changes, characters typed and locks expected, and the minutes that
    each of these takes.
    """

    changes: float
    characters: float
    locks: float
    changing: float
    typing: float
    locked: float

    @property
    def minutes(self) -> float:
        """All of them together."""
        return self.changing + self.typing + self.locked


def burden(settings: Settings, habits: Habits, mistakes: float) -> Burden:
    """What a policy costs one person in a year, with passwords of its minimum length, where each
    try fails with the chance `mistakes` whatever came before.
    """
    sign_ins = habits.sign_ins * WORKING_DAYS
    changes = YEAR / (settings.max_age or YEAR) if expires(settings.max_age) else 0.0
    characters = settings.min_length * sign_ins / (1 - mistakes)
    locks = 0.0
    if limits(settings):
        locks = sign_ins * accidental_locks(settings.lockout_threshold, mistakes) / 1000
    return Burden(
        changes,
        characters,
        locks,
        changes * habits.change,
        characters * habits.seconds / 60,
        locks * _waited(settings, habits),
    )


def _waited(settings: Settings, habits: Habits) -> float:
    """Minutes that a lock takes: whoever is quicker, the clock or the help desk."""
    if until_unlocked(settings.lockout_duration):
        return habits.call
    return min(habits.call, (settings.lockout_duration or 0) / MINUTE)


@dataclass(frozen=True, slots=True)
class Stand:
    """Where settings stand: what they cost people, the tries of a guesser within the life of a
    password (None without a limit), and the chance to hit with them.
    """

    burden: Burden
    tries: int | None
    chance: float | None


def stand(settings: Settings, assumed: Assumptions, habits: Habits, plane: Plane) -> Stand:
    """Against a guesser who lets the account lock, or who stays under the lock."""
    guesses = guesses_locking if plane == "duration" else guesses_within
    tries = guesses(settings, life(settings))
    return Stand(
        burden(settings, habits, assumed.mistakes),
        tries,
        None if tries is None else float(chance(tries, assumed.size, assumed.skew)),
    )


def course(
    settings: Settings, varied: Varied, assumed: Assumptions, habits: Habits, plane: Plane
) -> Iterator[tuple[int, Stand]]:
    """Where a policy would stand with another maximum age (in days) or another threshold, all else
    as it is; nothing for a threshold where nothing locks.
    """
    if varied == "age":
        for days in AGES:
            changed = settings.changed({"max_age": days * DAY})
            yield days, stand(changed, assumed, habits, plane)
    elif limits(settings):
        for tries in THRESHOLDS:
            changed = settings.changed({"lockout_threshold": tries})
            if limits(changed):
                yield tries, stand(changed, assumed, habits, plane)


def burden_sheet(settings: Settings, habits: Habits, mistakes: float) -> list[Figure]:
    """Each number of the burden with its formula and what went into it."""
    told = burden(settings, habits, mistakes)
    ages = expires(settings.max_age)
    sign_ins = (
        ("n, sign-ins on a working day", f"{habits.sign_ins:g}"),
        ("working days in a year", str(WORKING_DAYS)),
        ("p, chance of a mistake at one try", share(mistakes)),
    )
    age = ("A, maximum age", describe_span(settings.max_age) if ages else "never")
    length = ("L, minimum length", f"{settings.min_length:,} characters")
    waits = limits(settings) and until_unlocked(settings.lockout_duration)
    lock = (
        ("T, lockout threshold", f"{settings.lockout_threshold:,}"),
        ("D, lockout duration", "until unlocked" if waits else _duration(settings)),
    )
    return [
        _figure(
            "changes",
            "Changes a year",
            told.changes,
            "changes",
            "" if ages else "The password never expires.",
            "365 d / A" if ages else "0",
            (age,),
        ),
        _figure(
            "characters",
            "Characters typed a year",
            told.characters,
            "characters",
            "Of a password that is as short as it may be.",
            f"L · n · {WORKING_DAYS} / (1 − p)",
            (length, *sign_ins),
        ),
        _figure(
            "locks",
            "Locks by mistake a year",
            told.locks,
            "locks",
            "" if limits(settings) else "Nothing locks here.",
            f"n · {WORKING_DAYS} · p^T",
            (*sign_ins, lock[0]),
        ),
        _figure(
            "minutes",
            "Minutes a year, all together",
            told.minutes,
            "minutes",
            f"{number(told.changing)} for changes, {number(told.typing)} for typing, "
            f"{number(told.locked)} for locks.",
            "changes · c + characters · t + locks · min(D, h)",
            (
                ("c, minutes for a change", f"{habits.change:g}"),
                ("t, seconds for a character", f"{habits.seconds:g}"),
                ("h, minutes until the help desk has unlocked", f"{habits.call:g}"),
                lock[1],
            ),
        ),
    ]


def _duration(settings: Settings) -> str:
    return describe_span(settings.lockout_duration) if limits(settings) else "none"


def _figure(
    key: str,
    label: str,
    value: float,
    unit: str,
    note: str,
    formula: str,
    inputs: tuple[tuple[str, str], ...],
) -> Figure:
    return Figure(key, label, value, unit, number(value), note, formula, inputs)
