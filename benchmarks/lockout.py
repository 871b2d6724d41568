"""Lockout: the state machine on a stream of events, and the plane of the trade-off."""

from __future__ import annotations

import time
from collections.abc import Callable, Sequence
from dataclasses import replace
from random import Random

from hornfels.core.lockout.guessing import Assumptions, guessing_sheet
from hornfels.core.lockout.machine import KINDS, EventKind, Tries, step
from hornfels.core.lockout.story import Drill
from hornfels.core.lockout.tradeoff import grid, lines
from hornfels.core.policy.model import DEFAULTS

Events = Sequence[tuple[EventKind, int]]

FIVE = replace(DEFAULTS, lockout_threshold=5)
STEPS = 400_000


def per_second(play: Callable[[Events], None], events: Events) -> float:
    """Events a second, the best of three: pauses of the machine are none of ours."""
    best = 0.0
    for _ in range(3):
        begun = time.perf_counter()
        play(events)
        best = max(best, len(events) / (time.perf_counter() - begun))
    return best


def machine(events: Events) -> None:
    tries = Tries()
    for kind, at in events:
        tries, _ = step(tries, kind, at, FIVE)


def drilled(events: Events) -> None:
    drill = Drill(FIVE)
    for kind, at in events:
        drill.happen(kind, at)


def lockout() -> None:
    random = Random(1)
    at = 1
    events: list[tuple[EventKind, int]] = []
    for _ in range(STEPS):
        at += random.randrange(10**9)
        events.append((random.choices(KINDS, (8, 3, 1, 1))[0], at))
    print(f"\nLockout: {STEPS:,} events in one process, and the plane of the trade-off")
    for what, play in (
        ("steps of the machine", machine),
        ("steps of a drill, with what is shown of each", drilled),
    ):
        print(f"  {what:<58}{per_second(play, events):>12,.0f} /s")
    for what, act in (
        ("the plane, 100 × 100", lambda: grid(FIVE, Assumptions(), "duration")),
        ("its lines of equal chance", lambda: lines(FIVE, Assumptions(), "duration")),
        ("the sheet of what guessing costs", lambda: guessing_sheet(FIVE, Assumptions())),
    ):
        act()
        begun = time.perf_counter()
        for _ in range(10):
            act()
        print(f"  {what:<58}{(time.perf_counter() - begun) * 100:>12,.2f} ms")
