"""Additions in a policy file: rules beyond the directory's own, path by path (domain rules §9)."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import fields
from typing import Annotated, Any, cast

from pydantic import BaseModel, BeforeValidator, ConfigDict, Field, create_model, model_validator

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
from hornfels.core.values.spans import read_span
from hornfels.formats.yaml_tree import Path


class _Part(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid", hide_input_in_errors=True)


class _RuleBase(_Part):
    @model_validator(mode="after")
    def _one(self) -> _RuleBase:
        if len(self.model_fields_set) != 1:
            raise ValueError(f"has to be one of {', '.join(one.key for one in ASKED)}")
        return self

    def asked(self) -> Asked:
        (key,) = self.model_fields_set
        return cast(Asked, getattr(self, key))


_rules: dict[str, Any] = {one.key: (one, Field(None, description=one.__doc__)) for one in ASKED}
RulePart: type[_RuleBase] = create_model(
    "RulePart", __base__=_RuleBase, __doc__="One rule by its name.", **_rules
)


def _span(value: Any) -> int:
    if not isinstance(value, str):
        raise ValueError("has to be a number with its unit, as in “60 d”")
    return read_span(value)


class BandPart(_Part):
    """How long a password of so many characters and more lives."""

    from_: int = Field(alias="from", ge=0, le=128)
    lives: Annotated[int, BeforeValidator(_span)] = Field(
        json_schema_extra={"type": "string", "examples": ["60 d"]}
    )


class AdditionPart(_Part):
    """Rules beyond the directory's own: a candidate has to keep all of one path."""

    password: tuple[RulePart, ...] | None = None
    phrase: tuple[RulePart, ...] | None = None
    lifetime: tuple[BandPart, ...] = ()

    def addition(self) -> Addition:
        password, phrase = (
            None if parts is None else tuple(part.asked() for part in parts)
            for parts in (self.password, self.phrase)
        )
        bands = tuple(Band(part.from_, part.lives) for part in self.lifetime)
        return Addition(password, phrase, bands)


def keys_below(path: Path) -> list[str]:
    """The keys that are known where a path below an addition leads."""
    if len(path) == 1:
        return list(AdditionPart.model_fields)
    if path[0] == "lifetime":
        return ["from", "lives"]
    rules = {one.key: one for one in ASKED}
    return list(rules) if len(path) == 3 else [one.name for one in fields(rules[str(path[2])])]


def wrong(addition: Addition, lists: Mapping[str, Sequence[str]]) -> Iterator[tuple[Path, str]]:
    """What cannot be in an addition, with its place below it: what contradicts itself, a list or a
    layout that is not there, an expression that cannot be run.
    """
    for where, told in problems(addition):
        path, _, number = where.partition(" ")
        yield ((path, int(number) - 1) if number else (path,)), told
    for name, asked in addition.paths():
        for place, one in enumerate(asked):
            yield from (((name, place), told) for told in _missing(one, lists))


def _missing(one: Asked, lists: Mapping[str, Sequence[str]]) -> Iterator[str]:
    if isinstance(one, Blocked):
        known = ", ".join(lists) or "none"
        for name in one.lists:
            if name not in lists:
                yield f"There is no list “{name[:60]}” of blocked terms; known here: {known}."
    if isinstance(one, Walk):
        for name in one.layouts:
            if name not in LAYOUTS:
                yield f"There is no layout “{name[:60]}”; known are {', '.join(LAYOUTS)}."
    if isinstance(one, Pattern) and (told := pattern_problem(one.expression)):
        yield told
