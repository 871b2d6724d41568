"""Texts drawn at random that come near to what a policy and a path of its addition ask together:
most of the rules are met by how they are made, the others by drawing again.
"""

from __future__ import annotations

import re
import warnings
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from math import inf
from random import Random

from rstr import Rstr

from hornfels.core.passwords.characters import CharacterGroup, group_of
from hornfels.core.passwords.rules.complexity import GROUPS_WANTED
from hornfels.core.passwords.rules.counts import is_of
from hornfels.core.passwords.words import WORDS
from hornfels.core.policy.addition import (
    Asked,
    Edge,
    Forbid,
    GroupCount,
    Kind,
    KindCount,
    LengthRange,
    Pattern,
    Words,
)
from hornfels.core.policy.model import Settings

POOLS: dict[CharacterGroup, str] = {
    "lower": "bcdfghjkmnpqrstvwxz",
    "digit": "23456789",
    "upper": "BCDFGHJKLMNPQRSTVWXZ",
    "symbol": "-+!?#=",
    "caseless": "山川木林火石",
}
"""Small and capital consonants, digits and symbols: nothing that reads as a word."""
_SEPARATORS = "-.+= "
_FIRST: tuple[CharacterGroup, ...] = ("lower",)
_WHOLES: tuple[tuple[Kind, tuple[CharacterGroup, ...]], ...] = (
    ("letter", ("lower", "upper", "caseless")),
    ("other", ("digit", "symbol")),
)
"""Kinds that several groups make up."""


@dataclass(frozen=True, slots=True)
class Needs:
    """What a text has to have, as far as drawing can be led by it."""

    shortest: int = 0
    longest: int | None = None
    groups: int = 0
    least: Mapping[Kind, int] = field(default_factory=dict)
    most: Mapping[Kind, int] = field(default_factory=dict)
    not_first: frozenset[Kind] = frozenset()
    not_last: frozenset[Kind] = frozenset()
    forbidden: frozenset[str] = frozenset()
    words: int = 0
    letters: int = 1
    distinct: bool = False
    patterns: tuple[str, ...] = ()
    """Expressions that have to be found."""

    def contradiction(self) -> str:
        """Why no text can have it all, "" if some can: what is asked at least is more than what is
        asked at most.
        """
        least = _totals(self.least)
        for kind, most in self.most.items():
            if least.get(kind, 0) > most:
                return f"at least {least[kind]} of what there may be {most} of"
        fewest = max(least["letter"] + least["other"], self.fewest_in_words)
        between = self.most.get("other")
        if between is not None and self.words - 1 > between:
            return f"{self.words} words where {between} characters may stand between letters"
        if self.longest is not None and max(fewest, self.shortest) > self.longest:
            return f"at least {max(fewest, self.shortest)} characters where {self.longest} may be"
        closed = {group for group in POOLS if _Counts(self).room(group) == 0}
        if len(POOLS) - len(closed) < self.groups:
            return f"{self.groups} groups where {len(POOLS) - len(closed)} may be"
        return ""

    @property
    def fewest_in_words(self) -> int:
        """The characters that its words take, with one between two of them."""
        return self.words * self.letters + max(0, self.words - 1)


@dataclass(slots=True)
class _Counts:
    """How many characters of each group a text is to have, and how many more may come."""

    needs: Needs
    of: dict[CharacterGroup, int] = field(default_factory=dict)

    def room(self, group: CharacterGroup) -> float:
        whole, beside = next(one for one in _WHOLES if group in one[1])
        most = self.needs.most
        alone = most.get(group, inf) - self.of.get(group, 0)
        together = most.get(whole, inf) - sum(self.of.get(g, 0) for g in beside)
        return max(0, min(alone, together))

    def take(self, group: CharacterGroup, count: int = 1) -> bool:
        if count > self.room(group) or not self.pool(group):
            return False
        self.of[group] = self.of.get(group, 0) + count
        return True

    def pool(self, group: CharacterGroup) -> str:
        """The characters of a group that are drawn."""
        return "".join(c for c in POOLS[group] if c not in self.needs.forbidden)

    def take_least(self) -> bool:
        """All that is asked at least; False if there is no room for it."""
        least = self.needs.least
        for group in POOLS:
            if least.get(group) and not self.take(group, least[group]):
                return False
        for whole, groups in _WHOLES:
            for _ in range(least.get(whole, 0) - sum(self.of.get(g, 0) for g in groups)):
                if not any(self.take(group) for group in groups):
                    return False
        return True


def needs_of(settings: Settings | None, asked: Sequence[Asked] = ()) -> Needs:
    """What a policy's own rules and those of a path ask together."""
    shortest = settings.min_length if settings else 0
    groups = GROUPS_WANTED if settings and settings.complexity else 0
    longest: int | None = None
    least: dict[Kind, int] = {}
    most: dict[Kind, int] = {}
    first: set[Kind] = set()
    last: set[Kind] = set()
    forbidden: set[str] = set()
    words, letters, distinct = 0, 1, False
    patterns: list[str] = []
    for one in asked:
        match one:
            case LengthRange(low, high):
                shortest = max(shortest, low)
                longest = high if longest is None else min(longest, high or longest)
            case GroupCount(count):
                groups = max(groups, count)
            case KindCount(kind, low, high):
                least[kind] = max(least.get(kind, 0), low)
                if high is not None:
                    most[kind] = min(most.get(kind, high), high)
            case Edge(begins, ends):
                first |= set(begins)
                last |= set(ends)
            case Forbid(characters):
                forbidden |= set(characters)
            case Words(count, long, apart):
                words, letters = max(words, count), max(letters, long)
                distinct = distinct or apart
            case Pattern(expression, must) if must:
                patterns.append(expression)
            case _:
                pass  # drawn again where it is not met
    return Needs(
        shortest,
        longest,
        groups,
        least,
        most,
        frozenset(first),
        frozenset(last),
        frozenset(forbidden),
        words,
        letters,
        distinct,
        tuple(patterns),
    )


def characters(
    needs: Needs, random: Random, length: int | None = None, only: int | None = None
) -> str | None:
    """Random characters: as few as may be, or so many; of `only` so many groups where that is
    given. None where what is needed has no room.
    """
    counts = _Counts(needs)
    wanted = needs.groups if only is None else only
    if not counts.take_least():
        return None
    for group in POOLS:
        if len(counts.of) < wanted and group not in counts.of:
            counts.take(group)
    total = sum(counts.of.values())
    size = max(needs.shortest, total) if length is None else length
    if len(counts.of) < wanted or total > size:
        return None
    spread = list(counts.of) if only is not None else [*dict.fromkeys([*counts.of, *_FIRST])]
    while sum(counts.of.values()) < size:
        open_now = [group for group in spread if counts.room(group) and counts.pool(group)]
        if open_now:
            counts.take(random.choice(open_now))
            continue
        more = next((g for g in POOLS if g not in spread), None)
        if only is not None or more is None:
            return None
        spread.append(more)
    drawn = [random.choice(counts.pool(g)) for g, count in counts.of.items() for _ in range(count)]
    random.shuffle(drawn)
    return _with_ends(drawn, needs)


def phrase(
    needs: Needs, random: Random, words: int | None = None, pool: Sequence[str] = WORDS
) -> str | None:
    """Random words, with the capitals, digits and symbols that are needed. None where they have no
    room.
    """
    counts = _Counts(needs)
    fitting = words_for(needs, pool)
    count = max(needs.words, 1) if words is None else words
    if len(fitting) < max(count, 1):
        return None
    chosen = random.sample(fitting, count) if needs.distinct else random.choices(fitting, k=count)
    while words is None and len(" ".join(chosen)) < needs.shortest:
        chosen.append(random.choice(fitting))
    capitals = max(needs.least.get("upper", 0), int(needs.groups > 1))
    digits = max(needs.least.get("digit", 0), int(needs.groups > 3))
    between = max(needs.least.get("other", 0), needs.least.get("symbol", 0)) - digits
    separator = next(
        (
            s
            for s in _SEPARATORS
            if s not in needs.forbidden and (group_of(s) is None or counts.room("symbol"))
        ),
        None,
    )
    if separator is None or count == 0:
        return None
    parts = [word.capitalize() if n < capitals else word for n, word in enumerate(chosen)]
    if "upper" in needs.not_first:
        parts = parts[::-1]
    if digits:
        number = "".join(random.choices(counts.pool("digit") or "2", k=digits))
        parts.insert(random.randint(1, len(parts)) if "digit" in needs.not_first else 1, number)
    text = separator.join(parts)
    missing = between - text.count(separator)
    if missing > 0:
        symbols = "".join(random.choices(counts.pool("symbol") or separator, k=missing))
        text = text.replace(separator, separator + symbols, 1)
    return text


def text(needs: Needs, random: Random) -> str | None:
    """A text of words where those are needed, else of characters, with what has to be found in it.
    None where what is needed has no room.
    """
    return with_matches(
        phrase(needs, random) if needs.words else characters(needs, random), needs, random
    )


def words_for(needs: Needs, pool: Sequence[str] = WORDS) -> list[str]:
    """The words that may stand in a phrase."""
    return [w for w in pool if len(w) >= needs.letters and not needs.forbidden & set(w)]


def with_matches(drawn: str | None, needs: Needs, random: Random) -> str | None:
    """A text with something in it for each expression that has to be found."""
    for pattern in needs.patterns if drawn is not None else ():
        sample = matching(pattern, random)
        if sample is not None:
            drawn = placed(drawn or "", sample, random)
    return drawn


def matching(expression: str, random: Random) -> str | None:
    """A text that an expression is found in; None for one that is beyond what is drawn from."""
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("error")
            return str(Rstr(random).xeger(expression))
    except (re.error, FutureWarning, RecursionError, OverflowError):
        return None


def placed(drawn: str, inside: str, random: Random) -> str:
    """A text put before, behind or into another."""
    return random.choice([inside + drawn, drawn + inside, within(drawn, inside, random)])


def within(text: str, inside: str, random: Random) -> str:
    """A text put somewhere into another, at neither end where that can be."""
    at = random.randint(min(1, len(text)), max(min(1, len(text)), len(text) - 1))
    return text[:at] + inside + text[at:]


def _with_ends(drawn: list[str], needs: Needs) -> str | None:
    """The characters with ones at both ends that may stand there."""
    for place, kinds in ((0, needs.not_first), (-1, needs.not_last)):
        if not drawn or not any(is_of(drawn[place], kind) for kind in kinds):
            continue
        other = next(
            (
                n
                for n, c in enumerate(drawn)
                if not any(is_of(c, kind) for kind in kinds)
                and (place == 0 or n > 0 or not any(is_of(drawn[-1], k) for k in needs.not_first))
            ),
            None,
        )
        if other is None:
            return None
        drawn[place], drawn[other] = drawn[other], drawn[place]
    return "".join(drawn)


def _totals(least: Mapping[Kind, int]) -> dict[Kind, int]:
    """What is asked at least of each kind, with that of the kinds in it."""
    found = dict(least)
    for whole, groups in _WHOLES:
        found[whole] = max(least.get(whole, 0), sum(least.get(group, 0) for group in groups))
    return found
