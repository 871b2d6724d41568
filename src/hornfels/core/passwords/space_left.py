"""How much of what a keyboard writes the rules of a path leave: whether they shrink what has to be
guessed (domain rules §9, §10).
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from itertools import product
from math import comb, log2
from random import Random

from hornfels.core.passwords.additions import OnPath
from hornfels.core.passwords.characters import DIGITS, SYMBOLS, Candidate, CharacterGroup
from hornfels.core.passwords.drawing import Needs, needs_of
from hornfels.core.passwords.rules.rule import ANYBODY, Judgement, Occasion
from hornfels.core.policy.addition import (
    Asked,
    Edge,
    Forbid,
    GroupCount,
    Kind,
    KindCount,
    LengthRange,
)
from hornfels.core.policy.model import Settings

_LOWER = frozenset("abcdefghijklmnopqrstuvwxyz")
_KEYBOARD: dict[CharacterGroup | None, frozenset[str]] = {
    "lower": _LOWER,
    "upper": frozenset(c.upper() for c in _LOWER),
    "digit": DIGITS,
    "symbol": SYMBOLS,
    None: frozenset(" "),
}
_Group = CharacterGroup | None
_LETTERS: tuple[_Group, ...] = ("lower", "upper")
_OTHERS: tuple[_Group, ...] = ("digit", "symbol", None)
_COUNTED = (LengthRange, GroupCount, KindCount, Edge, Forbid)
TRIED = 2_000
"""Texts drawn to tell how many the rules refuse that cannot be counted."""


@dataclass(frozen=True, slots=True)
class SpaceLeft:
    """Of ``length`` characters, the shortest that the path takes: what the directory's own rules
    leave of all that a keyboard writes, and what the path does, as log₂. ``counted`` unless a part
    was told from texts that were drawn.
    """

    length: int
    natively: float
    left: float
    counted: bool


def space_left(
    settings: Settings, asked: Sequence[Asked], rules: Sequence[OnPath], random: Random
) -> SpaceLeft | None:
    """The space of a path; None where nothing is left, or words are asked for, which nobody draws
    character by character. `rules` are those asked, compiled.
    """
    needs = needs_of(settings, asked)
    size = max(needs.shortest, 1)
    natively = texts_of(size, replace(needs_of(settings), shortest=0))
    counted = texts_of(size, needs)
    if not counted or not natively or needs.words:
        return None
    others = [rule for one, rule in zip(asked, rules, strict=True) if not isinstance(one, _COUNTED)]
    share = _share(size, needs, others, random) if others else 1.0
    return SpaceLeft(size, log2(natively), log2(counted) + log2(share), not others)


def texts_of(length: int, needs: Needs) -> int:
    """How many texts of exactly `length` characters a keyboard writes that keep what is counted:
    characters of each kind, groups, both ends, none that is forbidden.
    """
    if needs.least.get("caseless", 0):
        return 0
    sizes = {group: len(held - needs.forbidden) for group, held in _KEYBOARD.items()}
    if length < 2 or not (needs.not_first or needs.not_last):
        return _inner(length, needs, sizes, ())
    found = 0
    for first, last in product(_KEYBOARD, repeat=2):
        if _kinds(first) & needs.not_first or _kinds(last) & needs.not_last:
            continue
        ends = sizes[first] * sizes[last]
        found += ends * _inner(length - 2, needs, sizes, (first, last)) if ends else 0
    return found


def _kinds(group: _Group) -> set[Kind]:
    whole: Kind = "letter" if group in _LETTERS else "other"
    return {whole, group} if group else {whole}


def _inner(length: int, needs: Needs, sizes: dict[_Group, int], there: tuple[_Group, ...]) -> int:
    """Texts of so many characters, where some are `there` besides."""
    letters, others = (_ways(length, of, needs, sizes, there) for of in (_LETTERS, _OTHERS))
    found = 0
    for count, ways in letters.items():
        for mask, many in ways.items():
            for beside, more in others.get(length - count, {}).items():
                if len({*mask, *beside}) >= needs.groups:
                    found += comb(length, count) * many * more
    return found


_Masks = dict[frozenset[str], int]


def _ways(
    most: int,
    groups: tuple[_Group, ...],
    needs: Needs,
    sizes: dict[_Group, int],
    there: tuple[_Group, ...],
) -> dict[int, _Masks]:
    """By how many characters, and which groups are among them: the texts over these groups."""
    whole: Kind = "letter" if groups == _LETTERS else "other"
    ways: dict[int, _Masks] = {0: {frozenset(): 1}}
    for group in groups:
        held = there.count(group)
        fresh: dict[int, _Masks] = {}
        for count, masks in ways.items():
            for more in range(most - count + 1):
                if not _within(needs, group, more + held):
                    continue
                many = comb(count + more, more) * sizes[group] ** more
                mine = frozenset({group}) if group and more + held else frozenset[str]()
                into = fresh.setdefault(count + more, {})
                for mask, number in masks.items():
                    into[mask | mine] = into.get(mask | mine, 0) + number * many
        ways = fresh
    held = sum(there.count(group) for group in groups)
    return {count: masks for count, masks in ways.items() if _within(needs, whole, count + held)}


def _within(needs: Needs, kind: Kind | None, count: int) -> bool:
    if kind is None:
        return True
    most = needs.most.get(kind)
    return count >= needs.least.get(kind, 0) and (most is None or count <= most)


def _share(length: int, needs: Needs, rules: Sequence[OnPath], random: Random) -> float:
    """How many of the texts that keep what is counted keep the others too; at least half a text of
    those that were drawn, where none did.
    """
    asked = [rule.ask(ANYBODY, Occasion("reset", 0, 0)) for rule in rules]
    kept = tried = 0
    for text in _drawn(length, needs, random):
        candidate = Candidate(text)
        tried += 1
        kept += all(
            (one if isinstance(one, Judgement) else one.judge(candidate)).status != "failed"
            for one in asked
        )
    return max(kept, 0.5) / max(tried, 1)


def _drawn(length: int, needs: Needs, random: Random) -> Iterator[str]:
    """Texts of a keyboard, each as likely as any other; what is counted matters little to what the
    other rules look for, and is left aside.
    """
    alphabet = sorted(frozenset().union(*_KEYBOARD.values()) - needs.forbidden)
    for _ in range(TRIED):
        yield "".join(random.choices(alphabet, k=length))
