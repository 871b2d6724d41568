"""Exact facts about the characters of a password (domain rules §5)."""

from __future__ import annotations

import sys
import unicodedata
from collections.abc import Iterable
from functools import cache, lru_cache
from typing import Literal, NamedTuple

from hornfels.core.passwords.folding import folded as look_of
from hornfels.core.values.dn import fold

CharacterGroup = Literal["upper", "lower", "digit", "symbol", "caseless"]

GROUP_LABELS: dict[CharacterGroup, str] = {
    "upper": "uppercase letters",
    "lower": "lowercase letters",
    "digit": "digits",
    "symbol": "symbols",
    "caseless": "letters without case",
}

DIGITS = frozenset("0123456789")
SYMBOLS = frozenset("!\"#$%&'()*+,-./:;<=>?@[\\]^_`{|}~")


def length(text: str) -> int:
    """UTF-16 code units, without normalisation, as the directory counts."""
    return len(text) if text.isascii() else len(text.encode("utf-16-le", "surrogatepass")) // 2


@cache
def _lowercase_targets() -> frozenset[str]:
    """Characters that are the lowercase form of another, such as ß (of ẞ), which has no single
    uppercase form of its own.
    """
    found: set[str] = set()
    for start in range(0, sys.maxunicode + 1, 256):
        row = "".join(map(chr, range(start, start + 256)))
        # Almost every row of Unicode has no capitals at all, which one comparison tells.
        if row.lower() != row:
            found.update(low for c in row if (low := c.lower()) != c and len(low) == 1)
    return frozenset(found)


def group_of(character: str) -> CharacterGroup | None:
    """The group that one character counts for by the specification, None if for none.

    Upper and lower go by simple case mapping; a titlecase letter (ǅ) is neither and counts as one
    without case.
    """
    if character.isascii():
        if "a" <= character <= "z":
            return "lower"
        if "A" <= character <= "Z":
            return "upper"
        if "0" <= character <= "9":
            return "digit"
        return "symbol" if character in SYMBOLS else None
    return _group_beyond_ascii(character)


_DOTTED_CAPITAL_I = "\u0130"
"""The only capital whose full lowercase form is longer than its simple one (Unicode SpecialCasing).
"""


@lru_cache(maxsize=65_536)
def _group_beyond_ascii(character: str) -> CharacterGroup | None:
    if unicodedata.category(character) == "Lt":
        return "caseless"
    lower, upper = character.lower(), character.upper()
    if (lower != character and len(lower) == 1) or character == _DOTTED_CAPITAL_I:
        return "upper"
    if (upper != character and len(upper) == 1) or character in _lowercase_targets():
        return "lower"
    return "caseless" if character.isalpha() else None


_GROUPS: tuple[CharacterGroup, ...] = tuple(GROUP_LABELS)
_UPPER, _LOWER, _DIGIT, _SYMBOL = (1 << n for n in range(4))
_BIT: dict[CharacterGroup | None, int] = {None: 0} | {
    group: 1 << n for n, group in enumerate(_GROUPS)
}
_SETS = tuple(
    frozenset(g for n, g in enumerate(_GROUPS) if mask >> n & 1)
    for mask in range(1 << len(_GROUPS))
)
_NO_DIGIT, _NO_SYMBOL = DIGITS.isdisjoint, SYMBOLS.isdisjoint


def _mask(text: str, folded: str) -> int:
    """The groups of a text as bits. ASCII goes by whole-string operations: streams of candidates
    are almost all ASCII.
    """
    if not text.isascii():
        mask = 0
        for character in set(text):
            mask |= _BIT[group_of(character)]
        return mask
    mask = _LOWER if folded != text else 0
    if text.lower() != text:
        mask |= _UPPER
    if not _NO_DIGIT(text):
        mask |= _DIGIT
    return mask if _NO_SYMBOL(text) else mask | _SYMBOL


def groups_in(text: str) -> frozenset[CharacterGroup]:
    """The groups that a text has characters of."""
    return _SETS[_mask(text, text.upper())]


def more_lenient_elsewhere(text: str) -> list[str]:
    """Characters that count for nothing by the specification, but as letters without case on some
    servers.
    """
    return sorted(
        {
            c
            for c in text
            if not c.isascii() and group_of(c) is None and not 0xD800 <= ord(c) <= 0xDFFF
        }
    )


class StripPart(NamedTuple):
    """One character of a candidate: its group and how much it counts for the length, never the
    character itself.
    """

    group: CharacterGroup | None
    units: int


def strip(text: str) -> list[StripPart]:
    """Every character (Unicode code point) of a text in its order. The units add up to `length`."""
    return [StripPart(group_of(c), 2 if ord(c) > 0xFFFF else 1) for c in text]


class Variety(NamedTuple):
    """The groups of a candidate, and whether some servers count one more than the specification."""

    groups: frozenset[CharacterGroup]
    lenient: bool


_VARIETIES = tuple(tuple(Variety(groups, lenient) for lenient in (False, True)) for groups in _SETS)


_KINDS: dict[CharacterGroup | None, int] = {None: 255} | {
    group: number for number, group in enumerate(_GROUPS)
}
_KIND_OF = bytes(_KINDS[group_of(chr(code))] if code < 128 else 255 for code in range(256))


def kind_numbers(groups: Iterable[CharacterGroup]) -> bytes:
    """Groups as `Candidate.kinds` writes them."""
    return bytes(_KINDS[group] for group in groups)


class Candidate:
    """A candidate password and what the rules measure of it, each found once."""

    __slots__ = ("_kinds", "_look", "folded", "text", "units", "variety")

    def __init__(self, text: str) -> None:
        self.text = text
        self._look: str | None = None
        self._kinds: bytes | None = None
        self.folded = fold(text)
        """The text for comparison without regard to case."""
        self.units = length(text)
        self.variety = _VARIETIES[_mask(text, self.folded)][
            not text.isascii() and bool(more_lenient_elsewhere(text))
        ]

    @property
    def look(self) -> str:
        """The text as it looks at a glance (see `hornfels.core.passwords.folding`)."""
        if self._look is None:
            self._look = look_of(self.text)
        return self._look

    @property
    def kinds(self) -> bytes:
        """The group of each character, by its place among the groups; 255 for none."""
        if self._kinds is None:
            if self.text.isascii():
                self._kinds = self.text.encode().translate(_KIND_OF)
            else:
                self._kinds = bytes(_KINDS[group_of(c)] for c in self.text)
        return self._kinds

    def __repr__(self) -> str:
        return f"<candidate of {self.units} units>"
