"""Phrases of words (domain rules §9)."""

from __future__ import annotations

import re
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
        letters, distinct = self.asked.letters, self.asked.distinct
        in_ascii = re.compile(f"[A-Za-z]{{{letters},}}").findall

        def measure(candidate: Candidate) -> Found:
            text = candidate.text
            if text.isascii():
                found = in_ascii(text)
            else:
                found = [word for word in words(text) if len(word) >= letters]
            if len(found) < 2 or not distinct:
                return Found(len(found), 0)
            # Folded at once: no letter becomes a line break, so that words stay apart.
            forms = folded("\n".join(found)).split("\n")
            return Found(len(found), len(found) - len(set(forms)))

        return Question(measure, self._say)

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
