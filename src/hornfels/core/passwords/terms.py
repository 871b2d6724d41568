"""Terms that must not stand in a password, by the hundred thousand: found in one pass over the
folded candidate (Aho and Corasick).
"""

from __future__ import annotations

import re
from bisect import bisect_right
from collections.abc import Iterable
from random import Random
from typing import NamedTuple

from ahocorasick_rs import AhoCorasick, Implementation

from hornfels.core.passwords.characters import Candidate
from hornfels.core.passwords.folding import folded
from hornfels.core.values.collecting import no_collection

SHORTEST = 3
"""Folded characters; shorter terms count only as a whole."""


_HALVES = re.compile("[\ud800-\udfff]")


class Term(NamedTuple):
    """A term as it was given, and the list that it is from."""

    text: str
    list: str


class Terms:
    """Terms of several lists, each in the form in which candidates are searched. A term that is in
    more than one is of the first; one that folds to nothing is none.
    """

    __slots__ = ("_automaton", "_ends", "_inside", "_lists", "_texts", "_whole")

    def __init__(self, lists: Iterable[tuple[str, Iterable[str]]]) -> None:
        self._lists: list[str] = []
        self._ends: list[int] = []
        self._texts: list[str] = []
        with no_collection():
            for name, terms in lists:
                self._texts += map(str.strip, terms)
                self._lists.append(name)
                self._ends.append(len(self._texts))
            # Folded at once: a line break stays one, and nothing becomes one.
            forms = folded("\n".join(self._texts)).split("\n")
            if len(forms) != len(self._texts):
                forms = [*map(folded, self._texts)]
            # Of those that look the same the first one counts, so it is put in last.
            backwards = range(len(forms) - 1, -1, -1)
            self._whole = dict(zip(reversed(forms), backwards, strict=True))
            self._whole.pop("", None)
            # In order they are made ready in half the time: what begins alike lies together.
            long = sorted(form for form in self._whole if len(form) >= SHORTEST)
            self._inside = [self._whole[form] for form in long]
            self._automaton = (
                AhoCorasick(long, implementation=Implementation.ContiguousNFA) if long else None
            )

    def term(self, number: int) -> Term:
        """A term by the number that is found for it."""
        return Term(self._texts[number], self._lists[bisect_right(self._ends, number)])

    def drawn(self, random: Random) -> Term:
        """Any of the terms. Raises ValueError where there are none."""
        return self.term(random.randrange(len(self._texts)))

    def __len__(self) -> int:
        return len(self._whole)

    def found(self, candidate: Candidate) -> tuple[int, ...]:
        """The numbers of the terms in a candidate as it looks."""
        return self.inside(candidate.look)

    def found_whole(self, candidate: Candidate) -> tuple[int, ...]:
        """The number of the term that a candidate is, as it looks."""
        return self.whole(candidate.look)

    def whole(self, text: str) -> tuple[int, ...]:
        """The number of the term that a folded text is, if it is one."""
        number = self._whole.get(text)
        return () if number is None else (number,)

    def inside(self, text: str) -> tuple[int, ...]:
        """The numbers of the terms in a folded text, the longest first; those within a longer one
        that is found are left out.
        """
        if self._automaton is None:
            return self.whole(text)
        try:
            found = self._automaton.find_matches_as_indexes(text, overlapping=True)
        except UnicodeEncodeError:
            # Halves of surrogate pairs stand in no term, and cannot be looked through.
            whole = _HALVES.sub("\uffff", text)
            found = self._automaton.find_matches_as_indexes(whole, overlapping=True)
        if not found:
            return self.whole(text)
        kept: list[tuple[int, int, int]] = []
        for number, start, end in sorted(found, key=lambda one: (one[1] - one[2], one[1])):
            if not any(s <= start and end <= e for _, s, e in kept):
                kept.append((number, start, end))
        return tuple(dict.fromkeys(self._inside[number] for number, _, _ in kept))
