"""How the life of a password and of a lock run under a policy (domain rules §3, §6)."""

from __future__ import annotations

from dataclasses import dataclass

from hornfels.core.policy.model import Settings, expires, until_unlocked
from hornfels.core.values.time import NEVER, Span, describe_span


@dataclass(frozen=True, slots=True)
class Course:
    """Spans in ticks: how long a password must be kept, when it expires (`NEVER` if it does not),
    which bad try locks (None if none does) and how long the lock lasts (`NEVER`: until unlocked).
    """

    changeable_after: int
    expires_after: Span
    locks_at: int | None
    lock_lasts: Span


def course(settings: Settings) -> Course:
    """How it runs under these settings, whichever of several ways they say so."""
    return Course(
        settings.min_age,
        settings.max_age if expires(settings.max_age) else NEVER,
        settings.lockout_threshold if settings.lockout_threshold > 0 else None,
        NEVER if until_unlocked(settings.lockout_duration) else settings.lockout_duration,
    )


def summary(settings: Settings) -> str:
    """A policy in a few words: length, age, tries."""
    run = course(settings)
    tries = "no lockout" if run.locks_at is None else f"{run.locks_at:,} tries"
    return f"{settings.min_length:,} ch · {describe_span(run.expires_after)} · {tries}"
