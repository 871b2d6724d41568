"""Lists of blocked terms by what they hold (domain rules §9): policies name a list, a domain says
which terms it has at present.
"""

from __future__ import annotations

import hashlib
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from typing import ClassVar

from hornfels.core.values.text import hidden

MOST_TERMS = 1_000_000
LONGEST_TERM = 256
"""Characters."""
LONGEST_LIST_NAME = 64


@dataclass(frozen=True, slots=True)
class TermList:
    """What a list holds: the SHA-256 of its terms in hexadecimal, and how many they are."""

    digest: str
    count: int

    # For operations, which are validated when they come out of the database.
    __pydantic_config__: ClassVar[dict[str, str]] = {"extra": "forbid"}


def tidied(terms: Iterable[str]) -> Iterator[str]:
    """The terms without blanks around them, each once, in the order given; empty ones left out."""
    return iter(dict.fromkeys(term for text in terms if (term := text.strip())))


def list_of(terms: Sequence[str]) -> TermList:
    """What these tidied terms are as a list."""
    return TermList(hashlib.sha256("\n".join(terms).encode()).hexdigest(), len(terms))


def list_name_problem(name: str) -> str:
    """What is wrong with a name for a list, and what to do; "" if nothing is."""
    if not name.strip() or name != name.strip():
        return "Give the list a name that neither begins nor ends with a space."
    if len(name) > LONGEST_LIST_NAME:
        return f"A list's name has at most {LONGEST_LIST_NAME} characters; this has {len(name)}."
    if any(map(hidden, name)) or "/" in name or not name.strip("."):
        return "A list's name cannot hold a “/”, dots alone, or characters that are not seen."
    return ""


def term_problems(terms: Sequence[str]) -> Iterator[tuple[int, str]]:
    """The numbers of terms that cannot be on a list, from 0, each with the reason."""
    if len(terms) > MOST_TERMS:
        yield MOST_TERMS, f"A list has at most {MOST_TERMS:,} terms; here are {len(terms):,}."
    for number, term in enumerate(terms):
        if len(term) > LONGEST_TERM:
            yield number, f"A term has at most {LONGEST_TERM} characters; this has {len(term):,}."
        elif not term.isprintable() and any(map(hidden, term)):
            yield number, "A term cannot hold characters that are not seen."
