"""Is a candidate password accepted, and if not, by which rule and what would mend it? (domain rules §5)

A policy compiles to a list of rules. A rule works in two steps: it *measures* a candidate for one account at one moment, then
*says* what the measure means. Measures are few and never hold the candidate, so that answers can be kept for the next candidate
that measures the same, and shown and logged where the candidate must not be.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Hashable, Sequence
from dataclasses import dataclass
from typing import Generic, Literal, Protocol, TypeVar

from hornfels.core.characters import GROUP_LABELS, Candidate, CharacterGroup, Variety, length
from hornfels.core.dn import fold
from hornfels.core.estate import UNKNOWN_TIME, Estate
from hornfels.core.policy import Settings
from hornfels.core.time import describe_span

Operation = Literal["change", "reset"]
Status = Literal["passed", "failed", "not asked", "not checkable"]
Measure = Callable[[Candidate], Hashable]
Said = TypeVar("Said")

GROUPS_WANTED = 3
SHORTEST_NAME = 3
"""Characters; shorter names and parts of names are allowed inside a password."""

_NAME_SEPARATORS = re.compile(r"[,.\-_ #\t]+")


def name_parts(display_name: str) -> list[str]:
    """A display name split where the specification splits it; short and empty parts are still there."""
    return _NAME_SEPARATORS.split(display_name)


@dataclass(frozen=True, slots=True)
class Moment:
    """The trial's circumstances besides the candidate.

    ``previous`` holds earlier passwords, newest (the present one) first, None for those between that are not known; None altogether
    if nothing is known of them. ``now`` and ``password_set`` are ticks since 1601.
    """

    operation: Operation
    now: int
    password_set: int
    previous: Sequence[str | None] | None = None


@dataclass(frozen=True, slots=True)
class Subject:
    """The account as far as the rules look at it; without a name, anybody."""

    name: str
    display_name: str


ANYBODY = Subject("", "")


def subject_of(estate: Estate, row: int) -> Subject:
    """The account in a row of an estate."""
    return Subject(estate.accounts.name[row], estate.accounts.display_name[row])


@dataclass(frozen=True, slots=True)
class Finding:
    """What one rule says.

    ``repair`` is empty unless the rule failed. ``plain`` tells the person in whole sentences what a failure, a doubt or a note is
    about. ``noted`` marks what is let through and logged.
    """

    rule: str
    status: Status
    detail: str
    repair: str = ""
    plain: str = ""
    noted: bool = False

    @property
    def passed(self) -> bool | None:
        return {"passed": True, "failed": False}.get(self.status)


class Rule(Protocol):
    """One rule of a compiled policy."""

    @property
    def key(self) -> str: ...
    @property
    def label(self) -> str: ...

    def measuring(self, subject: Subject, moment: Moment) -> Measure | None:
        """What measures candidates for this account at this moment; None if the answer does not depend on the candidate."""

    def say(self, measured: Hashable, subject: Subject, moment: Moment) -> Finding:
        """What a measure means."""


def plural(count: int, noun: str) -> str:
    return f"{count:,} {noun}" if count == 1 else f"{count:,} {noun}s"


def ordinal(number: int) -> str:
    suffix = "th" if 10 <= number % 100 <= 20 else {1: "st", 2: "nd", 3: "rd"}.get(number % 10, "th")
    return f"{number}{suffix}"


def _units(candidate: Candidate) -> int:
    return candidate.units


def _variety(candidate: Candidate) -> Variety:
    return candidate.variety


@dataclass(frozen=True, slots=True)
class Length:
    """At least so many UTF-16 code units."""

    wanted: int
    key: str = "length"
    label: str = "Length"

    def measuring(self, subject: Subject, moment: Moment) -> Measure:
        return _units

    def say(self, measured: Hashable, subject: Subject, moment: Moment) -> Finding:
        assert isinstance(measured, int)  # noqa: S101
        if measured >= self.wanted:
            return Finding(self.key, "passed", f"{measured} ≥ {self.wanted}")
        detail = f"{measured} of {self.wanted}"
        missing = plural(self.wanted - measured, "more character")
        plain = f"It is too short: it has {plural(measured, 'character')} and needs at least {self.wanted}. Add {missing}."
        return Finding(self.key, "failed", detail, missing, plain)


PLAIN_GROUPS: dict[CharacterGroup, str] = {
    "upper": "capital letters",
    "lower": "small letters",
    "digit": "digits",
    "symbol": "signs such as ! or -",
    "caseless": "letters of scripts without capitals",
}
EVERYDAY: tuple[CharacterGroup, ...] = ("upper", "lower", "digit", "symbol")


@dataclass(frozen=True, slots=True)
class Complexity:
    """Characters from at least three of the five groups."""

    on: bool
    key: str = "complexity"
    label: str = "Character groups"

    def measuring(self, subject: Subject, moment: Moment) -> Measure | None:
        return _variety if self.on else None

    def say(self, measured: Hashable, subject: Subject, moment: Moment) -> Finding:
        if not isinstance(measured, Variety):
            return Finding(self.key, "not asked", "not required")
        present = measured.groups
        if len(present) >= GROUPS_WANTED:
            return Finding(self.key, "passed", f"{len(present)} ≥ {GROUPS_WANTED}")
        detail = f"{len(present)} of {GROUPS_WANTED}"
        absent = [g for g in EVERYDAY if g not in present]
        missing = GROUPS_WANTED - len(present)
        repair = f"add {'one' if missing == 1 else missing} of: {', '.join(GROUP_LABELS[g] for g in absent)}"
        if measured.lenient and len(present) + 1 >= GROUPS_WANTED:
            detail += " (some servers are more lenient and count its other characters as a group)"
        words = [PLAIN_GROUPS[g] for g in absent]
        kinds = "one of these" if missing == 1 else f"{missing} of these"
        plain = f"It mixes too few kinds of characters. Add {kinds}: {', '.join(words)}."
        return Finding(self.key, "failed", detail, repair, plain)


def _no_name(_candidate: Candidate) -> Hashable:
    return ()


@dataclass(frozen=True, slots=True)
class OwnName:
    """Neither the account's name nor a part of its display name inside."""

    on: bool
    key: str = "own_name"
    label: str = "Own name inside"

    def names(self, subject: Subject) -> list[tuple[str, str]]:
        """What must not stand inside, and what each is. A part that only repeats another is left out."""
        found: dict[str, tuple[str, str]] = {}
        if length(subject.name) >= SHORTEST_NAME:
            found[fold(subject.name)] = (subject.name, "the account's name")
        for part in name_parts(subject.display_name):
            if length(part) >= SHORTEST_NAME:
                found.setdefault(fold(part), (part, "part of the display name"))
        return list(found.values()) if self.on else []

    def folded(self, subject: Subject) -> list[str]:
        """The names in the form in which `Candidate.folded` is searched for them."""
        return [fold(name) for name, _ in self.names(subject)]

    def measuring(self, subject: Subject, moment: Moment) -> Measure | None:
        if not self.on:
            return None
        names = self.folded(subject)
        if not names:
            return _no_name
        return lambda candidate: tuple([n for n, name in enumerate(names) if name in candidate.folded])

    def say(self, measured: Hashable, subject: Subject, moment: Moment) -> Finding:
        if not isinstance(measured, tuple):
            return Finding(self.key, "not asked", "not required")
        if not measured:
            return Finding(self.key, "passed", "none")
        names = self.names(subject)
        inside = [names[n] for n in measured]
        repair = "drop " + " and ".join(f"'{name}', {what}" for name, what in inside)
        detail = "account name inside" if inside[0][1] == "the account's name" else "part of display name inside"
        plain = f"It contains {' and '.join(f'“{name}”' for name, _ in inside)}, from your own name. Leave that out."
        return Finding(self.key, "failed", detail, repair, plain)


@dataclass(frozen=True, slots=True)
class History:
    """Not one of the latest passwords; only the directory knows them unless the trial supplies some."""

    depth: int
    key: str = "history"
    label: str = "History"

    def measuring(self, subject: Subject, moment: Moment) -> Measure | None:
        if moment.operation == "reset" or self.depth <= 0 or moment.previous is None:
            return None
        back: dict[str, int] = {}
        for number, earlier in enumerate(moment.previous, 1):
            if earlier is not None:
                back.setdefault(earlier, number)
        return lambda candidate: back.get(candidate.text, 0)

    def say(self, measured: Hashable, subject: Subject, moment: Moment) -> Finding:
        if moment.operation == "reset":
            return Finding(self.key, "not asked", "a reset ignores it")
        if self.depth <= 0:
            return Finding(self.key, "not asked", "none remembered")
        remembered = (
            "your present one" if self.depth == 1 else f"any of your last {self.depth:,} passwords, the present one included"
        )
        doubt = f"It must not be {remembered}; only the directory can check that."
        if not isinstance(measured, int) or moment.previous is None:
            return Finding(self.key, "not checkable", "only the directory knows", plain=doubt)
        if 0 < measured <= self.depth:
            others = plural(self.depth - measured + 1, "other password")
            plain = "It is the password you have now." if measured == 1 else f"You had it {plural(measured - 1, 'password')} ago."
            return Finding(
                self.key, "failed", f"{ordinal(measured)} of {self.depth} remembered", f"choose another; free again after {others}",
                f"{plain} Choose one that is not {remembered}.",
            )  # fmt: skip
        known = sum(earlier is not None for earlier in moment.previous[: self.depth])
        if moment.previous and not known and not measured:
            return Finding(self.key, "not checkable", "only the directory knows", plain=doubt)
        if measured:
            return Finding(self.key, "passed", f"{ordinal(measured)} back, beyond the {self.depth} remembered")
        return Finding(self.key, "passed", f"not among the {known} given of {self.depth}")


@dataclass(frozen=True, slots=True)
class MinimumAge:
    """The present password is old enough to be changed by its owner."""

    wanted: int
    key: str = "minimum_age"
    label: str = "Minimum age"

    def measuring(self, subject: Subject, moment: Moment) -> None:
        return None

    def say(self, measured: Hashable, subject: Subject, moment: Moment) -> Finding:
        if moment.operation == "reset":
            return Finding(self.key, "not asked", "a reset ignores it")
        if moment.password_set == 0:
            return Finding(self.key, "passed", "must change now")
        if self.wanted <= 0:
            return Finding(self.key, "passed", "none wanted")
        if moment.password_set == UNKNOWN_TIME:
            doubt = f"It can be changed {describe_span(self.wanted)} after the last change; when that was is not known here."
            return Finding(self.key, "not checkable", "time set was not read", plain=doubt)
        age = moment.now - moment.password_set
        if age >= self.wanted:
            return Finding(self.key, "passed", f"set {describe_span(age, parts=1, up=False)} ago")
        ago = f"set {describe_span(age, up=False)} ago" if age >= 0 else "set in the future"
        wait = describe_span(self.wanted - age)
        plain = f"Your present password is too new: it was {ago}. You can change it in {wait}."
        return Finding(
            self.key, "failed", f"{ago} of {describe_span(self.wanted)}" if age >= 0 else ago, f"wait {wait}", plain
        )  # fmt: skip


@dataclass(frozen=True, slots=True)
class AuditLength:
    """Shorter passwords are accepted but logged."""

    wanted: int
    key: str = "audit_length"
    label: str = "Audit length"

    def measuring(self, subject: Subject, moment: Moment) -> Measure:
        return _units

    def say(self, measured: Hashable, subject: Subject, moment: Moment) -> Finding:
        assert isinstance(measured, int)  # noqa: S101
        if measured >= self.wanted:
            return Finding(self.key, "passed", f"{measured} ≥ {self.wanted}")
        plain = f"It is let through but noted, because it is shorter than {plural(self.wanted, 'character')}."
        return Finding(self.key, "passed", f"{measured} of {self.wanted}, accepted but logged", plain=plain, noted=True)


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

    @property
    def refused_by(self) -> tuple[str, ...]:
        """The keys of the rules that failed."""
        return tuple(f.rule for f in self.findings if f.status == "failed")

    @property
    def told(self) -> str:
        """What the person would be told, in plain sentences."""
        status = "not checkable" if self.accepted else "failed"
        head = "Refused." if not self.accepted else "Accepted." if self.certain else "Accepted as far as can be seen here."
        return " ".join(
            [head, *(f.plain for f in self.findings if f.plain and (f.status == status or (f.noted and self.accepted)))]
        )


MOST_KEPT = 4096
"""Answers a judge keeps; distinct measures are far fewer unless somebody tries thousands of lengths."""


class Judge(Generic[Said]):
    """A compiled policy for one account at one moment, for any number of candidates.

    ``render`` makes of a verdict what the caller wants of it; that is kept for the next candidate that measures the same.
    """

    def __init__(self, rules: Sequence[Rule], subject: Subject, moment: Moment, render: Callable[[Verdict], Said]) -> None:
        measures = [(n, m) for n, rule in enumerate(rules) if (m := rule.measuring(subject, moment)) is not None]
        self._measures = tuple(m for _, m in measures)
        self._measured = tuple(n for n, _ in measures)
        self._rules, self._subject, self._moment, self._render = tuple(rules), subject, moment, render
        self._kept: dict[tuple[Hashable, ...], Said] = {}

    def __call__(self, candidate: Candidate) -> Said:
        key = tuple([measure(candidate) for measure in self._measures])
        try:
            return self._kept[key]
        except KeyError:
            pass
        if len(self._kept) >= MOST_KEPT:
            self._kept.clear()
        said = self._kept[key] = self._render(self._verdict(dict(zip(self._measured, key, strict=True))))
        return said

    def _verdict(self, measured: dict[int, Hashable]) -> Verdict:
        return Verdict(tuple(
            rule.say(measured.get(n), self._subject, self._moment) for n, rule in enumerate(self._rules)
        ))  # fmt: skip


def judge(rules: Sequence[Rule], candidate: str, subject: Subject, moment: Moment) -> Verdict:
    """The verdict of a compiled policy on one candidate."""
    return Judge(rules, subject, moment, lambda verdict: verdict)(Candidate(candidate))
