"""What a lockout policy gives an attacker and its owner (domain rules §6)."""

from __future__ import annotations

from dataclasses import dataclass

from hornfels.core.policy.model import Settings, expires, until_unlocked
from hornfels.core.values.time import DAY, describe_span


@dataclass(frozen=True, slots=True)
class Tries:
    """What is kept of bad tries at one account: how many, and the moments (ticks) of the last one
    and of the lock, 0 for none.
    """

    bad_count: int = 0
    bad_time: int = 0
    lockout_time: int = 0


def locked(tries: Tries, settings: Settings, now: int) -> bool:
    """Whether every try is refused at a moment, the right password too."""
    if settings.lockout_threshold <= 0 or tries.lockout_time == 0:
        return False
    return until_unlocked(settings.lockout_duration) or now < tries.lockout_time + (
        settings.lockout_duration or 0
    )


def bad_try(tries: Tries, settings: Settings, now: int) -> Tries:
    """What is kept after one more bad try. While the account is locked nothing changes, so that
    trying does not extend the lock.
    """
    if settings.lockout_threshold <= 0 or locked(tries, settings, now):
        return tries
    fresh = tries.lockout_time != 0 or now - tries.bad_time >= settings.lockout_window
    count = 1 if fresh else tries.bad_count + 1
    return Tries(count, now, now if count >= settings.lockout_threshold else 0)


def guesses_within(settings: Settings, span: int) -> int | None:
    """Tries that an online attacker who stays just under the lock has within `span` ticks; None if
    nothing limits them.
    """
    if settings.lockout_threshold <= 0 or settings.lockout_window <= 0:
        return None
    return (settings.lockout_threshold - 1) * (span // settings.lockout_window)


def guess_budget(settings: Settings) -> str:
    """The guess budget in a sentence."""
    a_day = guesses_within(settings, DAY)
    if a_day is None:
        return "Nothing limits a guesser: the account never locks."
    if not expires(settings.max_age):
        return (
            f"A guesser who stays under the lock gets at most {a_day:,} tries a day, for as long "
            "as the password lasts."
        )
    total = guesses_within(settings, settings.max_age or 0)
    life = describe_span(settings.max_age, parts=1)
    return (
        f"A guesser who stays under the lock gets at most {a_day:,} tries a day, {total:,} in "
        f"{life}."
    )


def lock_sentence(settings: Settings) -> str:
    """When an account locks and opens again, in a sentence."""
    if settings.lockout_threshold <= 0:
        return "Accounts never lock."
    tries = (
        f"{settings.lockout_threshold} bad {'try' if settings.lockout_threshold == 1 else 'tries'}"
    )
    close = (
        f", each within {describe_span(settings.lockout_window)} of the one before,"
        if settings.lockout_threshold > 1
        else ""
    )
    if until_unlocked(settings.lockout_duration):
        return f"{tries}{close} lock the account until an operator unlocks it."
    return f"{tries}{close} lock the account for {describe_span(settings.lockout_duration)}."


def reuse_sentence(settings: Settings) -> str:
    """When an old password can come back, in a sentence (domain rules §2)."""
    n, age = settings.history_length, settings.min_age
    if n <= 0:
        return "No history: the same password can be set again at once."
    if age <= 0:
        return (
            f"An old password is reusable after {n:,} changes, which take minutes without a "
            "minimum age."
        )
    return (
        f"An old password is reusable after {n:,} others, so {describe_span((n + 1) * age)} "
        "after it was set at the earliest."
    )
