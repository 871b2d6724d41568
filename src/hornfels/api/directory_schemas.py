"""Directories: how they are reached, how far they were read, and what they say otherwise."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, Field

from hornfels.api.people_schemas import Reason
from hornfels.api.schemas import JobInfo, Strict
from hornfels.service.connections import Connection


class NewsInfo(BaseModel):
    """One thing that a reading found otherwise; ``at`` is the moment it was changed and ``where``
    the server, as far as the directory says.
    """

    subject: str
    text: str
    names: list[str]
    at: str = ""
    where: str = ""


class TemplateNote(BaseModel):
    """What came of the template of one group policy object."""

    name: str
    read: bool
    problem: str


class DisagreementInfo(BaseModel):
    account: str
    about: Literal["policy", "expiry"]
    ours: str
    theirs: str
    reason: str


class AgreementInfo(BaseModel):
    """The directory's own word beside ours."""

    at: str
    asked: int
    everybody: bool
    disagree: int
    found: list[DisagreementInfo]


class ReadingInfo(BaseModel):
    """How far a directory was read."""

    server: str
    read_at: str | None
    whole_at: str | None
    tried_at: str | None
    error: str
    objects: int
    whole: bool = Field(description="whether everything was read the last time")
    first: bool
    news: list[NewsInfo]
    templates: list[TemplateNote]
    agreement: AgreementInfo | None


class DirectoryInfo(BaseModel):
    """A domain's directory; ``connection`` is for those who may set it."""

    connected: bool
    version: int
    changed_by: str
    connection: Connection | None
    reading: ReadingInfo | None
    job: JobInfo | None = Field(description="what is being read or compared just now, or was last")
    stage: str = Field(description="the container in which accounts rehearse; empty for none")
    dumps_until: str | None = Field(
        description="until when dumps of the domain are imported though its directory is connected"
    )
    shares: bool = Field(description="whether domain shares are mounted, to read templates from")


class ConnectionAsked(Strict):
    connection: Connection
    version: int = Field(ge=0, lt=2**31, description="the version that was seen, 0 for none")
    reason: Reason = ""


class ConnectionAnswer(BaseModel):
    waits: bool = Field(description="whether it waits for a second person")


class DumpsAllowed(Strict):
    reason: Reason = ""


class ConnectionTried(Strict):
    connection: Connection


class StepInfo(BaseModel):
    title: str
    state: Literal["works", "fails", "note"]
    told: str


class ReadAsked(Strict):
    whole: bool = Field(False, description="everything, not only what has changed")
