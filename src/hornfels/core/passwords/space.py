"""How many passwords the rules of a policy leave, counted exactly (domain rules §5, §10)."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import combinations

from hornfels.core.passwords.characters import DIGITS, SYMBOLS
from hornfels.core.passwords.rules.complexity import GROUPS_WANTED

KEYBOARD = (26, 26, len(DIGITS), len(SYMBOLS))
"""Characters of each group that a keyboard writes without more: A–Z, a–z, 0–9, symbols."""
IN_NO_GROUP = 1
"""The space."""


def passwords_of(
    length: int,
    groups_wanted: int,
    groups: Sequence[int] = KEYBOARD,
    in_no_group: int = IN_NO_GROUP,
) -> int:
    """How many texts of exactly `length` characters have some of at least `groups_wanted` of the
    groups, of which each has so many characters; `in_no_group` more may stand anywhere.
    """
    return sum(
        _from_all_of(chosen, in_no_group, length)
        for many in range(groups_wanted, len(groups) + 1)
        for chosen in combinations(groups, many)
    )


def _from_all_of(groups: Sequence[int], in_no_group: int, length: int) -> int:
    """Texts over these groups alone that have some of each (inclusion–exclusion)."""
    return sum(
        (-1) ** (len(groups) - many) * (sum(chosen) + in_no_group) ** length
        for many in range(len(groups) + 1)
        for chosen in combinations(groups, many)
    )


def left_by(length: int, *, complexity: bool) -> int:
    """How many passwords of a policy's minimum length a keyboard writes that its rules accept."""
    return passwords_of(length, GROUPS_WANTED if complexity else 0)
