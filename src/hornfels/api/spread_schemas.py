"""A shorter maximum age brought in over weeks, as the API says it."""

from __future__ import annotations

from datetime import date
from typing import Literal
from uuid import UUID

from pydantic import BaseModel, Field

from hornfels.api.people_schemas import Reason
from hornfels.api.schemas import Strict
from hornfels.core.drafts.spread import Risk
from hornfels.service.spreading import MOST_WEEKS
from hornfels.store.spreads import State, WaveState


class SpreadAsked(Strict):
    """Over how many weeks, and from which day on (UTC)."""

    weeks: int = Field(6, ge=1, le=MOST_WEEKS)
    begins: date


class WaveInfo(BaseModel):
    """A week: who is told in it by their risk, and what came of that."""

    begins: date
    told: dict[Risk, int]
    by_themselves: int
    state: WaveState
    said: str
    point: int | None = Field(description="in the history, once it is carried out")


class SpreadPlan(BaseModel):
    waves: list[WaveInfo]
    told: int
    spared: int = Field(description="never told, so they end at once when it is published")
    at_once: int = Field(description="would end at once if the draft were published now")
    ends: date = Field(description="from when on the draft can be published")
    warning: str
    seen: str = Field(description="names who is told when, for whoever begins it")


class SpreadBegun(SpreadAsked):
    seen: str = Field(max_length=64, description="as the plan has named it")
    reason: Reason


class SpreadStopped(Strict):
    reason: Reason


class SpreadInfo(BaseModel):
    id: int
    draft: int
    title: str
    state: State
    begins: date
    ends: date
    waves: list[WaveInfo]
    by: str
    reason: str
    made_at: str
    job: UUID | None
    directory: Literal["told", "waits"] = Field(
        description="whether accounts are told there, or wait in change records"
    )
