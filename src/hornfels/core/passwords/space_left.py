"""How much of what a keyboard writes the rules of a path leave: whether they shrink what has to be
guessed (domain rules §9, §10).
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from functools import cache, lru_cache
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
    Words,
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
LONGEST = 256
"""Characters of a text that is counted: no directory takes more."""
LONGEST_IN_WORDS = 64
"""Where words are asked for, which takes many times longer."""
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
    """The space of a path; None where nothing is left, or its shortest text is too long to be
    counted. `rules` are those asked, compiled.
    """
    needs = needs_of(settings, asked)
    size = max(needs.shortest, needs.fewest_in_words, 1)
    if size > (LONGEST_IN_WORDS if needs.words else LONGEST):
        return None
    natively = texts_of(size, replace(needs_of(settings), shortest=0))
    counted = texts_of(size, needs)
    if not counted or not natively:
        return None
    others = [rule for one, rule in zip(asked, rules, strict=True) if not _is_counted(one)]
    share = _share(size, needs, others, random) if others else 1.0
    return SpaceLeft(size, log2(natively), log2(counted) + log2(share), not others)


def _is_counted(one: Asked) -> bool:
    # Whether two words are one is not counted: texts are drawn for that.
    return isinstance(one, _COUNTED) or (isinstance(one, Words) and not one.distinct)


def texts_of(length: int, needs: Needs) -> int:
    """How many texts of exactly `length` characters a keyboard writes that keep what is counted:
    characters of each kind, groups, both ends, none that is forbidden, words.
    """
    if needs.least.get("caseless", 0):
        return 0
    sizes = {group: len(held - needs.forbidden) for group, held in _KEYBOARD.items()}
    if length == 0 or not (needs.not_first or needs.not_last):
        return _inner(length, needs, sizes, ())
    if length == 1:
        # The first one is the last one too.
        shut = needs.not_first | needs.not_last
        alone = (group for group in _KEYBOARD if not _kinds(group) & shut)
        return sum(sizes[group] * _inner(0, needs, sizes, (group,)) for group in alone)
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
                    found += _arranged(length, count, there, needs) * many * more
    return found


def _arranged(length: int, letters: int, there: tuple[_Group, ...], needs: Needs) -> int:
    """In how many ways so many letters can stand among the characters, where a first and a last one
    may be `there` besides, so that there are words enough.
    """
    if not needs.words:
        return comb(length, letters)
    ends = tuple(group in _LETTERS for group in there)
    return _arrangements(length, ends, needs.words, needs.letters)[letters]


@lru_cache(maxsize=64)
def _arrangements(length: int, ends: tuple[bool, ...], words: int, shortest: int) -> list[int]:
    """By the number of letters among so many characters: in how many ways they can stand."""
    # By letters used, letters in a row, and words so far: in how many ways.
    so_far = {(0, 0, 0): 1}
    for place in range(length + len(ends)):
        fixed = ends and place in (0, length + 1)
        kinds = (ends[0 if place == 0 else 1],) if fixed else (True, False)
        fresh: dict[tuple[int, int, int], int] = {}
        for (used, row, found), ways in so_far.items():
            for letter in kinds:
                now = used + (letter and not fixed)
                state = (now, *_step(row, found, letter, words, shortest))
                fresh[state] = fresh.get(state, 0) + ways
        so_far = fresh
    found_by_letters = [0] * (length + 1)
    for (used, _, found), ways in so_far.items():
        found_by_letters[used] += ways if found >= words else 0
    return found_by_letters


def _step(row: int, found: int, letter: bool, words: int, shortest: int) -> tuple[int, int]:
    """Letters in a row and words, after one more character: both no further than they matter."""
    if not letter:
        return 0, found
    row = min(row + 1, shortest + 1)
    return row, min(found + (row == shortest), words)


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
    """Texts of a keyboard with the words that are asked for, each as likely as any other; what is
    counted else matters little to what the other rules look for, and is left aside.
    """
    letters, others = (
        sorted(frozenset().union(*(_KEYBOARD[group] for group in groups)) - needs.forbidden)
        for groups in (_LETTERS, _OTHERS)
    )

    @cache
    def ways(left: int, row: int, found: int) -> int:
        """The texts that can still come of it."""
        if not left:
            return found >= needs.words
        return sum(
            len(of) * ways(left - 1, *_step(row, found, letter, needs.words, needs.letters))
            for letter, of in ((True, letters), (False, others))
        )

    for _ in range(TRIED if ways(length, 0, 0) else 0):
        text, row, found = "", 0, 0
        while (left := length - len(text)) > 0:
            after = _step(row, found, True, needs.words, needs.letters)
            share = len(letters) * ways(left - 1, *after) / ways(left, row, found)
            letter = random.random() < share
            text += random.choice(letters if letter else others)
            row, found = _step(row, found, letter, needs.words, needs.letters)
        yield text
