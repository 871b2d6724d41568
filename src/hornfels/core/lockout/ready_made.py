"""Stories that happen everywhere, each with what it teaches under a policy."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from hornfels.core.lockout.notation import LONGEST
from hornfels.core.lockout.story import Played
from hornfels.core.policy.model import Settings, until_unlocked
from hornfels.core.values.time import HOUR, TICKS_PER_SECOND, describe_span


@dataclass(frozen=True, slots=True)
class ReadyMade:
    """``text`` writes the story in our notation, some for a policy; ``lesson`` says what it shows
    once it is played under that policy.
    """

    key: str
    title: str
    text: Callable[[Settings], str]
    lesson: Callable[[Played], str]


def _many(count: int, one: str, more: str) -> str:
    return f"{count:,} {one if count == 1 else more}"


def _monday(played: Played) -> str:
    if played.settings.lockout_threshold <= 0:
        return "Nothing is counted here, whatever the phone still sends."
    told = "What the phone still sends is the password before: refused, but not counted. "
    if played.locks:
        return told + (
            "The typing mistakes alone reach the threshold, and the right password is refused. "
            "A higher threshold forgives them."
        )
    return told + (
        "Only the two typing mistakes count, and the sign-in after them clears the count. A "
        "password from further back would count at every try."
    )


def _device(played: Played) -> str:
    settings = played.settings
    if settings.lockout_threshold <= 0:
        return "Nothing is counted here, so the device does no harm, and neither does a guesser."
    if not played.locks:
        return (
            f"Its tries are further apart than the window of "
            f"{describe_span(settings.lockout_window)}, or too few for the threshold: it does not "
            "lock the account."
        )
    told = (
        f"Each try falls into the window of the one before, so the threshold of "
        f"{settings.lockout_threshold:,} only decides when it locks, not whether. "
    )
    if until_unlocked(settings.lockout_duration):
        return told + "Whoever unlocks it will see it locked again. Find the device first."
    return told + (
        f"It locks {_many(len(played.locks), 'time', 'times')} in two hours. A window shorter than "
        "five minutes would let it be."
    )


def _slow(played: Played) -> str:
    if played.settings.lockout_threshold <= 0:
        return "Nothing is counted here: a guesser need not be slow at all."
    if played.locks:
        return "The first bad try locks already: no guesser stays under this threshold."
    return (
        "Who stops one try short and waits for the window to pass never locks the account and is "
        f"never stopped: {_many(played.looked_at, 'password', 'passwords')} tried here. Window "
        "and threshold decide how many that are in a day."
    )


def _flood(played: Played) -> str:
    if played.settings.lockout_threshold <= 0:
        return f"All {played.looked_at:,} passwords are tried: nothing stops a guesser here."
    told = (
        f"Of 120 passwords {_many(played.looked_at, 'is', 'are')} tried; the others meet a locked "
        "account. "
    )
    if played.turned_away:
        return told + (
            "The owner is turned away too: a low threshold and a long lock hand everybody a way "
            "to shut people out."
        )
    return told + "When the owner comes, the lock has ended by itself."


def _typist(played: Played) -> str:
    threshold = played.settings.lockout_threshold
    if threshold <= 0:
        return "Mistakes cost nothing here."
    if played.locks:
        return (
            f"A mistake or two lock at a threshold of {threshold:,}: this policy calls the help "
            "desk on people who type."
        )
    return (
        "A good sign-in sets the count to 0, so mistakes of the morning and of the afternoon are "
        f"never added up: {played.most:,} of {threshold:,} at most."
    )


def _guesses_in_time(settings: Settings) -> str:
    """A guesser who makes all tries but the last of a window and waits until it has passed."""
    free = max(1, min(settings.lockout_threshold - 1, 100)) if settings.lockout_threshold else 10
    # The count starts anew when the window has passed since the last try.
    window = min(max(settings.lockout_window, 0), LONGEST // 6)
    seconds = -(-window // TICKS_PER_SECOND) or HOUR // TICKS_PER_SECOND
    some = f"{free} bad" if free > 1 else "bad"
    return ", ".join([some, *[f"{some} after {seconds} s"] * 5])


READY_MADE: tuple[ReadyMade, ...] = (
    ReadyMade(
        "monday",
        "The Monday after a changed password",
        lambda _: "good, 9 old every 15 min after 5 min, 2 bad after 2 min, good, old after 13 min",
        _monday,
    ),
    ReadyMade(
        "device",
        "A forgotten device that tries every 5 minutes",
        lambda _: "bad every 5 min for 2 h",
        _device,
    ),
    ReadyMade("slow", "A slow guesser", _guesses_in_time, _slow),
    ReadyMade(
        "flood", "A flood", lambda _: "120 bad every 1 s, good after 8 min, good after 1 h", _flood
    ),
    ReadyMade(
        "typist",
        "A typist",
        lambda _: "2 bad, good, 2 bad after 4 h, good, 1 bad after 3 h, good",
        _typist,
    ),
)
"""The lessons speak of what the texts say: 120 tries, two mistakes, two hours."""
