"""Stretches that are easy to type and to guess: one character again and again, up or down the
alphabet, along the keys (domain rules §9).
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from itertools import pairwise
from typing import TypeVar

from hornfels.core.passwords.characters import Candidate
from hornfels.core.passwords.layouts import Key, keys_of
from hornfels.core.passwords.rules.rule import Judgement, Occasion, Question, Subject
from hornfels.core.policy.addition import Repeat, Run, Walk

T = TypeVar("T")


@dataclass(frozen=True, slots=True)
class StretchRule:
    """The longest stretch of a kind is no longer than so many characters."""

    key: str
    label: str
    most: int
    longest: Callable[[str], int]
    what: str

    def ask(self, _subject: Subject, _moment: Occasion) -> Question[int]:
        return Question(self._measure, self._say)

    def _measure(self, candidate: Candidate) -> int:
        return self.longest(candidate.text)

    def _say(self, longest: int) -> Judgement:
        if longest <= self.most:
            return Judgement(self.key, "passed", f"{longest} ≤ {self.most}")
        return Judgement(
            self.key,
            "failed",
            f"{longest}, at most {self.most}",
            f"break up {self.what}",
            f"It has {self.what}, {longest:,} long; {self.most:,} at most are allowed.",
        )


def repeat_rule(asked: Repeat) -> StretchRule:
    what = "one character in a row"
    return StretchRule("repeat", "Repeated character", asked.max, longest_repeat, what)


def run_rule(asked: Run) -> StretchRule:
    what = "a stretch of the alphabet or of digits"
    return StretchRule("run", "Run of letters or digits", asked.max, longest_run, what)


def walk_rule(asked: Walk) -> StretchRule:
    keys = keys_of(asked.layouts)
    what = "a stretch of neighbouring keys"
    return StretchRule(
        "walk", "Walk over the keys", asked.max, lambda text: longest_walk(text, keys), what
    )


def longest_repeat(text: str) -> int:
    """The most times that a character comes in a row, whatever its case."""
    return _longest(list(map(str.casefold, text)), lambda before, now: before == now)


def longest_run(text: str) -> int:
    """The longest stretch up or down a–z or 0–9, whatever the case."""
    marks = [_place(c.casefold()) for c in text]
    return max(
        _longest(marks, lambda before, now: now == before + 1 and before >= 0),
        _longest(marks, lambda before, now: now == before - 1 and now >= 0),
    )


_DIGITS, _ALPHABET = "0123456789", "abcdefghijklmnopqrstuvwxyz"


def _place(character: str) -> int:
    """A number that is one more for the next letter or digit, negative for anything else."""
    at = _DIGITS.find(character) if character else -1
    if at >= 0 and len(character) == 1:
        return at
    at = _ALPHABET.find(character) if len(character) == 1 else -1
    # Far from the digits, so that 9 and a are no neighbours.
    return at + 100 if at >= 0 else -10


def _longest(marks: list[T], goes_on: Callable[[T, T], bool]) -> int:
    longest = length = min(1, len(marks))
    for before, now in pairwise(marks):
        length = length + 1 if goes_on(before, now) else 1
        longest = max(longest, length)
    return longest


def longest_walk(text: str, keys: dict[str, tuple[Key, ...]]) -> int:
    """The longest stretch over keys of one row, each beside the one before, all to one side."""
    longest = min(1, len(text))
    for step in (1, -1):
        # How long the stretch is that ends at the last character, by the key that made it.
        held: dict[Key, int] = {}
        for character in text:
            held = {
                key: held.get(key._replace(place=key.place - step), 0) + 1
                for key in keys.get(character, ())
            }
            longest = max(longest, *held.values()) if held else longest
    return longest
