"""Additions compiled to rules, each on its path (domain rules §9)."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cache
from typing import assert_never

from hornfels.core.passwords.characters import Candidate
from hornfels.core.passwords.rules.blocked import BlockedRule, NamesRule
from hornfels.core.passwords.rules.closeness import ClosenessRule
from hornfels.core.passwords.rules.counts import groups_rule, kind_rule, length_rule
from hornfels.core.passwords.rules.exposed import ExposedOf, ExposedRule
from hornfels.core.passwords.rules.patterns import PatternRule, Patterns
from hornfels.core.passwords.rules.phrases import WordsRule
from hornfels.core.passwords.rules.places import EdgeRule, ForbidRule
from hornfels.core.passwords.rules.rule import Asked as Asking
from hornfels.core.passwords.rules.rule import Judgement, Measure, Occasion, Rule, Subject
from hornfels.core.passwords.rules.stretches import repeat_rule, run_rule, walk_rule
from hornfels.core.passwords.terms import Terms
from hornfels.core.policy.addition import (
    Addition,
    Asked,
    Blocked,
    Closeness,
    Edge,
    Exposed,
    Forbid,
    GroupCount,
    KindCount,
    LengthRange,
    OwnNames,
    PathName,
    Pattern,
    Repeat,
    Run,
    Walk,
    Words,
)

TermsOf = Callable[[tuple[str, ...]], Terms | None]
"""Gives the terms of some lists by their names; None if one of them is not there."""


def terms_in(lists: Mapping[str, Sequence[str]]) -> TermsOf:
    """The terms of lists that are at hand, each choice of lists made once."""

    @cache
    def of(names: tuple[str, ...]) -> Terms | None:
        if any(name not in lists for name in names):
            return None
        return Terms((name, lists[name]) for name in names)

    return of


def _not_at_hand(_names: tuple[str, ...]) -> None:
    return None


@dataclass(frozen=True, slots=True)
class Lists:
    """Where rules look things up: terms that are blocked, and corpora of exposed passwords. None
    are at hand without.
    """

    terms: TermsOf = field(default_factory=lambda: terms_in({}))
    exposed: ExposedOf = _not_at_hand


def compile_addition(addition: Addition, lists: Lists) -> tuple[Rule, ...]:
    """The rules of an addition, path by path."""
    expressions = list(
        dict.fromkeys(
            one.expression
            for _, asked in addition.paths()
            for one in asked
            if isinstance(one, Pattern)
        )
    )
    making = _Making(lists, expressions, Patterns(expressions))
    return tuple(
        OnPath(making.rule(one), path) for path, asked in addition.paths() for one in asked
    )


@dataclass(frozen=True, slots=True)
class _Making:
    """What the rules of one addition share."""

    lists: Lists
    expressions: list[str]
    patterns: Patterns

    def rule(self, asked: Asked) -> Rule:
        match asked:
            case LengthRange():
                return length_rule(asked)
            case GroupCount():
                return groups_rule(asked)
            case KindCount():
                return kind_rule(asked)
            case Edge():
                return EdgeRule(asked)
            case Forbid():
                return ForbidRule(asked)
            case Repeat():
                return repeat_rule(asked)
            case Run():
                return run_rule(asked)
            case Walk():
                return walk_rule(asked)
            case Blocked():
                return BlockedRule(asked, self.lists.terms(asked.lists))
            case OwnNames():
                return NamesRule(asked)
            case Closeness():
                return ClosenessRule(asked)
            case Pattern():
                return PatternRule(asked, self.patterns, self.expressions.index(asked.expression))
            case Exposed():
                return ExposedRule(asked, self.lists.exposed)
            case Words():
                return WordsRule(asked)
            case _:
                assert_never(asked)


@dataclass(frozen=True, slots=True)
class OnPath:
    """A rule on a path of an addition."""

    rule: Rule
    path: PathName

    @property
    def key(self) -> str:
        return self.rule.key

    @property
    def label(self) -> str:
        return self.rule.label

    def ask(self, subject: Subject, moment: Occasion) -> Judgement | Asking:
        found = self.rule.ask(subject, moment)
        if isinstance(found, Judgement):
            return replace(found, path=self.path)
        return _Labelled(found, self.path)


@dataclass(frozen=True, slots=True)
class _Labelled:
    """What a rule asks, with the path in what it says."""

    asked: Asking
    path: PathName

    @property
    def measure(self) -> Measure:
        return self.asked.measure

    def judge(self, candidate: Candidate) -> Judgement:
        return replace(self.asked.judge(candidate), path=self.path)
