"""What the bench says and takes. Candidates and earlier passwords come in request bodies and never
go back.
"""

from __future__ import annotations

from typing import Annotated, Literal, Self

from pydantic import (
    AfterValidator,
    AwareDatetime,
    BaseModel,
    Field,
    SecretStr,
    ValidationInfo,
    field_validator,
    model_validator,
)

from hornfels.api.schemas import FlagInfo, Seconds, Strict, Title
from hornfels.core.trials.trial import Expected, Refuser

Secret = Annotated[SecretStr, Field(max_length=4096)]
Name = Annotated[str, Field(max_length=1000)]
Group = Literal["upper", "lower", "digit", "symbol", "caseless"]

MOST_COLUMNS = 24


class Circumstances(Strict):
    """What a candidate is tried under, besides the account."""

    operation: Literal["change", "reset"]
    previous: list[Secret | None] | None = Field(
        default=None,
        max_length=1025,
        description="earlier passwords, the present one first, null where one is not known",
    )
    now: AwareDatetime | None = Field(
        default=None, description="the moment of the trial; now if left out"
    )
    password_set: AwareDatetime | None = Field(
        default=None, description="when the present password was set; as read if left out"
    )


class Attempt(Circumstances):
    """A candidate on some accounts, and on policies as they would judge somebody without a name."""

    candidate: Secret
    accounts: list[Name] = Field(default=[], max_length=MOST_COLUMNS)
    policies: list[Name] = Field(
        default=[], max_length=MOST_COLUMNS, description="GUIDs, or “domain” for the domain policy"
    )


class ManyAttempts(Circumstances):
    """Many candidates on many accounts."""

    candidates: list[Secret] = Field(min_length=1, max_length=1000)
    accounts: list[Name] = Field(min_length=1, max_length=200)


class RuleAnswer(BaseModel):
    rule: str
    label: str
    status: Literal["passed", "failed", "not asked", "not checkable"]
    detail: str
    repair: str
    noted: bool = Field(description="let through, but logged")
    path: Literal["", "password", "phrase"] = Field(
        description="of an addition, which Hornfels judges; empty for the directory's own rules"
    )


class AttemptColumn(BaseModel):
    """What every rule says to the candidate for one account. Without an account, for anybody under
    the policy.
    """

    account: str | None
    display_name: str
    policy: str
    policy_name: str
    mark: int | None
    accepted: bool
    certain: bool
    told: str = Field(description="what the person would be told, in plain words")
    flags: list[FlagInfo]
    rules: list[RuleAnswer]


class PlaceInfo(BaseModel):
    """One character (Unicode code point) of the candidate: its group, and the UTF-16 units it
    counts for.
    """

    group: Group | None
    units: int


class AttemptAnswer(BaseModel):
    length: int
    strip: list[PlaceInfo]
    lenient_elsewhere: bool
    columns: list[AttemptColumn]
    unknown: list[str]


class BriefVerdict(BaseModel):
    accepted: bool
    certain: bool
    refused_by: list[str]


class ManyAnswer(BaseModel):
    """``verdicts[c][a]`` is for candidate ``c`` on account ``a``, both in the order they
    were sent.
    """

    accounts: list[str]
    verdicts: list[list[BriefVerdict]]


class OnePolicy(Strict):
    """An account, or a policy as for somebody without a name: exactly one of them."""

    account: Name | None = None
    policy: Name | None = Field(
        default=None, description="a GUID, or “domain” for the domain policy"
    )

    @model_validator(mode="after")
    def _exactly_one(self) -> Self:
        if (self.account is None) == (self.policy is None):
            raise ValueError("Name an account or a policy, one of them.")
        return self


class SuggestionAsked(OnePolicy):
    previous: list[Secret | None] = Field(
        default=[], max_length=1024, description="earlier passwords that must not come back"
    )


class SuggestionInfo(BaseModel):
    """A password drawn at random. It is kept nowhere."""

    kind: Literal["phrase", "blocks"]
    text: str
    bits: int = Field(description="strength: log₂ of the equally likely others")


class BoundariesAsked(OnePolicy):
    operation: Literal["change", "reset"]


class BoundaryInfo(BaseModel):
    """An invented candidate on one side of a rule, and its circumstances; `back` 0 if it was never
    in use.
    """

    about: str
    rule: str | None = Field(description="the only rule that refuses it, null if it passes")
    rule_label: str
    text: str
    set_ago: Seconds = Field(description="when the present password was set: so long before now")
    back: int
    path: Literal["", "password", "phrase"] = Field(description="of the addition that it is on")
    present: str | None = Field(description="the present password, where that matters")


class BoundariesAnswer(BaseModel):
    candidates: list[BoundaryInfo]
    without: list[str] = Field(description="the rules that have no boundary, and why")


def not_blank(text: str) -> str:
    if not text.strip():
        raise ValueError("Say what it guards.")
    return text


class TrialNew(Strict):
    """A candidate or a story to keep with what must come of it. A candidate is stored and shown to
    everybody: only an invented one.
    """

    title: Annotated[Title, AfterValidator(not_blank)] = Field(max_length=200)
    candidate: SecretStr | None = Field(default=None, max_length=256)
    present: SecretStr | None = Field(
        default=None,
        max_length=256,
        description="an invented one that the candidate takes the place of by one’s own change; an "
        "operator’s reset without",
    )
    story: str | None = Field(default=None, min_length=1, max_length=2_000)
    kind: Literal["account", "population", "group"]
    target: Name = Field(
        description=(
            "an account’s name, of which “population” takes the whole population, or a group’s name"
        )
    )
    expected: Expected
    rule: Refuser = Field(default="", description="the rule that must refuse; any if empty")
    invented: bool = Field(
        default=False,
        validate_default=True,
        description="whoever keeps a candidate says that nobody uses it",
    )

    @field_validator("invented")
    @classmethod
    def _invented(cls, invented: bool, given: ValidationInfo) -> bool:
        if given.data.get("candidate") is not None and not invented:
            raise ValueError("Only an invented candidate is kept. Say that nobody uses it.")
        return invented

    @model_validator(mode="after")
    def _one_of_both(self) -> Self:
        if (self.candidate is None) == (self.story is None):
            raise ValueError("Keep a candidate or a story, one of them.")
        if self.present is not None and self.candidate is None:
            raise ValueError("Only a candidate takes the place of another one. Leave present out.")
        if (self.story is None) != (self.expected in ("accepted", "refused")):
            raise ValueError(
                "A candidate is accepted or refused, a story locks or stays open. Say which."
            )
        return self


class TrialInfo(BaseModel):
    """A kept trial, and what comes of it here and live. ``met`` is null where nobody is left to try
    it on.
    """

    id: int
    title: str
    candidate: str
    present: str = Field(description="what it takes the place of; empty for a reset")
    story: str = Field(description="in our notation; empty for a candidate")
    kind: Literal["account", "population", "group"]
    target: str
    target_name: str
    expected: Expected
    rule: str
    author: str
    at: str
    accounts: int
    running: bool
    met: bool | None
    met_live: bool | None
    said: str
    account: str | None = Field(description="one for which it is not met")


class TrialsAnswer(BaseModel):
    required: bool = Field(description="whether publishing wants all of them met")
    running: int
    unmet: int
    trials: list[TrialInfo]


class CardLine(BaseModel):
    rule: str
    text: str


class CardWay(BaseModel):
    """A path of an addition: all of one has to be kept."""

    path: Literal["password", "phrase"]
    lines: list[CardLine]


class CardAnswer(BaseModel):
    """A policy in words for people who are under it."""

    account: str | None
    display_name: str
    policy: str
    policy_name: str
    mark: int | None
    must: list[CardLine]
    ways: list[CardWay]
    refusals: list[str]
    later: list[str]
    expires_at: str | None
