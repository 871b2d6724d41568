"""Phrases of words (domain rules §9)."""

from __future__ import annotations

from dataclasses import dataclass
from typing import NamedTuple

from hornfels.core.passwords.characters import Candidate
from hornfels.core.passwords.folding import folded
from hornfels.core.passwords.rules.counts import is_of
from hornfels.core.passwords.rules.rule import Judgement, Occasion, Question, Subject, plural
from hornfels.core.policy.addition import Words


class Found(NamedTuple):
    """Words that are long enough, and how many of them only repeat another one."""

    words: int
    again: int


@dataclass(frozen=True, slots=True)
class WordsRule:
    """Enough words, each of enough letters, and none of them twice."""

    asked: Words
    key: str = "words"
    label: str = "Words"

    def ask(self, _subject: Subject, _moment: Occasion) -> Question[Found]:
        return Question(self._measure, self._say)

    def _measure(self, candidate: Candidate) -> Found:
        found = [word for word in words(candidate.text) if len(word) >= self.asked.letters]
        again = len(found) - len(set(map(folded, found))) if self.asked.distinct else 0
        return Found(len(found), again)

    def _say(self, found: Found) -> Judgement:
        asked = self.asked
        if found.words >= asked.min and not found.again:
            return Judgement(self.key, "passed", f"{found.words} ≥ {asked.min}")
        details, repairs, plains = [], [], []
        if found.words < asked.min:
            missing = plural(asked.min - found.words, "more word")
            details.append(f"{found.words} of {asked.min}")
            repairs.append(f"add {missing} of {plural(asked.letters, 'letter')} at least")
            plains.append(f"It needs {missing}, each of {plural(asked.letters, 'letter')} or more.")
        if found.again:
            details.append("a word twice")
            repairs.append("take each word once")
            plains.append("It has a word twice. Take another one.")
        return Judgement(
            self.key, "failed", "; ".join(details), " and ".join(repairs), " ".join(plains)
        )


def words(text: str) -> list[str]:
    """The stretches of letters in a text."""
    return "".join(c if is_of(c, "letter") else " " for c in text).split()
