"""What a policy file may hold: the models behind its reader and its JSON Schema. Settings come from
the catalogue.

What is left out stays as it is in the directory; a policy that is left out of a list of policies is
removed.
"""

from __future__ import annotations

from functools import partial
from typing import Annotated, Any, Literal
from uuid import UUID

from pydantic import (
    BaseModel,
    BeforeValidator,
    ConfigDict,
    Field,
    SecretStr,
    WithJsonSchema,
    create_model,
    model_validator,
)

from hornfels.core.policy.addition import Addition
from hornfels.core.policy.catalogue import (
    BY_KEY,
    CATALOGUE,
    HIGHEST_PRECEDENCE_NUMBER,
    Setting,
    SettingKey,
    Value,
)
from hornfels.core.trials.trial import Refuser
from hornfels.core.values.spans import read_span
from hornfels.formats.policy_file.additions import NONE, AdditionPart, ListField, none_or_some

VERSION = 1
SWITCH = {True: "on", False: "off"}
_LARGEST = 2**63
_SPAN = "^-?[0-9.,]+ (s|min|h|d|w)( [0-9.]+ (s|min|h|d))*$"


def endless_word(setting: Setting) -> str:
    """How the file writes a span without end: "never" or "until unlocked"."""
    return "until unlocked" if setting.key == "lockout_duration" else "never"


def _text(value: Any) -> str:
    if not isinstance(value, str):
        raise ValueError("has to be text; put it in quotes")
    return value


def _count(value: Any) -> int:
    if isinstance(value, bool) or not isinstance(value, int) or not -_LARGEST <= value < _LARGEST:
        raise ValueError("has to be a whole number, without quotes or a unit")
    return value


def _switch(value: Any) -> bool:
    if isinstance(value, bool):
        return value
    for meant, word in SWITCH.items():
        if value == word:
            return meant
    raise ValueError("has to be on or off")


def _span(value: Any, setting: Setting) -> int | None:
    word = endless_word(setting) if setting.endless else ""
    if isinstance(value, str):
        if word and value == word:
            return None
        try:
            span = read_span(value)
        except ValueError as error:
            raise ValueError(
                f"is no span of time; {error}{f', or {word}' if word else ''}"
            ) from None
        if abs(span) <= _LARGEST:
            return span
        raise ValueError("is longer than a directory can hold")
    # Nought needs no unit.
    if value == 0 and not isinstance(value, bool):
        return 0
    raise ValueError(
        "has to be a number with its unit, as in “42 d” or “30 min”"
        f"{f', or {word}' if word else ''}"
    )


def _described(setting: Setting) -> str:
    return f"{setting.label}. {setting.explanation}"


def _typed(setting: Setting) -> Any:
    """The type of a setting's field."""
    schema: dict[str, Any]
    if setting.kind == "switch":
        schema = {"enum": ["on", "off", True, False]}
        return Annotated[bool, BeforeValidator(_switch), WithJsonSchema(schema)]
    if setting.kind == "count":
        schema = {"type": "integer", "minimum": setting.low, "maximum": setting.high}
        return Annotated[int, BeforeValidator(_count), WithJsonSchema(schema)]
    spans: list[dict[str, Any]] = [{"type": "string", "pattern": _SPAN}, {"const": 0}]
    if setting.endless:
        spans.insert(0, {"const": endless_word(setting)})
    read = partial(_span, setting=setting)
    return Annotated[
        int | None,
        BeforeValidator(read),
        WithJsonSchema({"anyOf": spans, "examples": ["42 d", "30 min"]}),
    ]


Text = Annotated[str, BeforeValidator(_text)]
Count = Annotated[int, BeforeValidator(_count)]


class _Part(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid", hide_input_in_errors=True)


class _SettingsBase(_Part):
    def given(self) -> dict[SettingKey, Value]:
        """The settings that are not left out, spans in ticks."""
        return {key: getattr(self, key) for key in BY_KEY if key in self.model_fields_set}

    def adds(self, held: Addition | None) -> Addition | None:
        """The addition, `held` where it is left out."""
        if "addition" not in self.model_fields_set:
            return held
        part: AdditionPart | None = getattr(self, "addition")  # noqa: B009 - made with the model
        return part.addition() if part else None


def _or_none(schema: dict[str, Any]) -> None:
    schema["anyOf"].append({"const": NONE})


_fields: dict[str, Any] = {
    s.key: (_typed(s), Field(None, description=_described(s))) for s in CATALOGUE
}
_fields["addition"] = (
    Annotated[AdditionPart | None, BeforeValidator(none_or_some)],
    Field(
        None,
        description="rules beyond the directory's own, or “none”",
        json_schema_extra=_or_none,
    ),
)
SettingsPart: type[_SettingsBase] = create_model(
    "SettingsPart",
    __base__=_SettingsBase,
    __doc__="Settings of one policy.",
    **_fields,
)


class PolicyPart(SettingsPart):
    """A fine-grained policy."""

    name: Text = Field(min_length=1)
    was: Text | None = Field(None, description="the name it had so far, if this is another one")
    guid: UUID | None = Field(
        None, description="its objectGUID; needed only where several have one name"
    )
    precedence: Annotated[
        int,
        BeforeValidator(_count),
        WithJsonSchema({"type": "integer", "minimum": 1, "maximum": HIGHEST_PRECEDENCE_NUMBER}),
    ] = Field(description="the lowest number that reaches an account holds")
    applies_to: tuple[Text, ...] | None = Field(
        None, description="accounts and groups, by sAMAccountName or distinguished name"
    )
    guarded: Annotated[
        bool, BeforeValidator(_switch), WithJsonSchema({"enum": ["on", "off", True, False]})
    ] = Field(True, description="whether it is guarded against deletion")


class TrialPart(_Part):
    """An invented candidate with its verdict, or a story of tries with what becomes of it, for
    somebody.
    """

    title: Text = Field("", max_length=200)
    candidate: Annotated[SecretStr, BeforeValidator(_text)] | None = Field(
        None, description="an invented password; never a real one"
    )
    present: Annotated[SecretStr, BeforeValidator(_text)] | None = Field(
        None,
        description="an invented password that the candidate takes the place of by one’s own "
        "change; a reset without",
    )
    story: Text | None = Field(
        None, max_length=10_000, description="tries at signing in, as in “5 bad in 10 min, good”"
    )
    account: Text | None = Field(None, description="whom it is for: one account")
    population: Text | None = Field(
        None, description="whom it is for: an account and all who are governed like it"
    )
    group: Text | None = Field(None, description="whom it is for: everybody in a group")
    expect: Literal["accepted", "refused", "locks", "stays open"]
    refused_by: Refuser | None = Field(
        None, description="the rule that has to refuse; any, if left out"
    )

    @model_validator(mode="after")
    def _fits(self) -> TrialPart:
        if (self.candidate is None) == (self.story is None):
            raise ValueError("has to have either a candidate or a story")
        if self.present is not None and self.candidate is None:
            raise ValueError("has “present” without a candidate that takes its place")
        if sum(bool(who) for who in (self.account, self.population, self.group)) != 1:
            raise ValueError("has to name one account, one population or one group")
        of_stories = self.expect in ("locks", "stays open")
        if of_stories != (self.story is not None):
            raise ValueError(
                "expects what does not come of it: a candidate is accepted or refused, a story "
                "locks or stays open"
            )
        if self.refused_by and self.expect != "refused":
            raise ValueError("names a rule, which goes only with “expect: refused”")
        return self


class PolicyFile(_Part):
    """A domain's policies and trials."""

    hornfels: Literal[1] = Field(description="the version of this form")
    domain: Text = Field(description="the DNS name of the domain")
    domain_policy: SettingsPart | None = Field(None, description="settings of the domain policy")
    policies: tuple[PolicyPart, ...] | None = Field(
        None, description="all fine-grained policies; one that is not here is removed"
    )
    trials: tuple[TrialPart, ...] = ()
    blocked_terms: dict[Text, ListField] | None = Field(
        None,
        description="all lists of terms that additions block, by name; one that is not here is "
        "removed",
    )


def schema() -> dict[str, Any]:
    """The JSON Schema of the file (draft 2020-12)."""
    found = PolicyFile.model_json_schema()
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **found}
