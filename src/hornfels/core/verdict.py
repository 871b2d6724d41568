"""Is a candidate password accepted, and if not, by which rule and what would mend it? (domain rules §5)

A policy compiles to a list of rules; each rule looks at one candidate for one account at one moment. Findings name characters by
position and count, never the candidate itself, so that a verdict can be shown and logged where the candidate must not be.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal, Protocol

from hornfels.core.characters import GROUP_LABELS, CharacterGroup, groups_in, length, more_lenient_elsewhere
from hornfels.core.dn import fold
from hornfels.core.estate import UNKNOWN_TIME
from hornfels.core.policy import Settings
from hornfels.core.time import describe_span

Operation = Literal["change", "reset"]
Status = Literal["passed", "failed", "not asked", "not checkable"]

GROUPS_WANTED = 3
SHORTEST_NAME = 3
"""Characters; shorter names and parts of names are allowed inside a password."""

_NAME_SEPARATORS = re.compile(r"[,.\-_ #\t]+")


@dataclass(frozen=True, slots=True)
class Moment:
    """The trial's circumstances besides the candidate.

    ``previous`` holds earlier passwords, newest (the present one) first, or None if they are not known.
    ``now`` and ``password_set`` are ticks since 1601.
    """

    operation: Operation
    now: int
    password_set: int
    previous: Sequence[str] | None = None


@dataclass(frozen=True, slots=True)
class Subject:
    """The account as far as the rules look at it."""

    name: str
    display_name: str


@dataclass(frozen=True, slots=True)
class Finding:
    """What one rule says. ``repair`` is empty unless the rule failed."""

    rule: str
    status: Status
    detail: str
    repair: str = ""

    @property
    def passed(self) -> bool | None:
        return {"passed": True, "failed": False}.get(self.status)


class Rule(Protocol):
    """One rule of a compiled policy."""

    @property
    def key(self) -> str: ...
    @property
    def label(self) -> str: ...
    def __call__(self, candidate: str, subject: Subject, moment: Moment) -> Finding: ...


def _plural(count: int, noun: str) -> str:
    return f"{count:,} {noun}" if count == 1 else f"{count:,} {noun}s"


@dataclass(frozen=True, slots=True)
class Length:
    """At least so many UTF-16 code units."""

    wanted: int
    key: str = "length"
    label: str = "Length"

    def __call__(self, candidate: str, subject: Subject, moment: Moment) -> Finding:
        measured = length(candidate)
        if measured >= self.wanted:
            return Finding(self.key, "passed", f"{measured} of {self.wanted}")
        missing = self.wanted - measured
        return Finding(self.key, "failed", f"{measured} of {self.wanted}", f"{_plural(missing, 'more character')}")


@dataclass(frozen=True, slots=True)
class Complexity:
    """Characters from at least three of the five groups."""

    on: bool
    key: str = "complexity"
    label: str = "Character groups"

    def __call__(self, candidate: str, subject: Subject, moment: Moment) -> Finding:
        if not self.on:
            return Finding(self.key, "not asked", "not required")
        present = groups_in(candidate)
        detail = f"{len(present)} of {GROUPS_WANTED}"
        if len(present) >= GROUPS_WANTED:
            return Finding(self.key, "passed", detail)
        everyday: list[CharacterGroup] = ["upper", "lower", "digit", "symbol"]
        absent = [GROUP_LABELS[g] for g in everyday if g not in present]
        missing = GROUPS_WANTED - len(present)
        repair = f"add {'one' if missing == 1 else missing} of: {', '.join(absent)}"
        if more_lenient_elsewhere(candidate) and len(present) + 1 >= GROUPS_WANTED:
            detail += " (some servers are more lenient and count its other characters as a group)"
        return Finding(self.key, "failed", detail, repair)


@dataclass(frozen=True, slots=True)
class OwnName:
    """Neither the account's name nor a part of its display name inside."""

    on: bool
    key: str = "own_name"
    label: str = "Own name inside"

    def __call__(self, candidate: str, subject: Subject, moment: Moment) -> Finding:
        if not self.on:
            return Finding(self.key, "not asked", "not required")
        folded = fold(candidate)
        if length(subject.name) >= SHORTEST_NAME and fold(subject.name) in folded:
            return Finding(self.key, "failed", "account name inside", f"drop '{subject.name}', the account's name")
        for part in _NAME_SEPARATORS.split(subject.display_name):
            if length(part) >= SHORTEST_NAME and fold(part) in folded:
                return Finding(self.key, "failed", "part of display name inside", f"drop '{part}', part of the display name")
        return Finding(self.key, "passed", "none")


@dataclass(frozen=True, slots=True)
class History:
    """Not one of the latest passwords; only the directory knows them unless the trial supplies some."""

    depth: int
    key: str = "history"
    label: str = "History"

    def __call__(self, candidate: str, subject: Subject, moment: Moment) -> Finding:
        if moment.operation == "reset":
            return Finding(self.key, "not asked", "a reset ignores it")
        if self.depth <= 0:
            return Finding(self.key, "not asked", "none remembered")
        if moment.previous is None:
            return Finding(self.key, "not checkable", "only the directory knows")
        for back, earlier in enumerate(moment.previous[: self.depth], 1):
            if candidate == earlier:
                detail = f"{_ordinal(back)} of {self.depth} remembered"
                return Finding(self.key, "failed", detail, "choose one that is not among them")
        given = min(len(moment.previous), self.depth)
        return Finding(self.key, "passed", f"not among the {given} given of {self.depth}")


@dataclass(frozen=True, slots=True)
class MinimumAge:
    """The present password is old enough to be changed by its owner."""

    wanted: int
    key: str = "minimum_age"
    label: str = "Minimum age"

    def __call__(self, candidate: str, subject: Subject, moment: Moment) -> Finding:
        if moment.operation == "reset":
            return Finding(self.key, "not asked", "a reset ignores it")
        if moment.password_set == 0:
            return Finding(self.key, "passed", "must change now")
        if self.wanted <= 0:
            return Finding(self.key, "passed", "none wanted")
        if moment.password_set == UNKNOWN_TIME:
            return Finding(self.key, "not checkable", "time set was not read")
        age = moment.now - moment.password_set
        if age >= self.wanted:
            return Finding(self.key, "passed", f"set {describe_span(age, parts=1, up=False)} ago")
        detail = f"set {describe_span(age, up=False)} ago of {describe_span(self.wanted)}" if age >= 0 else "set in the future"
        return Finding(self.key, "failed", detail, f"wait {describe_span(self.wanted - age)}")


@dataclass(frozen=True, slots=True)
class AuditLength:
    """Shorter passwords are accepted but logged."""

    wanted: int
    key: str = "audit_length"
    label: str = "Audit length"

    def __call__(self, candidate: str, subject: Subject, moment: Moment) -> Finding:
        measured = length(candidate)
        logged = ", accepted but logged" if measured < self.wanted else ""
        return Finding(self.key, "passed", f"{measured} of {self.wanted}{logged}")


def _ordinal(number: int) -> str:
    suffix = "th" if 10 <= number % 100 <= 20 else {1: "st", 2: "nd", 3: "rd"}.get(number % 10, "th")
    return f"{number}{suffix}"


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
    """What every rule says to one candidate. Accepted unless a rule failed; `certain` unless one could not be checked."""

    findings: tuple[Finding, ...]

    @property
    def accepted(self) -> bool:
        return all(f.status != "failed" for f in self.findings)

    @property
    def certain(self) -> bool:
        return not self.accepted or all(f.status != "not checkable" for f in self.findings)


def judge(rules: Sequence[Rule], candidate: str, subject: Subject, moment: Moment) -> Verdict:
    """The verdict of a compiled policy on one candidate."""
    return Verdict(tuple(rule(candidate, subject, moment) for rule in rules))
