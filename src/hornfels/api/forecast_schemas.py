"""What guessing costs and how a lockout trades guessers against people, as the API says it."""

from __future__ import annotations

from typing import Annotated, Literal
from uuid import UUID

from pydantic import BaseModel, ConfigDict, Field

from hornfels.api.schemas import Seconds, SettingsInfo, Strict
from hornfels.core.lockout.guessing import Assumptions
from hornfels.core.lockout.tradeoff import Plane

_USUAL = Assumptions()


class Assumed(BaseModel):
    """What nobody can read from a directory."""

    model_config = ConfigDict(extra="forbid")

    skew: float = Field(_USUAL.skew, ge=0, le=2, description="s: how unequally people choose")
    size: int = Field(_USUAL.size, ge=1, le=10**12, description="N: passwords they choose from")
    mistakes: float = Field(
        _USUAL.mistakes, ge=0, lt=1, description="p: chance of a typing mistake at one try"
    )
    line: float = Field(_USUAL.line, gt=0, le=1e12, description="R: an attacker’s tries an hour")
    offline: float = Field(
        _USUAL.offline, ge=1, le=1e18, description="guesses a second at stolen hashes"
    )

    def assumptions(self) -> Assumptions:
        return Assumptions(self.skew, self.size, self.mistakes, self.line, self.offline)


class GuessingAsked(Assumed):
    policy: UUID | Literal["domain"] = "domain"


class TradeoffAsked(GuessingAsked):
    plane: Plane = "duration"


class InputInfo(BaseModel):
    name: str
    value: str


class FigureInfo(BaseModel):
    """A number with its formula and what went into it; ``value`` is null where there is none."""

    key: str
    label: str
    value: float | None
    unit: str
    shown: str
    note: str
    formula: str
    inputs: list[InputInfo]


class GuessingSheet(BaseModel):
    policy: str
    policy_name: str
    mark: int | None
    rule: str
    figures: list[FigureInfo]


class LinePoint(BaseModel):
    threshold: float
    span: Seconds


class ChanceLine(BaseModel):
    chance: float
    shown: str
    points: list[LinePoint]


class Burden(BaseModel):
    """What a threshold costs people."""

    threshold: int
    locks: float = Field(description="by typing mistakes, in 1,000 sign-ins")
    shown: str


class PolicyMark(BaseModel):
    """Where a policy or a starting point stands. ``span`` is null where a lock lasts until unlocked
    or nothing locks, ``tries`` and ``chance`` where nothing limits them.
    """

    kind: Literal["policy", "live", "start", "baseline"]
    key: str
    name: str
    mark: int | None
    version: int | None = Field(description="what saving it names; null where it cannot be moved")
    threshold: int
    span: Seconds | None
    tries: int | None
    chance: float | None
    chance_shown: str
    locks: float
    locks_shown: str
    locks_until_unlocked: bool


class Tradeoff(BaseModel):
    plane: Plane
    policy: str
    policy_name: str
    most_tries: int
    shortest: Seconds
    longest: Seconds
    lines: list[ChanceLine]
    burdens: list[Burden]
    marks: list[PolicyMark]


class MarkMoved(Strict):
    """A policy's mark, put somewhere else in the plane."""

    policy: UUID | Literal["domain"]
    plane: Plane
    threshold: int = Field(ge=1, le=65_535)
    span: Annotated[float, Field(ge=1, le=1e9)]
    assumed: Assumed = Assumed()


class MarkThere(BaseModel):
    """The settings that a policy has with its mark there, and what they come to."""

    settings: SettingsInfo
    sentence: str
    chance_shown: str
    locks_shown: str


class ExpiriesAsked(Strict):
    """Over how many days, and how many of a hundred passwords that end bring a call to the help
    desk.
    """

    days: int = Field(90, ge=7, le=400)
    calls: float = Field(10, ge=0, le=100, allow_inf_nan=False)


class PolicyExpiries(BaseModel):
    """How many passwords end on each day under one policy."""

    policy: str
    name: str
    mark: int | None
    counts: list[int]


class BunchInfo(BaseModel):
    """A day on which many passwords end, and why."""

    day: int = Field(description="the number of the day, from 0")
    date: str
    many: int
    told: str


class ExpiryForecast(BaseModel):
    """Passwords that end, day by day (UTC). Only people count, no disabled accounts or machines."""

    begins: str
    days: int
    policies: list[PolicyExpiries] = Field(description="those with any, in their order")
    live: list[int] | None = Field(description="all of them as it is live, where a draft is shown")
    bunches: list[BunchInfo]
    ended: int
    ended_live: int | None = Field(description="how many have ended as it is live")
    unknown: int
    never: int
    to_change: int
    calls: list[float] = Field(description="calls to the help desk for each week")


class LengthsAsked(Strict):
    """Against which minimum length, in characters; left out, against each policy's own."""

    at_least: int | None = Field(None, ge=0, le=255)


class LengthsInfo(BaseModel):
    """People by what is known of how long their present password is."""

    shorter: int
    enough: int
    either: int = Field(description="those in a band that has both")
    unseen: int = Field(description="those of whose length nothing is known")
    told: str = Field(description="what cannot be known, and from where the rest is")
