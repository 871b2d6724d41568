"""Additions in a policy file: rules beyond the directory's own, path by path (domain rules §9)."""

from __future__ import annotations

from collections.abc import Collection, Iterator
from dataclasses import fields
from typing import Annotated, Any

from pydantic import BeforeValidator, Discriminator, Field, Strict, Tag

from hornfels.core.drafts.written_additions import Part, RulePart, made
from hornfels.core.passwords.layouts import LAYOUTS
from hornfels.core.passwords.rules.patterns import pattern_problem
from hornfels.core.policy.addition import (
    ASKED,
    Addition,
    Asked,
    Band,
    Blocked,
    Pattern,
    Walk,
    problems,
)
from hornfels.core.policy.term_lists import MOST_TERMS
from hornfels.core.values.spans import read_span
from hornfels.formats.yaml_tree import Path

NONE = "none"


def _span(value: Any) -> int:
    if not isinstance(value, str):
        raise ValueError("has to be a number with its unit, as in “60 d”")
    return read_span(value)


class BandPart(Part):
    """How long a password of so many characters and more lives."""

    from_: int = Field(alias="from", ge=0, le=128)
    lives: Annotated[int, BeforeValidator(_span)] = Field(
        json_schema_extra={"type": "string", "examples": ["60 d"]}
    )


class AdditionPart(Part):
    """Rules beyond the directory's own: a candidate has to keep all of one path."""

    password: tuple[RulePart, ...] | None = None
    phrase: tuple[RulePart, ...] | None = None
    lifetime: tuple[BandPart, ...] = ()

    def addition(self) -> Addition:
        bands = tuple(Band(part.from_, part.lives) for part in self.lifetime)
        return made(self.password, self.phrase, bands)


class TermsPart(Part):
    """A list by what it holds, where its terms are not in the file: the domain has to know them."""

    sha256: str = Field(pattern="^[0-9a-f]{64}$")
    terms: int = Field(ge=0, le=MOST_TERMS, description="how many there are")


TAGS = ("\0terms", "\0digest")
"""What pydantic puts into a place to say which of both was looked at. No key is written so."""


def _which(value: Any) -> str:
    return TAGS[1] if isinstance(value, dict | TermsPart) else TAGS[0]


ListField = Annotated[
    Annotated[tuple[Annotated[str, Strict()], ...], Tag(TAGS[0])]
    | Annotated[TermsPart, Tag(TAGS[1])],
    Discriminator(_which),
]
"""A list of blocked terms: the terms, or what they are told by."""


def none_or_some(value: Any) -> Any:
    """No addition is written as a word, so that it is not taken for one left out."""
    return None if value == NONE else value


def keys_below(path: Path) -> list[str]:
    """The keys that are known where a path below an addition leads."""
    if len(path) == 1:
        return list(AdditionPart.model_fields)
    if path[0] == "lifetime":
        return ["from", "lives"]
    rules = {one.key: one for one in ASKED}
    return list(rules) if len(path) == 3 else [one.name for one in fields(rules[str(path[2])])]


def wrong(addition: Addition, lists: Collection[str] | None) -> Iterator[tuple[Path, str]]:
    """What cannot be in an addition, with its place below it: what contradicts itself, a list that
    is none of `lists`, a layout that is not there, an expression that cannot be run.
    """
    for where, told in problems(addition):
        path, _, number = where.partition(" ")
        yield ((path, int(number) - 1) if number else (path,)), told
    for name, asked in addition.paths():
        for place, one in enumerate(asked):
            yield from (((name, place), told) for told in _unusable(one))
    if lists is not None:
        yield from missing_lists(addition, lists)


def missing_lists(addition: Addition, lists: Collection[str]) -> Iterator[tuple[Path, str]]:
    """The rules that name a list which is none of these."""
    known = ", ".join(lists) or "none"
    for path, asked in addition.paths():
        for place, one in enumerate(asked):
            for name in one.lists if isinstance(one, Blocked) else ():
                if name not in lists:
                    told = f"There is no list “{name[:60]}” of blocked terms; known here: {known}."
                    yield (path, place), told


def _unusable(one: Asked) -> Iterator[str]:
    if isinstance(one, Walk):
        for name in one.layouts:
            if name not in LAYOUTS:
                yield f"There is no layout “{name[:60]}”; known are {', '.join(LAYOUTS)}."
    if isinstance(one, Pattern) and (told := pattern_problem(one.expression)):
        yield told
