"""What the drill takes and says. Moments are seconds from the beginning of a story."""

from __future__ import annotations

from typing import Annotated, Self

from pydantic import BaseModel, Field, model_validator

from hornfels.api.bench_schemas import MOST_COLUMNS, Name
from hornfels.api.schemas import Seconds, Strict
from hornfels.core.lockout.machine import EventKind, Outcome
from hornfels.core.lockout.notation import MOST_EVENTS


class EventAt(Strict):
    at: Annotated[float | int, Field(ge=0, le=1e9)]
    event: EventKind = Field(
        description="a wrong password, the right one, one of the two before it, an operator"
    )


class DrillAsked(Strict):
    """A story, told in one of three ways, and those it happens to."""

    story: str | None = Field(default=None, max_length=20_000, description="in our notation")
    events: list[EventAt] | None = Field(default=None, max_length=MOST_EVENTS)
    ready: str | None = Field(
        default=None, max_length=100, description="the key of a ready-made story"
    )
    lesson: str | None = Field(
        default=None,
        max_length=100,
        description="the key of the ready-made story that this one is still, for its lesson",
    )
    accounts: list[Name] = Field(default=[], max_length=MOST_COLUMNS)
    policies: list[Name] = Field(
        default=[], max_length=MOST_COLUMNS, description="GUIDs, or “domain” for the domain policy"
    )

    @model_validator(mode="after")
    def _told_once(self) -> Self:
        if sum(told is not None for told in (self.story, self.events, self.ready)) != 1:
            raise ValueError("Give a story, events or a ready-made story, one of them.")
        return self


class LockInfo(BaseModel):
    start: Seconds
    tries: int
    end: Seconds | None = Field(description="null if it does not end by itself")
    by_hand: bool


class StepInfo(BaseModel):
    """What became of the event of the same number."""

    outcome: Outcome
    bad_count: int
    locked: bool
    counts_until: Seconds | None = Field(
        description="when a further bad try would be the first again; null if none is counted"
    )


class RunInfo(BaseModel):
    """Events one after the other that happen alike."""

    first: int = Field(description="the number of the first of them")
    count: int
    start: Seconds
    end: Seconds
    event: EventKind
    outcome: Outcome
    reads: str
    bad_count: int = Field(description="after the last of them")
    locks: bool = Field(description="whether the last of them locks the account")


class DrillColumn(BaseModel):
    """A story at one account. Without an account, at anybody under the policy."""

    account: str | None
    policy: str
    policy_name: str
    mark: int | None
    threshold: int
    rule: str
    said: str
    lesson: str
    steps: list[StepInfo]
    locks: list[LockInfo]
    runs: list[RunInfo]


class DrillAnswer(BaseModel):
    """``story`` is what was understood, in our notation."""

    story: str
    events: list[EventAt]
    columns: list[DrillColumn]
    unknown: list[str]


class ReadyMadeInfo(BaseModel):
    key: str
    title: str
