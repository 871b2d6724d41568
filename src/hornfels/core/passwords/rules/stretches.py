"""Stretches that are easy to type and to guess: one character again and again, up or down the
alphabet, along the keys (domain rules §9).
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from itertools import pairwise
from typing import Any, TypeVar

from ahocorasick_rs import BytesAhoCorasick

from hornfels.core.passwords.characters import Candidate
from hornfels.core.passwords.layouts import LAYOUTS, Key, keys_of
from hornfels.core.passwords.rules.rule import Judgement, Occasion, Question, Subject
from hornfels.core.policy.addition import Repeat, Run, Walk

T = TypeVar("T")
_DIGITS, _ALPHABET = "0123456789", "abcdefghijklmnopqrstuvwxyz"


@dataclass(frozen=True, slots=True)
class StretchRule:
    """The longest stretch of a kind is no longer than so many characters."""

    key: str
    label: str
    most: int
    too_long: Callable[[Candidate], bool]
    """A quick look whether there may be a longer one; it may suspect a few too many."""
    longest: Callable[[str], int]
    what: str

    def ask(self, _subject: Subject, _moment: Occasion) -> Question[int]:
        return Question(self._measure, self._say)

    def _measure(self, candidate: Candidate) -> int:
        """How long the longest one is, 0 where it is none too long."""
        if not self.too_long(candidate):
            return 0
        longest = self.longest(candidate.text)
        return longest if longest > self.most else 0

    def _say(self, longest: int) -> Judgement:
        if not longest:
            return Judgement(self.key, "passed", f"≤ {self.most}")
        return Judgement(
            self.key,
            "failed",
            f"{longest}, at most {self.most}",
            f"break up {self.what}",
            f"It has {self.what}, {longest:,} long; {self.most:,} at most are allowed.",
        )


def repeat_rule(asked: Repeat) -> StretchRule:
    what = "one character in a row"
    again = re.compile(rf"(.)\1{{{asked.max}}}", re.DOTALL).search

    def too_long(candidate: Candidate) -> bool:
        return not candidate.text.isascii() or again(candidate.folded) is not None

    return StretchRule("repeat", "Repeated character", asked.max, too_long, longest_repeat, what)


def run_rule(asked: Run) -> StretchRule:
    what = "a stretch of the alphabet or of digits"
    rows = (_ALPHABET.upper().encode(), _DIGITS.encode())
    found = _any_of(_stretches(rows, asked.max + 1))

    def too_long(candidate: Candidate) -> bool:
        return not candidate.text.isascii() or bool(found(candidate.folded.encode()))

    return StretchRule("run", "Run of letters or digits", asked.max, too_long, longest_run, what)


def walk_rule(asked: Walk) -> StretchRule:
    keys = keys_of(asked.layouts)
    what = "a stretch of neighbouring keys"
    looks = [_walks(layout, asked.max + 1) for layout in asked.layouts]

    def too_long(candidate: Candidate) -> bool:
        text = candidate.text
        if not text.isascii():
            return True
        typed = text.encode()
        # Several times as quick as any() over so few.
        for keys_of_text, found in looks:  # noqa: SIM110
            if found(typed.translate(keys_of_text)):
                return True
        return False

    def longest(text: str) -> int:
        if not text.isascii():
            return longest_walk(text, keys)
        typed = text.encode()
        return max(_longest_step(typed.translate(keys_of_text)) for keys_of_text, _ in looks)

    return StretchRule("walk", "Walk over the keys", asked.max, too_long, longest, what)


def _longest_step(keys: bytes) -> int:
    """The longest stretch in which each key is beside the one before, all to one side."""
    longest = up = down = min(1, len(keys))
    before = 0
    for key in keys:
        up = up + 1 if key == before + 1 else 1
        down = down + 1 if key == before - 1 else 1
        longest = max(longest, up, down)
        before = key
    return longest


def _walks(layout: str, length: int) -> tuple[bytes, Callable[[bytes], Any]]:
    """Which key makes each ASCII character, one byte a key whichever of its two was typed, and a
    look for walks of this length in such keys.
    """
    typed = bytearray(256)
    rows = []
    for number, lines in enumerate(LAYOUTS[layout]):
        # Rows far from each other, and from 0, which stands for no key at all.
        row = bytes(range(2 + 32 * number, 2 + 32 * number + max(map(len, lines))))
        rows.append(row)
        for line in lines:
            for character, key in zip(line, row, strict=False):
                if character.isascii() and character != " ":
                    typed[ord(character)] = key
    return bytes(typed), _any_of(_stretches(rows, length))


def _stretches(rows: Iterable[bytes], length: int) -> list[bytes]:
    """All parts of this length of the rows, and the same backwards."""
    parts = [row[n : n + length] for row in rows for n in range(len(row) - length + 1)]
    return list(dict.fromkeys([*parts, *(part[::-1] for part in parts)]))


def _any_of(parts: list[bytes]) -> Callable[[bytes], Any]:
    """Whether any of these stands in a text, in one pass."""
    return BytesAhoCorasick(parts).find_matches_as_indexes if parts else lambda _text: False


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
