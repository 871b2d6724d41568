"""Passwords as people choose them, made up: what rules are held against to see what they refuse.

Our own generator, of the habits that are common knowledge: a word and a year, a season, a name,
keys in a row, letters written as digits. None of them is anybody's.
"""

from __future__ import annotations

from collections.abc import Callable
from random import Random

from hornfels.core.passwords.folding import LOOK_ALIKES
from hornfels.core.passwords.layouts import LAYOUTS
from hornfels.core.passwords.words import WORDS

_SEASONS = ("Spring", "Summer", "Autumn", "Winter")
_MONTHS = ("January", "March", "April", "June", "August", "October", "November")
_NAMES = ("anna", "ben", "clara", "david", "emma", "felix", "laura", "max", "nina", "paul")
_EVERYDAY = ("password", "welcome", "letmein", "secret", "admin", "login", "hello", "qwerty")
_ENDS = ("!", "!!", "?", ".", "#", "*", "1", "123", "1!", "01")
_AS_DIGIT = {letter: digit for digit, letter in LOOK_ALIKES.items() if digit in "013457@$"}


def typical(count: int, random: Random) -> list[str]:
    """So many passwords, habits by turns; the same may come twice, as it does among people."""
    return [random.choice(_HABITS)(random) for _ in range(count)]


def _word_and_year(random: Random) -> str:
    return f"{_cased(random.choice(WORDS), random)}{_year(random)}{_end(random)}"


def _season(random: Random) -> str:
    joint = random.choice(["", "-", "_", ""])
    return f"{random.choice(_SEASONS + _MONTHS)}{joint}{_year(random)}{_end(random)}"


def _name(random: Random) -> str:
    name = random.choice(_NAMES).capitalize()
    return f"{name}{random.choice([_year(random), str(random.randint(1, 999))])}{_end(random)}"


def _everyday(random: Random) -> str:
    return f"{_cased(random.choice(_EVERYDAY), random)}{random.choice(_ENDS)}{_end(random)}"


def _keys(random: Random) -> str:
    row = random.choice(LAYOUTS["us"])[0]
    start = random.randrange(3)
    return f"{row[start : start + random.randint(5, 8)]}{_end(random)}{random.randint(0, 99)}"


def _as_digits(random: Random) -> str:
    text = "".join(_AS_DIGIT.get(c, c) for c in random.choice(WORDS + _EVERYDAY))
    return f"{text.capitalize()}{_end(random)}{random.randint(1, 99)}"


def _two_words(random: Random) -> str:
    one, other = random.sample(WORDS, 2)
    return f"{one.capitalize()}{other.capitalize()}{random.randint(1, 99)}{_end(random)}"


def _phrase(random: Random) -> str:
    joint = random.choice(["-", " ", "."])
    return joint.join(random.choices(WORDS, k=random.randint(3, 5))).capitalize()


def _doubled(random: Random) -> str:
    word = random.choice(_NAMES + _EVERYDAY)
    return f"{word}{word}{random.choice(_ENDS)}"


def _random(random: Random) -> str:
    alphabet = "abcdefghijkmnopqrstuvwxyzABCDEFGHJKLMNPQRSTUVWXYZ23456789-+!?"
    return "".join(random.choices(alphabet, k=random.randint(9, 16)))


def _year(random: Random) -> str:
    year = random.randint(1960, 2029)
    return random.choice([str(year), f"{year % 100:02}"])


def _end(random: Random) -> str:
    return random.choice(_ENDS) if random.random() < 0.6 else ""


def _cased(word: str, random: Random) -> str:
    return word.capitalize() if random.random() < 0.7 else word


_HABITS: tuple[Callable[[Random], str], ...] = (
    _word_and_year,
    _word_and_year,
    _season,
    _season,
    _name,
    _everyday,
    _keys,
    _as_digits,
    _two_words,
    _phrase,
    _doubled,
    _random,
)
