"""What policies cost people beside what they leave a guesser, as the API says it."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, Field

from hornfels.api.forecast_schemas import FigureInfo, TradeoffAsked
from hornfels.core.lockout.burden import Habits, Varied
from hornfels.core.lockout.tradeoff import Plane

_USUAL = Habits()


class BurdenAsked(TradeoffAsked):
    """How people sign in, beside what is assumed of guessers."""

    sign_ins: float = Field(_USUAL.sign_ins, ge=0, le=1000, description="on a working day")
    seconds: float = Field(_USUAL.seconds, ge=0, le=60, description="for one character")
    change: float = Field(_USUAL.change, ge=0, le=1000, description="minutes for a change")
    call: float = Field(
        _USUAL.call, ge=0, le=10_000, description="minutes until the help desk has unlocked"
    )

    def habits(self) -> Habits:
        return Habits(self.sign_ins, self.seconds, self.change, self.call)


class BurdenPoint(BaseModel):
    """A place in the plot; ``tries`` is null where nothing limits them."""

    minutes: float = Field(description="of one person in a year")
    tries: int | None = Field(description="within the life of a password")


class BurdenMark(BurdenPoint):
    """Where a policy stands here or as it is live, or where the one that is asked about would
    stand if it did what a baseline wants.
    """

    kind: Literal["policy", "live", "start", "baseline"]
    key: str
    name: str
    mark: int | None
    tries_shown: str
    chance_shown: str
    minutes_shown: str
    changes_shown: str
    characters_shown: str
    locks_shown: str


class CoursePoint(BurdenPoint):
    label: str


class BurdenCourse(BaseModel):
    """Where the policy would stand with another maximum age or threshold."""

    varied: Varied
    points: list[CoursePoint]


class BurdenForecast(BaseModel):
    plane: Plane
    policy: str
    policy_name: str
    mark: int | None
    marks: list[BurdenMark]
    courses: list[BurdenCourse]
    met: list[str] = Field(description="baselines that ask nothing more of it")
    figures: list[FigureInfo]
