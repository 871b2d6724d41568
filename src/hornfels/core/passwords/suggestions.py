"""Passwords that a policy accepts, drawn at random, with the number of bits that an attacker who
knows how would have to guess.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from math import ceil, log2
from random import Random
from typing import Literal

from hornfels.core.passwords.boundaries import LONGEST_DRAWN
from hornfels.core.passwords.judge import compile_policy, judge
from hornfels.core.passwords.rules.own_name import OwnName
from hornfels.core.passwords.rules.rule import Occasion, Subject
from hornfels.core.passwords.words import WORDS
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
    settings: Settings, subject: Subject, previous: Sequence[str | None], kind: Kind, random: Random
) -> Suggestion:
    """A password that the policy accepts for this account and that is none of the earlier ones.

    Raises `NoSuggestionError` if the account's names leave nothing to draw, or the policy asks for
    more than there is.
    """
    if settings.min_length > LONGEST_DRAWN:
        raise NoSuggestionError(
            f"A minimum of {settings.min_length:,} characters is more than any password has."
        )
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
