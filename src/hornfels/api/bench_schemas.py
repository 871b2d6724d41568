"""What the bench says and takes. Candidates and earlier passwords come in request bodies and never go back."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import AwareDatetime, BaseModel, Field, SecretStr

from hornfels.api.schemas import FlagInfo, Strict

Secret = Annotated[SecretStr, Field(max_length=4096)]
Name = Annotated[str, Field(max_length=1000)]
Group = Literal["upper", "lower", "digit", "symbol", "caseless"]

MOST_COLUMNS = 24


class Circumstances(Strict):
    """What a candidate is tried under, besides the account."""

    operation: Literal["change", "reset"]
    previous: list[Secret | None] | None = Field(
        default=None, max_length=1024, description="earlier passwords, the present one first, null where one is not known"
    )
    now: AwareDatetime | None = Field(default=None, description="the moment of the trial; now if left out")
    password_set: AwareDatetime | None = Field(default=None, description="when the present password was set; as read if left out")


class Attempt(Circumstances):
    """A candidate on some accounts, and on policies as they would judge somebody without a name."""

    candidate: Secret
    accounts: list[Name] = Field(default=[], max_length=MOST_COLUMNS)
    policies: list[Name] = Field(default=[], max_length=MOST_COLUMNS, description="GUIDs, or “domain” for the domain policy")


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


class AttemptColumn(BaseModel):
    """What every rule says to the candidate for one account. Without an account, for anybody under the policy."""

    account: str | None
    display_name: str
    policy: str | None
    policy_name: str
    mark: int | None
    accepted: bool
    certain: bool
    told: str = Field(description="what the person would be told, in plain words")
    flags: list[FlagInfo]
    rules: list[RuleAnswer]


class PlaceInfo(BaseModel):
    """One character (Unicode code point) of the candidate: its group, and the UTF-16 units it counts for."""

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
    """``verdicts[c][a]`` is for candidate ``c`` on account ``a``, both in the order they were sent."""

    accounts: list[str]
    verdicts: list[list[BriefVerdict]]
