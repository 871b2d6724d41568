"""Passwords that a policy accepts, drawn at random, with the number of bits that an attacker who
knows how would have to guess.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from math import ceil, log2
from random import Random
from typing import Literal

from hornfels.core.passwords.boundaries import LONGEST_DRAWN
from hornfels.core.passwords.characters import Candidate, group_of
from hornfels.core.passwords.drawing import (
    POOLS,
    Needs,
    characters,
    needs_of,
    phrase,
    with_matches,
    words_for,
)
from hornfels.core.passwords.judge import Judge, compile_policy, judge
from hornfels.core.passwords.rules.own_name import OwnName
from hornfels.core.passwords.rules.rule import Occasion, Rule, Subject
from hornfels.core.passwords.words import WORDS
from hornfels.core.policy.addition import Addition
from hornfels.core.policy.model import Settings
from hornfels.core.values.dn import fold

Kind = Literal["phrase", "blocks"]
KINDS: tuple[Kind, ...] = ("phrase", "blocks")

UPPER, LOWER, DIGITS = "ABCDEFGHJKLMNPQRSTUVWXYZ", "abcdefghijkmnopqrstuvwxyz", "23456789"
"""Without the characters that are taken for one another: I, O, l, 0 and 1."""

SEPARATORS = "-.+="
PHRASE_BITS = 50
FEWEST_IN_BLOCKS = 12
BLOCK = 4
MOST_DRAWS = 10_000
MOST_BESIDES, TO_JUDGE_BY = 2_000, 32
"""Draws for a path of an addition, and those by which it is told how many are accepted."""


@dataclass(frozen=True, slots=True)
class Suggestion:
    """A password, how it was made, and its strength: log₂ of the equally likely others that could
    have come out, rounded down.
    """

    kind: Kind
    text: str = field(repr=False)
    bits: int


class NoSuggestionError(ValueError):
    """Nothing was accepted however often it was drawn."""


def suggest(
    settings: Settings,
    subject: Subject,
    previous: Sequence[str | None],
    kind: Kind,
    random: Random,
    addition: Addition | None = None,
    beyond: Sequence[Rule] = (),
) -> Suggestion:
    """A password that the policy accepts for this account and that is none of the earlier ones.
    `beyond` are the rules of its addition, compiled.

    Raises `NoSuggestionError` if the account's names leave nothing to draw, or the policy asks for
    more than there is, or than was drawn.
    """
    if settings.min_length > LONGEST_DRAWN:
        raise NoSuggestionError(
            f"A minimum of {settings.min_length:,} characters is more than any password has."
        )
    if addition is not None:
        rules = (*compile_policy(settings), *beyond)
        return _besides(settings, addition, rules, subject, previous, kind, random)
    names = OwnName(settings.complexity).folded(subject)
    separator = next((s for s in SEPARATORS if not any(s in name for name in names)), SEPARATORS[0])
    rules = compile_policy(settings)
    moment = Occasion("change", 0, 0, [p for p in previous if p is not None])
    draw = _phrase if kind == "phrase" else _blocks
    text, possible = draw(settings.min_length, names, separator, random)
    for _ in range(MOST_DRAWS):
        if judge(rules, text, subject, moment).accepted:
            return Suggestion(kind, text, int(log2(max(1, possible - len(previous)))))
        text, possible = draw(settings.min_length, names, separator, random)
    raise NoSuggestionError("The names of this account leave no password of this kind.")


def _besides(
    settings: Settings,
    addition: Addition,
    rules: Sequence[Rule],
    subject: Subject,
    previous: Sequence[str | None],
    kind: Kind,
    random: Random,
) -> Suggestion:
    """One that keeps a path of an addition too. How many are equally likely is worked out from how
    many of those drawn were accepted, a bit to the safe side.
    """
    moment = Occasion("change", 0, 0, [p for p in previous if p is not None])
    judge_one = Judge(rules, subject, moment, lambda verdict: verdict.accepted)
    for path, asked in sorted(addition.paths(), reverse=kind == "phrase"):
        needs = needs_of(settings, asked)
        if kind == "blocks" and (needs.words or path == "phrase"):
            continue
        found: list[tuple[str, float]] = []
        for turn in range(MOST_BESIDES):
            if turn >= TO_JUDGE_BY and found:
                break
            drawn = (_words if kind == "phrase" else _characters)(needs, random)
            if drawn and judge_one(Candidate(drawn[0])):
                found.append(drawn)
        if found:
            text, bits = found[0]
            bits += log2(len(found) / max(turn, TO_JUDGE_BY)) - 1
            return Suggestion(kind, text, max(0, int(bits)))
    raise NoSuggestionError("Nothing was drawn that keeps all the rules of a path.")


def _words(needs: Needs, random: Random) -> tuple[str, float] | None:
    pool = len(words_for(needs))
    if pool < 2:
        return None
    count = max(needs.words, ceil(PHRASE_BITS / log2(pool)))
    text = with_matches(phrase(replace(needs, words=count), random), needs, random)
    # Each word less of those that are left, where none may come twice.
    return (text, sum(log2(max(1, pool - n)) for n in range(count))) if text else None


def _characters(needs: Needs, random: Random) -> tuple[str, float] | None:
    size = max(FEWEST_IN_BLOCKS, needs.shortest)
    if needs.longest is not None:
        size = min(size, needs.longest)
    drawn = characters(replace(needs, groups=max(needs.groups, 2)), random, size)
    if drawn is None:
        return None
    bits = sum(log2(len(POOLS[group])) for c in drawn if (group := group_of(c)))
    text = with_matches(drawn, needs, random)
    return (text, bits) if text else None


def _phrase(shortest: int, names: Sequence[str], separator: str, random: Random) -> tuple[str, int]:
    """Words with one capital, and how many phrases are equally likely. Long enough however short
    its words.
    """
    pool = [word for word in WORDS if not any(name in fold(word) for name in names)]
    if len(pool) < 2:
        raise NoSuggestionError("The names of this account leave no words for a passphrase.")
    count = max(
        ceil(PHRASE_BITS / log2(len(pool))), ceil((shortest + 1) / (min(map(len, pool)) + 1))
    )
    words = [random.choice(pool) for _ in range(count)]
    return separator.join(words).capitalize(), len(pool) ** count


def _blocks(shortest: int, names: Sequence[str], separator: str, random: Random) -> tuple[str, int]:
    """Blocks of four random letters and digits, and a lower bound of how many are equally
    likely.
    """
    count = FEWEST_IN_BLOCKS
    while count + (count - 1) // BLOCK < shortest:
        count += 1
    alphabet = UPPER + LOWER + DIGITS
    drawn = "".join(random.choices(alphabet, k=count))
    # The separator is a symbol, so two of the three other groups have to be there; one alone is
    # drawn again.
    alone = sum(len(group) ** count for group in (UPPER, LOWER, DIGITS))
    size = len(alphabet)
    named = sum(
        count * 2 ** len(name) * size ** (count - len(name)) for name in names if len(name) <= BLOCK
    )
    return separator.join(drawn[n : n + BLOCK] for n in range(0, count, BLOCK)), max(
        1, size**count - alone - named
    )
