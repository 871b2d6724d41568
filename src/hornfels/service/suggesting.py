"""Passwords proposed to whoever has to choose one."""

from __future__ import annotations

from collections.abc import Sequence
from secrets import SystemRandom

from hornfels.core.domain.account_state import addition_of, settings_of
from hornfels.core.passwords.rules.rule import Subject
from hornfels.core.passwords.suggestions import KINDS, NoSuggestionError, Suggestion, suggest
from hornfels.service.snapshots import Snapshot


def suggested(
    current: Snapshot, policy: int, subject: Subject, previous: Sequence[str | None] = ()
) -> list[Suggestion]:
    """One of each kind that a policy by number accepts."""
    found = []
    for kind in KINDS:
        try:
            made = suggest(
                settings_of(current.estate, policy),
                subject,
                previous,
                kind,
                SystemRandom(),
                addition_of(current.estate, policy),
                current.rules.beyond(policy),
            )
        except NoSuggestionError:
            continue  # names that leave no words leave letters
        found.append(made)
    return found
