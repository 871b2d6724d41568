"""How a lockout trades guessers against people: the chance to hit over threshold and time (domain
rules §6, §10).

In the plane *duration* a guesser lets the account lock and comes back when it opens; in the plane
*window* one stays a try below the threshold. The other settings are those of one policy.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np

from hornfels.core.lockout.guessing import Assumptions, accidental_locks, life
from hornfels.core.lockout.popularity import Floats, chance, guesses_for
from hornfels.core.policy.catalogue import SettingKey
from hornfels.core.policy.dependencies import adjustments
from hornfels.core.policy.lockout import guesses_locking, guesses_within, limits
from hornfels.core.policy.model import Settings, until_unlocked
from hornfels.core.values.time import DAY, MINUTE, TICKS_PER_SECOND

Plane = Literal["duration", "window"]

SHORTEST, LONGEST = MINUTE, 7 * DAY
"""The ends of the axis of times, in ticks."""
MOST_TRIES = 50
"""The end of the axis of thresholds."""
CHANCES = (1e-5, 1e-4, 1e-3, 1e-2, 0.05, 0.1, 0.2, 0.5)
"""The chances for which lines are drawn."""


@dataclass(frozen=True, slots=True)
class Line:
    """Points of equal chance: thresholds, and the span in ticks that goes with each."""

    chance: float
    thresholds: Floats
    spans: Floats


@dataclass(frozen=True, slots=True)
class Grid:
    """``chance[i, j]`` is that for ``spans[i]`` ticks and ``thresholds[j]`` tries; ``tries`` are
    those in a password's life. ``accidental[j]`` are locks by mistake in 1,000 sign-ins.
    """

    thresholds: Floats
    spans: Floats
    tries: Floats
    chance: Floats
    accidental: Floats


@dataclass(frozen=True, slots=True)
class Mark:
    """Where a policy stands: `span` None where its lock lasts until unlocked or nothing locks;
    `tries` in its own password's life, None without a limit.
    """

    threshold: int
    span: int | None
    tries: int | None
    chance: float | None
    accidental: float


def tries(settings: Settings, plane: Plane, thresholds: Floats, spans: Floats) -> Floats:
    """Tries in a password's life for each span (rows, ticks) and threshold (columns)."""
    lasts = float(life(settings))
    turn = np.maximum(spans, settings.lockout_window) if plane == "duration" else spans
    rounds = np.floor(lasts / turn)
    if plane == "duration":
        return np.outer(np.maximum(rounds, 1), thresholds)
    return np.outer(rounds, thresholds - 1)


def grid(
    settings: Settings, assumed: Assumptions, plane: Plane, rows: int = 100, columns: int = 100
) -> Grid:
    """The plane around a policy: thresholds go up by equal steps, times by equal factors."""
    thresholds = np.linspace(1, MOST_TRIES, columns)
    spans = np.geomspace(SHORTEST, LONGEST, rows)
    many = tries(settings, plane, thresholds, spans)
    accidental = 1000 * assumed.mistakes**thresholds
    return Grid(thresholds, spans, many, chance(many, assumed.size, assumed.skew), accidental)


def lines(settings: Settings, assumed: Assumptions, plane: Plane) -> list[Line]:
    """Lines of equal chance, each over the thresholds at which it lies within the plane."""
    thresholds = np.arange(1, MOST_TRIES + 1, dtype=np.float64)
    found = []
    for wanted in CHANCES:
        guesses = max(1.0, guesses_for(wanted, assumed.size, assumed.skew))
        per_turn = thresholds if plane == "duration" else thresholds - 1
        spans = per_turn * life(settings) / guesses
        inside = (spans >= SHORTEST) & (spans <= LONGEST)
        if plane == "duration":
            # A lock shorter than the window does not hurry a guesser who needs the count to fade.
            inside &= spans >= settings.lockout_window
        if inside.sum() > 1:
            found.append(Line(wanted, thresholds[inside], spans[inside]))
    return found


def mark(settings: Settings, assumed: Assumptions, plane: Plane) -> Mark:
    """Where a policy stands in a plane, with the numbers of its own password's life."""
    guesses = guesses_locking if plane == "duration" else guesses_within
    many = guesses(settings, life(settings))
    locks = limits(settings)
    if not locks:
        span = None
    elif plane == "window":
        span = settings.lockout_window
    else:
        endless = until_unlocked(settings.lockout_duration)
        span = None if endless else settings.lockout_duration
    return Mark(
        settings.lockout_threshold,
        span,
        many,
        None if many is None else float(chance(many, assumed.size, assumed.skew)),
        accidental_locks(settings.lockout_threshold, assumed.mistakes) if locks else 0.0,
    )


def moved(settings: Settings, plane: Plane, threshold: int, span: int) -> Settings:
    """The settings of a policy whose mark is put somewhere else, spans in whole seconds, with what
    hangs together brought along.
    """
    whole = -(-span // TICKS_PER_SECOND) * TICKS_PER_SECOND
    key: SettingKey = "lockout_window" if plane == "window" else "lockout_duration"
    there = settings.changed({"lockout_threshold": threshold, key: whole})
    both: tuple[SettingKey, ...] = (key, "lockout_threshold")
    for changed in both:
        together = adjustments(there, changed)
        there = there.changed({adjustment.key: adjustment.value for adjustment in together})
    return there
