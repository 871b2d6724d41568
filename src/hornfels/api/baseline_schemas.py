"""Baselines, as the API tells of them."""

from __future__ import annotations

from datetime import date
from typing import Literal

from pydantic import BaseModel, Field

from hornfels.api.publication_schemas import SaidInfo
from hornfels.api.schemas import AcceptanceInfo, Strict
from hornfels.core.baselines.beside import Relation

State = Literal["met", "not met", "cannot tell", "not applicable"]


class BaselineInfo(BaseModel):
    """One baseline that there is."""

    name: str
    title: str
    about: str


class BaselineFile(BaseModel):
    """A file among the baselines that is none, and why."""

    file: str
    problem: str


class Baselines(BaseModel):
    """The baselines that can be chosen, and files that are none."""

    baselines: list[BaselineInfo]
    files: list[BaselineFile]


class BaselineColumn(BaseModel):
    """A population."""

    key: str
    who: str
    count: int
    policy: str = Field(description="GUID of the policy that it has, or “domain”")
    policy_name: str
    mark: int | None


class BaselineGap(BaseModel):
    """A policy that leaves a recommendation unmet, and what closes it there."""

    policy: str = Field(description="GUID, or “domain”")
    name: str
    mark: int | None
    accounts: int
    changes: list[SaidInfo] = Field(description="empty where no setting of the policy closes it")


class BaselineRow(BaseModel):
    """What comes of one recommendation. ``cells`` are the states of the columns: the gravest that
    an account of the population has; ``state_live`` is null unless a draft is shown that turns it.
    """

    key: str
    text: str
    who: str
    state: State
    state_live: State | None
    not_met_live: int | None
    met: int
    not_met: int
    cannot_tell: int
    not_applicable: int
    cells: list[State]
    measured: str
    wanted: str
    rationale: str
    effect: str
    source: str
    gaps: list[BaselineGap]
    accepted: AcceptanceInfo | None = Field(description="that it is not followed, and why")


class BaselineAnswer(BaseModel):
    """A baseline held against a domain."""

    baseline: BaselineInfo
    columns: list[BaselineColumn]
    unlisted: int = Field(description="populations too small to be a column of their own")
    rows: list[BaselineRow]


class ExceptionNew(Strict):
    """That a recommendation is not followed, with a reason, until the end of a day."""

    recommendation: str = Field(max_length=60)
    reason: str = Field(min_length=3, max_length=2000)
    until: date


class GapClosing(Strict):
    """Which gap is to be closed in the draft."""

    recommendation: str = Field(max_length=60)
    policy: str = Field(max_length=64, description="GUID, or “domain”")


class BaselineAsked(BaseModel):
    """A recommendation that is meant for somebody under a policy. ``limits`` are the bounds in it
    by setting, in short.
    """

    key: str
    who: str
    limits: dict[str, str]
    wanted: str
    rationale: str
    effect: str
    source: str
    accounts: int
    not_met: int


class BaselineOfPolicy(BaseModel):
    """What a baseline asks of one policy."""

    asked: list[BaselineAsked]


class BesideRecommendation(BaseModel):
    text: str
    who: str
    wanted: str


class BesideRow(BaseModel):
    """What two baselines recommend about one thing."""

    topic: str
    first: list[BesideRecommendation]
    second: list[BesideRecommendation]
    relation: Relation


class BaselinesBeside(BaseModel):
    """Two baselines side by side."""

    first: BaselineInfo
    second: BaselineInfo
    rows: list[BesideRow]
