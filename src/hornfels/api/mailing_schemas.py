"""What people are written: choosing it, seeing it beforehand, what became of it."""

from __future__ import annotations

from typing import Literal
from uuid import UUID

from pydantic import BaseModel, Field

from hornfels.api.people_schemas import Reason
from hornfels.api.schemas import JobInfo, Strict
from hornfels.core.mailing.due import DAYS, Kind
from hornfels.service.mailing import Mailing
from hornfels.store.letters import State


class PolicyChoice(BaseModel):
    ref: str
    name: str


class MailingInfo(BaseModel):
    """What is chosen, and how letters get out."""

    mailing: Mailing
    version: int
    server: str = Field(description="the mail server, empty for none")
    security: Literal["tls", "starttls", "none"]
    sender: str
    trouble: str = Field(description="why nothing can be sent, empty if nothing is wrong")
    stand_in: bool = Field(description="a stand-in takes the letters, and sends none on")
    languages: list[str]
    policies: list[PolicyChoice]
    looked_at: str | None
    told: str
    job: JobInfo | None
    lately: dict[State, int] = Field(description="letters of the last 24 hours, by their state")


class MailingEdit(Strict):
    mailing: Mailing
    version: int = Field(ge=0, le=2**31 - 1)
    reason: Reason
    confirmed_host: str = Field(
        "", max_length=255, description="the host of the page, where it is named for the first time"
    )


class MailingTried(Strict):
    """What would be written if this were chosen."""

    mailing: Mailing


class AboutCount(BaseModel):
    kind: Kind
    people: int


class PlannedLetter(BaseModel):
    account: str
    display_name: str
    address: str
    language: str
    about: list[Kind]


class PlannedInfo(BaseModel):
    """Who would be written to by now: all in numbers, the first by name."""

    people: int
    by_kind: list[AboutCount]
    first: list[PlannedLetter]
    unreachable: int = Field(description="who would be, and has no address")
    without_address: list[str] = Field(description="the first of those, by name")


class SampleAsked(Strict):
    mailing: Mailing
    account: str = Field(max_length=1000)
    kind: Kind
    language: str = Field("", max_length=35, description="what the person prefers, if left out")


class SampleLooked(Strict):
    """The same as an address that a page can be looked at by."""

    account: str = Field(max_length=1000)
    kind: Kind
    language: str = Field("", max_length=35, description="what the person prefers, if left out")
    days: list[int] = Field(list(DAYS), description="days before a password ends")
    zone: str = Field("UTC", max_length=64, description="whose hours these are (IANA)")
    page: str = Field("", max_length=300, description="the address that letters name, if any")

    @property
    def mailing(self) -> Mailing:
        return Mailing(days=tuple(self.days), zone=self.zone, page=self.page)


class LetterShown(BaseModel):
    to: str
    language: str
    subject: str
    lines: list[str] = Field(description="its text; the same words go along as HTML")


class TestAsked(Strict):
    mailing: Mailing
    address: str = Field(max_length=254)


class LetterInfo(BaseModel):
    id: UUID
    account: str
    address: str
    language: str
    about: list[Kind]
    state: State
    tries: int
    told: str
    made_at: str
    changed_at: str


class KeptLetter(BaseModel):
    """What the stand-in for a mail server has kept."""

    name: str
    at: str
    to: str
    sender: str
    subject: str
    language: str
    lines: list[str] = Field(description="its text; the same words go along as HTML")
