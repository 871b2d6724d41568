"""What is kept of a question at the gate: who was meant, what came of it, never the candidate."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal, get_args
from uuid import UUID

from hornfels.core.gate.judging import GateAnswer, GateOperation, Inquiry
from hornfels.core.gate.lifetimes import day_of

Outcome = Literal["accepted", "refused", "let through", "turned away"]
"""What the rules said; or, where no answer came in time, what the caller has chosen for that."""
OUTCOMES: tuple[Outcome, ...] = get_args(Outcome)
UNANSWERED: frozenset[Outcome] = frozenset({"let through", "turned away"})

LONGEST_ACCOUNT = 256


@dataclass(frozen=True, slots=True)
class Record:
    """One question and its answer. ``at`` is in ticks since 1601, ``took`` in microseconds.
    ``rules`` are those it was refused for; ``ends`` is the beginning of the day on which the
    password ends by its band, in ticks, None without bands.
    """

    id: UUID
    at: int
    account: str
    operation: GateOperation
    outcome: Outcome
    policy: str = ""
    rules: tuple[str, ...] = ()
    ends: int | None = None
    took: int = 0


def record_of(number: UUID, at: int, inquiry: Inquiry, answer: GateAnswer, took: int) -> Record:
    """What is kept of an answer."""
    return Record(
        number,
        at,
        inquiry.account[:LONGEST_ACCOUNT],
        inquiry.operation,
        "accepted" if answer.verdict.accepted else "refused",
        answer.policy,
        answer.rules,
        None if answer.lifetime is None else day_of(at + answer.lifetime),
        took,
    )
