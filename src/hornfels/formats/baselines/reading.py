"""A baseline from its file, and the shipped ones by name."""

from __future__ import annotations

from functools import cache
from importlib.resources import files
from typing import Annotated, Any, Literal

from pydantic import BaseModel, BeforeValidator, ConfigDict, Field, ValidationError, model_validator

from hornfels.core.baselines.baseline import Baseline, Known, Recommendation, Who
from hornfels.core.baselines.conditions import ENDLESS, All, AnyOf, Condition, Feature, Has, Limit
from hornfels.core.policy.catalogue import BY_KEY, Setting, SettingKey, Value
from hornfels.core.values.spans import read_span
from hornfels.formats.yaml_tree import Problem, Tree, YamlError, read_tree

VERSION = 1
SHIPPED = ("nist-sp-800-63b-4", "privileged", "services")
"""Baselines that come with Hornfels, by name."""
_ENDLESS_WORDS = {"never", "until unlocked"}


class _Part(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid", populate_by_name=True)


def _text(value: Any) -> str:
    if not isinstance(value, str) or not value.strip():
        raise ValueError("has to be text; put it in quotes")
    return value


Text = Annotated[str, BeforeValidator(_text)]
Texts = tuple[Text, ...]


def _number(setting: Setting, value: Any) -> float:
    """A measure as the file writes it (`hornfels.core.baselines.conditions.measure`)."""
    if value in _ENDLESS_WORDS and (setting.endless or setting.zero):
        return ENDLESS
    if setting.kind == "switch":
        switches = {"on": 1.0, "off": 0.0, True: 1.0, False: 0.0}
        if isinstance(value, str | bool) and value in switches:
            return switches[value]
        raise ValueError(f"{setting.key} is on or off")
    if setting.kind == "span":
        if isinstance(value, str):
            return float(read_span(value))
        raise ValueError(f"{setting.key} is a span, such as “42 d”")
    if isinstance(value, int) and not isinstance(value, bool):
        return float(value)
    raise ValueError(f"{setting.key} is a whole number")


def _limit(key: str, asked: Any) -> Limit:
    setting = BY_KEY.get(key)  # type: ignore[call-overload]
    if setting is None:
        known = ", ".join(BY_KEY)
        raise ValueError(f"“{key}” is no setting; known are {known}, “has”, “all of”, “any of”")
    # A value alone is what it has to be.
    asked = asked if isinstance(asked, dict) else {"is": asked}
    if not asked or not asked.keys() <= {"at least", "at most", "is"}:
        raise ValueError(f"{key} has to be “at least”, “at most” or “is” with a value")
    if "is" in asked:
        exactly = _number(setting, asked["is"])
        return Limit(setting.key, exactly, exactly)
    least = _number(setting, asked["at least"]) if "at least" in asked else -ENDLESS
    most = _number(setting, asked["at most"]) if "at most" in asked else ENDLESS
    # What never ends is more than any number, and "at most" a number is less than that.
    return Limit(setting.key, least, most)


def _condition(value: Any) -> Condition:
    if not isinstance(value, dict) or not value:
        raise ValueError("has to be conditions, such as “min_length: {at least: 15}”")
    parts: list[Condition] = []
    for key, asked in value.items():
        if key in ("all of", "any of"):
            if not isinstance(asked, list) or not asked:
                raise ValueError(f"“{key}” has to be a list of conditions")
            kind = All if key == "all of" else AnyOf
            parts.append(kind(tuple(map(_condition, asked))))
        elif key == "has":
            features: tuple[Feature, ...] = ("blocked list", "exposed passwords")
            if asked not in features:
                raise ValueError(f"“has” takes {' or '.join(features)}")
            parts.append(Has(asked))
        else:
            parts.append(_limit(key, asked))
    return parts[0] if len(parts) == 1 else All(tuple(parts))


def _sets(value: Any) -> dict[SettingKey, Value]:
    if not isinstance(value, dict):
        raise ValueError("has to be settings with values")
    found: dict[SettingKey, Value] = {}
    for key, written in value.items():
        number = _limit(key, {"is": written}).least
        setting = BY_KEY[key]
        if number == ENDLESS:
            found[key] = None if setting.endless else 0
        else:
            found[key] = bool(number) if setting.kind == "switch" else int(number)
    return found


Conditions = Annotated[Any, BeforeValidator(_condition)]


class KnownPart(_Part):
    names: Texts = ()
    groups: Texts = ()


class RecommendationPart(_Part):
    key: Annotated[str, Field(pattern="^[a-z0-9-]{1,60}$")]
    text: Text
    who: Who = Field(alias="for")
    wants: Conditions
    when: Conditions = None
    sets: Annotated[dict[SettingKey, Any], BeforeValidator(_sets)] = {}
    rationale: Text
    effect: Text
    source: Text

    @model_validator(mode="after")
    def _closes(self) -> RecommendationPart:
        unknown = set(self.sets) - set(self.wants.settings())
        if unknown:
            raise ValueError(f"sets what it does not want: {', '.join(sorted(unknown))}")
        return self


class BaselinePart(_Part):
    baseline: Literal[1]
    name: Annotated[str, Field(pattern="^[a-z0-9-]{1,60}$")]
    title: Text
    about: Text
    known: dict[Literal["privileged", "service", "kiosk"], KnownPart] = {}
    recommendations: tuple[RecommendationPart, ...] = Field(min_length=1)


def read_baseline(data: bytes) -> Baseline:
    """A baseline from its file. Raises `YamlError` with all that is wrong with it."""
    tree = read_tree(data)
    try:
        part = BaselinePart.model_validate(tree.value)
    except ValidationError as error:
        told = error.errors(include_url=False, include_input=False)
        raise YamlError(sorted(_problem(tree, one) for one in told)) from None
    keys = [one.key for one in part.recommendations]
    twice = [n for n, key in enumerate(keys) if key in keys[:n]]
    if twice:
        path = ("recommendations", twice[0], "key")
        raise YamlError([tree.problem(path, "another recommendation has this key; choose another")])
    return Baseline(
        name=part.name,
        title=part.title,
        about=part.about,
        recommendations=tuple(
            Recommendation(
                key=one.key,
                text=one.text,
                who=one.who,
                wants=one.wants,
                when=one.when,
                sets=one.sets,
                rationale=one.rationale,
                effect=one.effect,
                source=one.source,
            )
            for one in part.recommendations
        ),
        known={kind: Known(one.names, one.groups) for kind, one in part.known.items()},
    )


def _problem(tree: Tree, told: Any) -> Problem:
    path = tuple("for" if part == "who" else part for part in told["loc"])
    field = f"{path[-1]} " if path and isinstance(path[-1], str) else ""
    if told["type"] == "missing":
        return tree.problem(path[:-1], f"“{path[-1]}” is missing; add it")
    if told["type"] == "extra_forbidden":
        return tree.problem(path, f"“{path[-1]}” is no key here; take it out", key=True)
    if told["type"] == "value_error":
        return tree.problem(path, f"{field}{told['ctx']['error']}")
    return tree.problem(path, f"{field}cannot be so: {told['msg'][0].lower()}{told['msg'][1:]}")


@cache
def shipped(name: str) -> Baseline:
    """A baseline that comes with Hornfels. Raises KeyError for another name."""
    if name not in SHIPPED:
        raise KeyError(name)
    return read_baseline(files(__package__).joinpath(f"{name}.yaml").read_bytes())
