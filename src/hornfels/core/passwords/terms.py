"""Terms that must not stand in a password, by the hundred thousand: found in one pass over the
folded candidate (Aho and Corasick).
"""

from __future__ import annotations

from collections.abc import Iterable
from typing import NamedTuple

from ahocorasick_rs import AhoCorasick, Implementation

from hornfels.core.passwords.folding import folded

SHORTEST = 3
"""Folded characters; shorter terms count only as a whole."""


class Term(NamedTuple):
    """A term as it was given, and the list that it is from."""

    text: str
    list: str


class Terms:
    """Terms of several lists, each in the form in which candidates are searched. A term that is in
    more than one is of the first; one that folds to nothing is none.
    """

    __slots__ = ("_automaton", "_inside", "_whole", "terms")

    def __init__(self, lists: Iterable[tuple[str, Iterable[str]]]) -> None:
        found: dict[str, Term] = {}
        for name, terms in lists:
            for text in terms:
                found.setdefault(folded(text.strip()), Term(text.strip(), name))
        found.pop("", None)
        self.terms = tuple(found.values())
        self._whole = {form: number for number, form in enumerate(found)}
        long = [(form, number) for form, number in self._whole.items() if len(form) >= SHORTEST]
        self._inside = [number for _, number in long]
        self._automaton = (
            AhoCorasick([form for form, _ in long], implementation=Implementation.ContiguousNFA)
            if long
            else None
        )

    def __len__(self) -> int:
        return len(self.terms)

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
        found = self._automaton.find_matches_as_indexes(text, overlapping=True)
        if not found:
            return self.whole(text)
        kept: list[tuple[int, int, int]] = []
        for number, start, end in sorted(found, key=lambda one: (one[1] - one[2], one[1])):
            if not any(s <= start and end <= e for _, s, e in kept):
                kept.append((number, start, end))
        return tuple(dict.fromkeys(self._inside[number] for number, _, _ in kept))
