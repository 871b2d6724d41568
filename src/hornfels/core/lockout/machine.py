"""The state machine of a lockout, exact to the tick (domain rules §6).

A directory knows three attributes of an account: ``badPwdCount``, ``badPasswordTime`` and
``lockoutTime`` ([MS-SAMR] 3.1.1.8.1, [MS-ADTS] 3.1.1.4.5). Nothing happens between events: a lock
that has run out, or a count whose window has passed, still stands until the next one.
"""

from __future__ import annotations

from typing import Literal, NamedTuple, assert_never, get_args

from hornfels.core.policy.model import Settings, until_unlocked
from hornfels.core.values.time import NEVER, Span

EventKind = Literal["bad", "good", "old", "unlock"]
"""A wrong password, the right one, one of the two before it, and an operator who unlocks."""
KINDS: tuple[EventKind, ...] = get_args(EventKind)

Outcome = Literal["refused", "locked", "accepted", "unlocked"]


class Tries(NamedTuple):
    """What is kept of bad tries at one account: how many, and the moments (ticks) of the last one
    and of the lock, 0 for none.
    """

    bad_count: int = 0
    bad_time: int = 0
    lockout_time: int = 0


def locked(tries: Tries, settings: Settings, now: int) -> bool:
    """Whether every try is refused at a moment, the right password too."""
    if tries.lockout_time == 0 or settings.lockout_threshold <= 0:
        return False
    duration = settings.lockout_duration
    # 0 and none both mean: until an operator unlocks it.
    return not duration or now < tries.lockout_time + duration


def opens_at(tries: Tries, settings: Settings) -> Span:
    """The moment at which a lock ends by itself, `NEVER` if it does not."""
    if until_unlocked(settings.lockout_duration):
        return NEVER
    return tries.lockout_time + (settings.lockout_duration or 0)


def bad_try(tries: Tries, settings: Settings, now: int) -> Tries:
    """What is kept after one more bad try. While the account is locked nothing changes, so that
    trying does not extend the lock. Where nothing ever locks, nothing is counted.
    """
    threshold = settings.lockout_threshold
    if threshold <= 0 or locked(tries, settings, now):
        return tries
    again = now - tries.bad_time < settings.lockout_window
    count = tries.bad_count + 1 if again else 1
    return Tries(count, now, now if count >= threshold else 0)


def step(tries: Tries, event: EventKind, at: int, settings: Settings) -> tuple[Tries, Outcome]:
    """What one event makes of an account, and what becomes of the event itself. ``at`` is a moment
    in ticks above 0, not before that of any earlier event.
    """
    if event == "unlock":
        return Tries(0, tries.bad_time, 0), "unlocked"
    if locked(tries, settings, at):
        return tries, "locked"
    match event:
        case "bad":
            return bad_try(tries, settings, at), "refused"
        case "good":
            return Tries(0, tries.bad_time, 0), "accepted"
        case "old":
            return tries, "refused"
    assert_never(event)
