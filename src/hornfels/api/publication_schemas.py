"""What publishing writes into a directory: looked at beforehand, and while it is under way."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, Field

from hornfels.api.people_schemas import Reason
from hornfels.api.schemas import JobInfo, Strict


class SaidInfo(BaseModel):
    """One thing that is changed, in words."""

    subject: str
    text: str
    before: str
    after: str


class PreviewStep(BaseModel):
    """What is sent in one step. Where the directory was asked, it may hold it already (``done``),
    or ``problem`` says why it would not be written.
    """

    said: list[SaidInfo]
    done: bool
    problem: str
    ldif: list[str] = Field(description="change records, line by line")


class TemplateFile(BaseModel):
    """A security template that has to be changed as a file: ``name`` is its object's, ``place`` is
    where the file belongs.
    """

    gpo: str
    name: str
    place: str


class PreviewInfo(BaseModel):
    """What publishing the draft would write, step by step."""

    server: str = Field(description="who was asked; empty where nobody is set to write")
    problem: str = Field(description="why the directory could not be asked")
    steps: list[PreviewStep]
    astray: int = Field(description="accounts that have a third policy for a moment meanwhile")
    templates: list[TemplateFile]
    written_to: int | None = Field(
        description="people who get a letter that other rules hold; null where none are written"
    )


class PublishedInfo(BaseModel):
    """``job`` writes the draft into the directory; null where it is live already."""

    job: JobInfo | None


class PublicationStep(BaseModel):
    said: list[SaidInfo]
    state: Literal["waiting", "begun", "done"]


class PublicationInfo(BaseModel):
    """A draft that is being written into the directory, or taken ``back``, or has stopped on the
    way.
    """

    draft: int
    title: str
    author: str
    begun_at: str
    state: Literal["going", "stopped"]
    back: bool
    told: str = Field(description="why it has stopped")
    job: JobInfo | None
    steps: list[PublicationStep]


class CloseReason(Strict):
    reason: Reason


class ClosedInfo(BaseModel):
    """``job`` syncs the domain after its publication was closed; null where no directory is
    connected.
    """

    job: JobInfo | None


class GoOn(Strict):
    back: bool = Field(description="take back what is done of it, in place of finishing it")
