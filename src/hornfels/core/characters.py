"""Exact facts about the characters of a password (domain rules §5)."""

from __future__ import annotations

import sys
from functools import cache
from typing import Literal

CharacterGroup = Literal["upper", "lower", "digit", "symbol", "caseless"]

GROUP_LABELS: dict[CharacterGroup, str] = {
    "upper": "uppercase letters",
    "lower": "lowercase letters",
    "digit": "digits",
    "symbol": "symbols",
    "caseless": "letters without case",
}

SYMBOLS = frozenset("!\"#$%&'()*+,-./:;<=>?@[\\]^_`{|}~")


def length(text: str) -> int:
    """UTF-16 code units, without normalisation, as the directory counts."""
    return len(text) if text.isascii() else len(text.encode("utf-16-le", "surrogatepass")) // 2


@cache
def _lowercase_targets() -> frozenset[str]:
    """Characters that are the lowercase form of another, such as ß (of ẞ), which has no single uppercase form of its own."""
    cased = (chr(c) for c in range(128, sys.maxunicode + 1) if chr(c).lower() != chr(c))
    return frozenset(low for c in cased if len(low := c.lower()) == 1)


def group_of(character: str) -> CharacterGroup | None:
    """The group that one character counts for by the specification, None if for none.

    Upper and lower go by simple case mapping; a character with both mappings (a titlecase digraph) counts as uppercase.
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


@cache
def _group_beyond_ascii(character: str) -> CharacterGroup | None:
    lower, upper = character.lower(), character.upper()
    if lower != character and len(lower) == 1:
        return "upper"
    if (upper != character and len(upper) == 1) or character in _lowercase_targets():
        return "lower"
    return "caseless" if character.isalpha() else None


def groups_in(text: str) -> set[CharacterGroup]:
    """The groups that a text has characters of."""
    found = {group_of(c) for c in set(text)}
    found.discard(None)
    return found  # type: ignore[return-value]


def more_lenient_elsewhere(text: str) -> list[str]:
    """Characters that count for nothing by the specification, but as letters without case on some servers."""
    return sorted({c for c in text if not c.isascii() and group_of(c) is None and not 0xD800 <= ord(c) <= 0xDFFF})
