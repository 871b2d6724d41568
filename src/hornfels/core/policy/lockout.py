"""What a lockout policy gives an attacker and its owner, in numbers and words (domain rules §6,
§10).
"""

from __future__ import annotations

from hornfels.core.policy.model import Settings, expires, until_unlocked
from hornfels.core.values.time import DAY, describe_span


def limits(settings: Settings) -> bool:
    """Whether bad tries ever lock: with a threshold, and a window in which they add up to it."""
    threshold = settings.lockout_threshold
    return threshold == 1 or (threshold > 1 and settings.lockout_window > 0)


def guesses_within(settings: Settings, span: int) -> int | None:
    """Tries that an online attacker who stays just under the lock has within `span` ticks; None if
    nothing limits them.
    """
    if not limits(settings):
        return None
    if settings.lockout_threshold == 1:
        return 0
    return (settings.lockout_threshold - 1) * (span // settings.lockout_window)


def guesses_locking(settings: Settings, span: int) -> int | None:
    """Tries within `span` ticks of one who lets the account lock each time, at least those of the
    first time; until an operator unlocks it, they are all. None if nothing limits them.
    """
    if not limits(settings):
        return None
    if until_unlocked(settings.lockout_duration):
        return settings.lockout_threshold
    turn = max(settings.lockout_duration or 0, settings.lockout_window, 1)
    return settings.lockout_threshold * max(1, span // turn)


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
