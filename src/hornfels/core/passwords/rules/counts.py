"""How many: length within a range, groups, characters of a kind (domain rules §9)."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import get_args

from hornfels.core.passwords.characters import Candidate, CharacterGroup, group_of, kind_numbers
from hornfels.core.passwords.rules.rule import Judgement, Occasion, Question, Subject
from hornfels.core.policy.addition import GroupCount, Kind, KindCount, LengthRange
from hornfels.core.policy.addition_words import MANY, ONE, counted

_LETTERS = frozenset({"upper", "lower", "caseless"})


def numbers_of(kind: Kind) -> bytes:
    """A kind as the numbers that `Candidate.kinds` has for it."""
    groups = [group for group in get_args(CharacterGroup) if _is(group, kind)]
    return kind_numbers(groups) + (b"\xff" if kind == "other" else b"")


def _is(group: CharacterGroup | None, kind: Kind) -> bool:
    if kind == "letter":
        return group in _LETTERS
    return group not in _LETTERS if kind == "other" else group == kind


def is_of(character: str, kind: Kind) -> bool:
    """Whether a character is of a kind."""
    return _is(group_of(character), kind)


@dataclass(frozen=True, slots=True)
class _Range:
    """A count within bounds, of things with a name."""

    rule: str
    least: int
    most: int | None
    noun: str
    nouns: str

    def _of(self, count: int) -> str:
        return counted(count, self.noun, self.nouns)

    def say(self, count: int) -> Judgement:
        bounds = f"{self.least}–{self.most}" if self.most is not None else f"≥ {self.least}"
        if count < self.least:
            missing = self.least - count
            return Judgement(
                self.rule,
                "failed",
                f"{count} of {self.least}",
                f"add {self._of(missing)}",
                f"It has {self._of(count)} and needs at least {self.least:,}.",
            )
        if self.most is not None and count > self.most:
            return Judgement(
                self.rule,
                "failed",
                f"{count}, at most {self.most}",
                f"take out {self._of(count - self.most)}",
                f"It has {self._of(count)}; at most {self.most:,} are allowed.",
            )
        return Judgement(self.rule, "passed", f"{count} ({bounds})")


@dataclass(frozen=True, slots=True)
class CountRule:
    """A number of the candidate within bounds."""

    key: str
    label: str
    count: Callable[[Candidate], int]
    range: _Range

    def ask(self, _subject: Subject, _moment: Occasion) -> Question[int]:
        return Question(self.count, self.range.say)


def length_rule(asked: LengthRange) -> CountRule:
    bounds = _Range("length", asked.min, asked.max, "character", "characters")
    return CountRule("length", "Length", lambda candidate: candidate.units, bounds)


def groups_rule(asked: GroupCount) -> CountRule:
    bounds = _Range("groups", asked.min, None, "kind of character", "kinds of characters")
    return CountRule(
        "groups", "Character groups", lambda candidate: len(candidate.variety.groups), bounds
    )


def kind_rule(asked: KindCount) -> CountRule:
    kind, nouns = asked.of, MANY[asked.of]
    numbers = numbers_of(kind)

    def count(candidate: Candidate) -> int:
        held = candidate.kinds
        return len(held) - len(held.translate(None, numbers))

    label = nouns[0].upper() + nouns[1:]
    bounds = _Range("count", asked.min, asked.max, ONE[kind], nouns)
    return CountRule("count", label, count, bounds)
