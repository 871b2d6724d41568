"""What a rule is: it measures a candidate, then says what the measure means (domain rules §5)."""

from __future__ import annotations

from collections.abc import Callable, Hashable, Sequence
from dataclasses import dataclass
from typing import Generic, Literal, Protocol, TypeVar

from hornfels.core.domain.estate import Estate
from hornfels.core.passwords.characters import Candidate
from hornfels.core.policy.addition import PathName

Operation = Literal["change", "reset"]
Status = Literal["passed", "failed", "not asked", "not checkable"]
Measure = Callable[[Candidate], Hashable]


@dataclass(frozen=True, slots=True)
class Occasion:
    """The trial's circumstances besides the candidate.

    ``previous`` holds earlier passwords, newest (the present one) first, None for those between
    that are not known; None altogether if nothing is known of them. ``now`` and ``password_set``
    are ticks since 1601.
    """

    operation: Operation
    now: int
    password_set: int
    previous: Sequence[str | None] | None = None


@dataclass(frozen=True, slots=True)
class Subject:
    """The account as far as the rules look at it; without a name, anybody. Additions look at more
    of its names than the directory does.
    """

    name: str
    display_name: str
    other_names: tuple[str, ...] = ()


ANYBODY = Subject("", "")


def subject_of(estate: Estate, row: int) -> Subject:
    """The account in a row of an estate."""
    accounts = estate.accounts
    others = tuple(filter(None, accounts.other_names[row].split("\n")))
    return Subject(accounts.name[row], accounts.display_name[row], others)


@dataclass(frozen=True, slots=True)
class Judgement:
    """What one rule says.

    ``repair`` is empty unless the rule failed. ``plain`` tells the person in whole sentences what a
    failure, a doubt or a note is about. ``noted`` marks what is let through and logged. ``path`` is
    the path of an addition that the rule is on, "" for the directory's own rules.
    """

    rule: str
    status: Status
    detail: str
    repair: str = ""
    plain: str = ""
    noted: bool = False
    path: PathName | Literal[""] = ""

    @property
    def passed(self) -> bool | None:
        return {"passed": True, "failed": False}.get(self.status)


M = TypeVar("M", bound=Hashable)


class Asked(Protocol):
    """What a rule asks of candidates for one account at one moment."""

    @property
    def measure(self) -> Measure:
        """What of a candidate matters; candidates that measure the same are judged the same."""

    def judge(self, candidate: Candidate) -> Judgement: ...


@dataclass(frozen=True, slots=True)
class Question(Generic[M]):
    """What a rule asks: it measures a candidate, and says what the measure means."""

    measure: Callable[[Candidate], M]
    say: Callable[[M], Judgement]

    def judge(self, candidate: Candidate) -> Judgement:
        return self.say(self.measure(candidate))


class Rule(Protocol):
    """One rule of a compiled policy."""

    @property
    def key(self) -> str: ...
    @property
    def label(self) -> str: ...

    def ask(self, subject: Subject, moment: Occasion) -> Judgement | Asked:
        """What it asks of candidates for this account at this moment; its judgement at once where
        the candidate does not matter.
        """


def plural(count: int, noun: str) -> str:
    return f"{count:,} {noun}" if count == 1 else f"{count:,} {noun}s"


def ordinal(number: int) -> str:
    suffix = (
        "th" if 10 <= number % 100 <= 20 else {1: "st", 2: "nd", 3: "rd"}.get(number % 10, "th")
    )
    return f"{number}{suffix}"


def units(candidate: Candidate) -> int:
    return candidate.units
