"""What the page of the people under the policies says and takes. Passwords come in request bodies
and never go back.
"""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, Field, SecretStr

from hornfels.api.bench_schemas import CardLine, CardWay, Secret
from hornfels.api.schemas import Strict
from hornfels.core.passwords.rules.rule import Status


class OwnSignIn(Strict):
    name: str = Field(max_length=400)
    password: SecretStr = Field(max_length=1000)
    domain: str | None = Field(
        None, max_length=255, description="where several domains have this page"
    )


class OwnTry(Strict):
    """A candidate for one's own change."""

    candidate: Secret
    present: SecretStr = Field(
        SecretStr(""), max_length=1000, description="the present password, as far as it is typed"
    )


class OwnChange(Strict):
    present: SecretStr = Field(max_length=1000)
    fresh: Secret


class OwnTick(BaseModel):
    """What one rule says; ``path`` is the path of an addition."""

    rule: str
    path: Literal["", "password", "phrase"]
    status: Status


class OwnVerdict(BaseModel):
    accepted: bool
    certain: bool
    told: str
    ticks: list[OwnTick]
    band: int | None = Field(description="which of the bands it reaches, from 0")


class OwnBand(BaseModel):
    """From so many characters on a password lasts so long."""

    length: int
    lasts: str


class OwnSuggestion(BaseModel):
    text: str


class OwnLock(BaseModel):
    """One's account is locked; without ``until``, until the help desk opens it."""

    until: str | None


class OwnInfo(BaseModel):
    """Somebody, and what holds for their password."""

    name: str
    display_name: str
    domain: str
    must_change: bool = Field(description="another one has to be chosen before anything else")
    must: list[CardLine]
    ways: list[CardWay]
    refusals: list[str]
    later: list[str]
    set_at: str | None
    ends_at: str | None = Field(description="null where it has ended, or does not by itself")
    ends_why: str
    changes_from: str | None = Field(description="when the present one is old enough for a change")
    lock: OwnLock | None
    bands: list[OwnBand]


class OwnPageInfo(BaseModel):
    """Who is there, nobody at first, and in which domains one can sign in."""

    person: OwnInfo | None
    domains: list[str]
