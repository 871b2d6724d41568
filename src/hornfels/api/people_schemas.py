"""People, roles, sessions, tokens, acts and the trail, as the API says and takes them."""

from __future__ import annotations

from typing import Annotated, Any, Literal
from uuid import UUID

from pydantic import AwareDatetime, BaseModel, ConfigDict, Field, SecretStr

from hornfels.api.schemas import MOST_REASON, ShownOnce, Strict
from hornfels.core.rights.roles import Right, Role

Password = Annotated[SecretStr, Field(max_length=1000)]
Reason = Annotated[str, Field(max_length=MOST_REASON)]
PersonName = Annotated[str, Field(max_length=200)]
DomainName = Annotated[str, Field(min_length=1, max_length=255)]
"""A domain, “*” for every one."""


class PasswordGiven(Strict):
    password: Password


class PasswordChange(Strict):
    present: Password
    fresh: Password


class ElsewhereAsked(Strict):
    again: bool = Field(
        False, description="whether somebody who is signed in shows once more that they are there"
    )


class ElsewherePlace(BaseModel):
    """Where a browser goes next."""

    address: str


class ElsewhereBack(Strict):
    """What the provider sent somebody back with."""

    state: str = Field(max_length=200)
    code: str = Field("", max_length=4000)
    error: str = Field("", max_length=200)
    iss: str | None = Field(None, max_length=1000)


class SessionInfo(BaseModel):
    """A browser that somebody is signed in with."""

    id: UUID
    here: bool = Field(description="whether it is the one that asks")
    opened_at: str
    seen_at: str
    ends_at: str
    address: str
    agent: str


class TokenInfo(BaseModel):
    """A token by which a script acts for somebody."""

    id: UUID
    title: str
    domain: str
    rights: list[Right]
    made_at: str
    ends_at: str
    used_at: str | None
    ended: bool


class TokenNew(Strict):
    title: str = Field(min_length=1, max_length=100)
    domain: DomainName
    rights: list[Right] = Field(min_length=1)
    days: int = Field(ge=1, le=366)


class TokenMade(ShownOnce):
    """The only time that a token is shown."""

    token: TokenInfo
    text: str


class Held(BaseModel):
    domain: str
    role: Role


class PersonInfo(BaseModel):
    """Somebody who may sign in, with the roles that one may know of."""

    name: str
    grants: list[Held]
    shut: bool
    one_time: bool
    elsewhere: bool = Field(description="whether they sign in at the provider")
    directory: str | None = Field(description="the domain at whose directory they sign in")
    added_at: str
    seen_at: str | None


class PeopleAnswer(BaseModel):
    people: list[PersonInfo]
    roles: list[RoleInfo]
    domains: list[str] = Field(description="where one may give roles; “*” for everywhere")


class RoleInfo(BaseModel):
    role: Role
    allows: list[str]


class PersonNew(Strict):
    name: PersonName
    elsewhere: bool = Field(False, description="whether they sign in at the provider")


class RoleChange(Strict):
    domain: DomainName
    role: Role
    held: bool
    reason: Reason = ""


class PersonChange(Strict):
    what: Literal["shut", "let in", "reset", "elsewhere"]
    reason: Reason = ""


class ActInfo(BaseModel):
    """What somebody has asked for and a second person has to confirm."""

    id: int
    sentence: str
    details: list[str] = Field(description="what would happen one by one, empty for a small act")
    reason: str
    asked_by: str
    asked_at: str
    mine: bool


class ActAnswer(ShownOnce):
    """Whether it has happened, or waits for a second person."""

    waits: bool
    one_time: str | None = Field(None, description="a password to be handed over, shown this once")


class TrailAsked(BaseModel):
    """Which entries of the trail. Every part that is given narrows further."""

    model_config = ConfigDict(extra="forbid")

    person: PersonName = ""
    domain: str = Field("", max_length=255)
    what: str = Field("", max_length=100, description="how the deed begins, such as “draft”")
    words: str = Field("", max_length=200)
    since: AwareDatetime | None = None
    until: AwareDatetime | None = None


class TrailPageAsked(TrailAsked):
    before: int | None = Field(None, ge=1, lt=2**63, description="only entries before this number")


class EntryInfo(BaseModel):
    """One deed. ``detail`` holds what was before and after, the reason and the like."""

    id: int
    at: str
    person: str
    address: str
    request: str
    domain: str
    what: str
    about: str
    detail: dict[str, Any]


class TrailPage(BaseModel):
    entries: list[EntryInfo]
    more: bool
