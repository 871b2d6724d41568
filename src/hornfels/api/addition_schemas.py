"""What the API says and takes of what policies ask beyond the directory's own rules."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, Field, SecretStr

from hornfels.api.schemas import Fingerprint, ProblemInfo, Seconds, Strict
from hornfels.core.drafts.written_additions import RulePart, made
from hornfels.core.policy.addition import Addition, Band
from hornfels.core.values.time import span_from_seconds

MOST_RULES = 100
MOST_SAMPLE = 5_000

Rules = Annotated[tuple[RulePart, ...] | None, Field(max_length=MOST_RULES)]


class LifetimeBand(Strict):
    """How long a password of so many UTF-16 units and more lives."""

    length: int = Field(ge=0, le=128)
    lifetime: Seconds = Field(gt=0, le=922_337_203_685)


class AdditionBody(Strict):
    """What a policy asks besides: all of one path at least."""

    password: Rules = None
    phrase: Rules = None
    bands: list[LifetimeBand] = Field(default=[], max_length=20)

    def addition(self) -> Addition:
        spans = ((b.length, span_from_seconds(b.lifetime)) for b in self.bands)
        bands = tuple(Band(length, span or 0) for length, span in spans)
        return made(self.password, self.phrase, bands)


class AdditionEdit(Strict):
    """A policy's addition as it is to be, null for none."""

    version: Fingerprint
    addition: AdditionBody | None


class EffectsAsked(Strict):
    """An addition, saved or not, and passwords to hold it against; ours if there are none."""

    addition: AdditionBody
    sample: list[Annotated[SecretStr, Field(max_length=4096)]] = Field(
        default=[], max_length=MOST_SAMPLE
    )


class RuleSaid(BaseModel):
    rule: RulePart
    said: str


class AdditionInfo(BaseModel):
    """What a policy asks besides, in words too."""

    policy: str
    version: int
    password: list[RuleSaid] | None = None
    phrase: list[RuleSaid] | None = None
    bands: list[LifetimeBand]
    layouts: list[str] = Field(description="the keyboards that are known")


class RuleEffectInfo(BaseModel):
    """What one rule does. The example is invented and kept nowhere."""

    path: Literal["password", "phrase"]
    number: int
    said: str
    example: str | None = Field(description="a candidate that the rule alone refuses")
    present: str | None = Field(description="the present password that it is a change of")
    repair: str
    refused: int = Field(description="of the sample")
    alone: int = Field(description="of the sample, those that nothing else on its path refuses")


class SpaceInfo(BaseModel):
    """What a path leaves of what a keyboard writes, in bits."""

    path: Literal["password", "phrase"]
    length: int
    natively: float
    left: float
    counted: bool = Field(description="exactly; else told from texts that were drawn")


class EffectsAnswer(BaseModel):
    rules: list[RuleEffectInfo]
    sample: int
    natively: int = Field(description="of the sample, refused by the directory's own rules")
    altogether: int = Field(description="of the sample, refused in the end")
    problems: list[ProblemInfo]
    space: list[SpaceInfo]


class TermListInfo(BaseModel):
    name: str
    digest: str
    count: int
    used_by: list[str]


class TermListsAnswer(BaseModel):
    lists: list[TermListInfo]
    house: list[str] = Field(description="terms proposed from the names in the directory")


class TermsAnswer(BaseModel):
    name: str
    digest: str
    count: int
    terms: list[str] = Field(description="the first ones; all of them in the export")
