"""Is a candidate password accepted, and if not, by which rule and what would mend it? (domain rules
§5)

A policy compiles to a list of rules. What a rule asks of candidates for one account at one moment
is a question: it *measures* a candidate, then *says* what the measure means. Measures are few and
never hold the candidate, so that answers can be kept for the next candidate that measures the same,
and shown and logged where the candidate must not be.
"""

from __future__ import annotations

from collections.abc import Callable, Hashable, Iterator, Sequence
from dataclasses import dataclass
from typing import Generic, TypeVar

from hornfels.core.passwords.characters import Candidate
from hornfels.core.passwords.rules.audit_length import AuditLength
from hornfels.core.passwords.rules.complexity import Complexity
from hornfels.core.passwords.rules.history import History
from hornfels.core.passwords.rules.length import Length
from hornfels.core.passwords.rules.minimum_age import MinimumAge
from hornfels.core.passwords.rules.own_name import OwnName
from hornfels.core.passwords.rules.rule import Judgement, Occasion, Rule, Subject
from hornfels.core.policy.model import Settings

Rendered = TypeVar("Rendered")


def compile_policy(settings: Settings, *, audit_length: int | None = None) -> tuple[Rule, ...]:
    """The rules that a policy's settings make, in the order they are shown."""
    rules: list[Rule] = [
        Length(settings.min_length),
        Complexity(settings.complexity),
        OwnName(settings.complexity),
        History(settings.history_length),
        MinimumAge(settings.min_age),
    ]
    if audit_length is not None:
        rules.append(AuditLength(audit_length))
    return tuple(rules)


@dataclass(frozen=True, slots=True)
class Verdict:
    """What every rule says to one candidate. Accepted if none of the directory's own rules failed
    and, where there is an addition, none of those on one of its paths; `certain` unless what that
    hangs on could not be checked.
    """

    judgements: tuple[Judgement, ...]

    @property
    def _paths(self) -> dict[str, list[Judgement]]:
        found: dict[str, list[Judgement]] = {}
        for one in self.judgements:
            found.setdefault(one.path, []).append(one)
        return found

    def _open(self) -> list[list[Judgement]]:
        """The paths of the addition on which no rule failed."""
        additions = (found for path, found in self._paths.items() if path)
        return [found for found in additions if all(f.status != "failed" for f in found)]

    @property
    def by_directory(self) -> tuple[Judgement, ...]:
        """What the directory's own rules say."""
        return tuple(f for f in self.judgements if not f.path)

    @property
    def _has_addition(self) -> bool:
        return any(f.path for f in self.judgements)

    @property
    def accepted(self) -> bool:
        if any(f.status == "failed" for f in self.by_directory):
            return False
        return not self._has_addition or bool(self._open())

    @property
    def certain(self) -> bool:
        if not self.accepted:
            return True
        sure = [all(f.status != "not checkable" for f in found) for found in self._open()]
        return all(f.status != "not checkable" for f in self.by_directory) and (
            not sure or any(sure)
        )

    @property
    def refusals(self) -> tuple[Judgement, ...]:
        """What it is refused for; a path does not matter where another one is open."""
        closed = not self._open()
        return tuple(f for f in self.judgements if f.status == "failed" and (not f.path or closed))

    @property
    def refused_by(self) -> tuple[str, ...]:
        """The keys of the rules that it is refused for."""
        return tuple(f.rule for f in self.refusals)

    @property
    def told(self) -> str:
        """What the person would be told, in plain sentences."""
        if not self.accepted:
            return " ".join(["Refused.", *self._told_of(self.refusals)])
        head = "Accepted." if self.certain else "Accepted as far as can be seen here."
        doubts = (
            f
            for f in self.judgements
            if f.noted or (not self.certain and f.status == "not checkable")
        )
        return " ".join([head, *(f.plain for f in doubts if f.plain)])

    def _told_of(self, refusals: tuple[Judgement, ...]) -> Iterator[str]:
        yield from (f.plain for f in refusals if not f.path and f.plain)
        ways: dict[str, list[str]] = {}
        for f in refusals:
            if f.path and f.plain:
                ways.setdefault(f.path, []).append(f.plain)
        for number, (path, told) in enumerate(ways.items()):
            lead = "" if len(ways) == 1 else f"{'Or as' if number else 'As'} a {path}: "
            yield lead + " ".join(told)


MOST_KEPT = 4096
"""Answers a judge keeps; distinct measures are far fewer unless somebody tries thousands of
lengths.
"""


class Judge(Generic[Rendered]):
    """A compiled policy for one account at one moment, for any number of candidates.

    ``render`` makes of a verdict what the caller wants of it; that is kept for the next candidate
    that measures the same.
    """

    def __init__(
        self,
        rules: Sequence[Rule],
        subject: Subject,
        moment: Occasion,
        render: Callable[[Verdict], Rendered],
    ) -> None:
        asked = [rule.ask(subject, moment) for rule in rules]
        self._asked = tuple(asked)
        self._measures = tuple(one.measure for one in asked if not isinstance(one, Judgement))
        self._render = render
        self._kept: dict[tuple[Hashable, ...], Rendered] = {}

    def __call__(self, candidate: Candidate) -> Rendered:
        key = tuple([measure(candidate) for measure in self._measures])
        try:
            return self._kept[key]
        except KeyError:
            pass
        if len(self._kept) >= MOST_KEPT:
            self._kept.clear()
        rendered = self._kept[key] = self._render(self._verdict(candidate))
        return rendered

    def _verdict(self, candidate: Candidate) -> Verdict:
        return Verdict(
            tuple(
                one if isinstance(one, Judgement) else one.judge(candidate) for one in self._asked
            )
        )


def judge(rules: Sequence[Rule], candidate: str, subject: Subject, moment: Occasion) -> Verdict:
    """The verdict of a compiled policy on one candidate."""
    return Judge(rules, subject, moment, lambda verdict: verdict)(Candidate(candidate))
