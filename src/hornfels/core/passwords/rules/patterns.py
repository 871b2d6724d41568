"""Expressions that have to be found, or must not be, in time that grows with the candidate's length
alone (domain rules §9).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import re2

from hornfels.core.passwords.characters import Candidate
from hornfels.core.passwords.rules.rule import Judgement, Occasion, Question, Subject
from hornfels.core.policy.addition import Pattern

LONGEST = 1000
"""Characters of an expression."""


def pattern_problem(expression: str) -> str:
    """Why an expression cannot be run, "" if it can. What needs going back (look-around, references
    to what was found) cannot.
    """
    if len(expression) > LONGEST:
        return f"It has {len(expression):,} characters; at most {LONGEST:,} are taken."
    try:
        re2.compile(expression, _OPTIONS)
    except (re2.error, UnicodeEncodeError) as error:
        told = error.args[0] if error.args else error
        reason = told.decode("utf-8", "replace") if isinstance(told, bytes) else str(told)
        return f"It cannot be run: {reason}."
    return ""


_OPTIONS = re2.Options()
_OPTIONS.log_errors = False
_OPTIONS.max_mem = 8 << 20


class Patterns:
    """Expressions that are looked for together, once for each candidate."""

    __slots__ = ("_found", "_of", "_set")

    def __init__(self, expressions: Sequence[str]) -> None:
        self._set = re2.Set.SearchSet(_OPTIONS)
        for expression in expressions:
            self._set.Add(expression)
        # One that is not compiled finds nothing, and says nothing of it.
        if expressions:
            self._set.Compile()
        self._of: Candidate | None = None
        self._found: frozenset[int] = frozenset()

    def found(self, candidate: Candidate) -> frozenset[int]:
        """The numbers of the expressions that are found in a candidate."""
        if candidate is not self._of:
            text = candidate.text
            if not text.isascii():
                # Halves of surrogate pairs cannot be encoded; they are no characters either.
                text = text.encode("utf-8", "replace").decode()
            self._found = frozenset(self._set.Match(text) or ())
            self._of = candidate
        return self._found


@dataclass(frozen=True, slots=True)
class PatternRule:
    """An expression is found, or is not."""

    asked: Pattern
    patterns: Patterns
    number: int
    key: str = "pattern"

    @property
    def label(self) -> str:
        return "Pattern that must be found" if self.asked.must else "Pattern that must not be"

    def ask(self, _subject: Subject, _moment: Occasion) -> Question[frozenset[int]]:
        return Question(self.patterns.found, lambda found: self._say(self.number in found))

    def _say(self, found: bool) -> Judgement:
        expression = self.asked.expression
        if found == self.asked.must:
            return Judgement(self.key, "passed", "found" if found else "not found")
        what = "does not have" if self.asked.must else "has"
        repair = f"{'bring in' if self.asked.must else 'leave out'} what matches {expression}"
        plain = f"It {what} what the expression {expression} stands for."
        return Judgement(self.key, "failed", "not found" if not found else "found", repair, plain)
