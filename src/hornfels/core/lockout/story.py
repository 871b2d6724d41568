"""Stories: what happens at one account in the course of time, played under a policy."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import NamedTuple

from hornfels.core.lockout.machine import EventKind, Outcome, Tries, locked, opens_at, step
from hornfels.core.policy.model import Settings
from hornfels.core.values.time import NEVER, Span, exact_span

_ORIGIN = 1 << 62
"""Where the clock of a story starts on that of the machine, for which 0 is no moment."""


class Event(NamedTuple):
    """Something that happens ``at`` so many ticks after the story began."""

    at: int
    kind: EventKind


Story = tuple[Event, ...]
"""Events in their order."""


def in_order(events: Iterable[Event]) -> Story:
    """The events by their time; those of one moment stay as they came."""
    return tuple(sorted(events, key=lambda event: event.at))


@dataclass(frozen=True, slots=True)
class Step:
    """What became of one event: the bad tries counted after it, whether the account is locked then,
    and how long the last bad try is remembered (None where nothing is counted).
    """

    event: Event
    outcome: Outcome
    bad_count: int
    locked: bool
    counts_until: int | None


@dataclass(frozen=True, slots=True)
class Lock:
    """A lock: when it began, after how many bad tries, and when it ended or will (`NEVER`: not by
    itself); ``by_hand`` where an operator ended it.
    """

    start: int
    tries: int
    end: Span
    by_hand: bool = False


@dataclass(frozen=True, slots=True)
class Played:
    """A story under one policy."""

    settings: Settings
    steps: tuple[Step, ...]
    locks: tuple[Lock, ...]

    @property
    def most(self) -> int:
        """The highest count that was reached."""
        return max((step.bad_count for step in self.steps), default=0)

    @property
    def turned_away(self) -> int:
        """How often the right password was refused because of a lock."""
        return sum(s.outcome == "locked" and s.event.kind == "good" for s in self.steps)

    @property
    def looked_at(self) -> int:
        """Bad tries that were compared with the password: a guesser's harvest."""
        return sum(s.outcome == "refused" and s.event.kind == "bad" for s in self.steps)


class Drill:
    """An account that events happen to, one after the other."""

    def __init__(self, settings: Settings) -> None:
        self.settings = settings
        self.tries = Tries()

    def happen(self, kind: EventKind, at: int) -> tuple[Outcome, int, bool]:
        """What becomes of an event ``at`` ticks, the bad tries counted after it, and whether the
        account is locked then.
        """
        moment = at + _ORIGIN
        self.tries, outcome = step(self.tries, kind, moment, self.settings)
        return outcome, self.tries.bad_count, locked(self.tries, self.settings, moment)

    @property
    def lock_began(self) -> int:
        return self.tries.lockout_time - _ORIGIN

    @property
    def opens(self) -> Span:
        """When the lock that holds ends by itself, in ticks of the story."""
        end = opens_at(self.tries, self.settings)
        return NEVER if end is NEVER else end - _ORIGIN

    @property
    def counts_until(self) -> int | None:
        """When a further bad try would be the first again."""
        if self.tries.bad_count == 0:
            return None
        return self.tries.bad_time + self.settings.lockout_window - _ORIGIN


def play(story: Story, settings: Settings) -> Played:
    """What becomes of every event of a story under a policy."""
    drill = Drill(settings)
    steps: list[Step] = []
    locks: list[Lock] = []
    holding = False
    for event in story:
        if holding and locks[-1].end is not NEVER and event.at >= locks[-1].end:
            holding = False
        outcome, count, is_locked = drill.happen(event.kind, event.at)
        steps.append(Step(event, outcome, count, is_locked, drill.counts_until))
        if event.kind == "unlock" and holding:
            locks[-1] = Lock(locks[-1].start, locks[-1].tries, event.at, by_hand=True)
            holding = False
        elif is_locked and not holding:
            holding = True
            locks.append(Lock(drill.lock_began, count, drill.opens))
    return Played(settings, tuple(steps), tuple(locks))


@dataclass(frozen=True, slots=True)
class Run:
    """Steps one after the other, from number `first` on, that happen alike: of one kind, with one
    outcome. ``locks`` where the last of them locks the account.
    """

    first: int
    steps: tuple[Step, ...]
    locks: bool


def runs(played: Played) -> list[Run]:
    """The steps of a story, those that happen alike one after the other taken together."""
    found: list[Run] = []
    began = 0
    steps = played.steps
    for number, step_ in enumerate(steps):
        following = steps[number + 1] if number + 1 < len(steps) else None
        locks = step_.locked and step_.outcome != "locked"
        if locks or following is None or not _alike(step_, following):
            found.append(Run(began, steps[began : number + 1], locks))
            began = number + 1
    return found


def _alike(before: Step, after: Step) -> bool:
    """Whether the one happens like the other; not where the count begins anew in between."""
    return (
        before.event.kind == after.event.kind
        and before.outcome == after.outcome
        and before.bad_count <= after.bad_count
    )


def reads(kind: EventKind, outcome: Outcome) -> str:
    """What the person at the keyboard reads, or what an operator sees."""
    match outcome:
        case "locked":
            return "The account is locked; what was typed is not even looked at."
        case "accepted":
            return "Signed in."
        case "unlocked":
            return "Unlocked by an operator."
        case "refused":
            if kind == "old":
                return "Wrong name or password. One of the two passwords before: not counted."
            return "Wrong name or password."


def sentence(played: Played) -> str:
    """What became of a story, in one sentence or two."""
    threshold = played.settings.lockout_threshold
    if not played.steps:
        return "Nothing happens yet."
    if threshold <= 0:
        return "Never locks: this policy has no threshold, so nothing is counted."
    if not played.locks:
        return f"Does not lock: {played.most:,} of {threshold:,} bad tries at most."
    first = played.locks[0]
    after = f"after {first.tries:,} bad {'try' if first.tries == 1 else 'tries'}"
    began = exact_span(first.start)
    if first.end is NEVER:
        told = f"Locks at {began} {after}, until an operator unlocks it."
    else:
        how = "is unlocked" if first.by_hand else "opens"
        told = f"Locks at {began} {after} and {how} at {exact_span(first.end)}."
    if len(played.locks) > 1:
        told += f" It locks {len(played.locks):,} times in all."
    if played.turned_away:
        times = "once" if played.turned_away == 1 else f"{played.turned_away:,} times"
        told += f" The right password is turned away {times}."
    return told
