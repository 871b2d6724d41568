"""Passwords that people make of a word they know: tried first by whoever guesses."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence

_ENDS = ("", "1", "12", "123", "1234", "!", "1!")


def derived(word: str, year: int) -> Iterator[str]:
    """What is made of a word: itself, written small, large and with a capital, and backwards, with
    what people put behind it: a few digits or signs, this year and the two before. Each once.
    """
    ends = [*_ENDS]
    for number in range(year - 2, year + 1):
        ends += [str(number), f"{number}!", f"{number % 100:02}"]
    forms = (word, word.lower(), word.capitalize(), word.upper(), word[::-1].lower())
    yield from dict.fromkeys(form + end for form in forms for end in ends)


def derived_of(words: Iterable[str], year: int) -> Sequence[str]:
    """What is made of some words, each once."""
    return list(dict.fromkeys(text for word in words for text in derived(word, year)))
