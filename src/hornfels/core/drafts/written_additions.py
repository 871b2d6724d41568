"""Additions as plain data, for operations, the database and files: a rule by its name, as in
``{"run": {"max": 3}}``. All of it is checked when it is read.
"""

from __future__ import annotations

from dataclasses import asdict
from typing import Annotated, Any, cast

from pydantic import (
    BaseModel,
    ConfigDict,
    Field,
    PlainSerializer,
    PlainValidator,
    create_model,
    model_validator,
)

from hornfels.core.policy.addition import ASKED, Addition, Asked, Band


class Part(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid", hide_input_in_errors=True)


class _RuleBase(Part):
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


class _WrittenBand(Part):
    length: int
    lifetime: int


class _WrittenAddition(Part):
    password: tuple[RulePart, ...] | None = None
    phrase: tuple[RulePart, ...] | None = None
    bands: tuple[_WrittenBand, ...] = ()


def made(
    password: tuple[_RuleBase, ...] | None,
    phrase: tuple[_RuleBase, ...] | None,
    bands: tuple[Band, ...],
) -> Addition:
    """The addition of these parts."""
    first, second = (
        None if parts is None else tuple(part.asked() for part in parts)
        for parts in (password, phrase)
    )
    return Addition(first, second, bands)


def rule_written(one: Asked) -> dict[str, dict[str, Any]]:
    """A rule by its name."""
    values = {
        key: list(value) if isinstance(value, tuple) else value
        for key, value in asdict(one).items()
    }
    return {one.key: values}


def addition_written(addition: Addition | None) -> dict[str, Any] | None:
    """An addition as plain data, lifetimes in ticks; None where there is none."""
    if addition is None:
        return None
    found: dict[str, Any] = {
        name: [rule_written(one) for one in asked] for name, asked in addition.paths()
    }
    return {**found, "bands": [asdict(band) for band in addition.bands]}


def addition_read(kept: Any) -> Addition | None:
    """The addition that was written. Raises ValueError for what is none."""
    if kept is None or isinstance(kept, Addition):
        return kept
    found = _WrittenAddition.model_validate(kept)
    bands = tuple(Band(band.length, band.lifetime) for band in found.bands)
    return made(found.password, found.phrase, bands)


AdditionField = Annotated[
    Addition | None, PlainValidator(addition_read), PlainSerializer(addition_written)
]
"""An addition, or none, in a model."""
