"""Servers that should agree, as the API tells of them."""

from __future__ import annotations

from datetime import date
from typing import Annotated, Literal

from pydantic import BaseModel, Field, StringConstraints

from hornfels.api.publication_schemas import SaidInfo
from hornfels.api.schemas import Strict
from hornfels.formats.server_files import MOST_NAME
from hornfels.service.servers import Way

SetName = Annotated[
    str, StringConstraints(strip_whitespace=True, min_length=1, max_length=MOST_NAME)
]


class ServerSetInfo(BaseModel):
    """A set of servers that should agree, and how many do. What could not be read counts in
    neither.
    """

    id: int
    name: str
    agree: int
    differ: int
    unread: int


class FolderProblem(BaseModel):
    """Something in the watched folder that cannot be understood."""

    place: str
    problem: str


class WatchedServers(BaseModel):
    """The folder on the machine that is watched for the domain."""

    folder: str
    problems: list[FolderProblem]


class ServerSets(BaseModel):
    """The sets of a domain, and the folder that is watched for them, if any."""

    sets: list[ServerSetInfo]
    watched: WatchedServers | None


class ServerSetNew(Strict):
    name: SetName


class HeldAgainst(BaseModel):
    """What the servers of a set are held against: what most say, what was agreed on, or what one of
    them says. ``missing`` names a chosen one that cannot be read, so that what most say counts.
    """

    way: Way
    server: str
    missing: str
    by: str
    at: str | None


class ServerSetting(BaseModel):
    """A setting that any of the servers, or what they are held against, says something of."""

    key: str
    label: str
    wanted: str
    like: int = Field(description="how many of those that could be read say so")
    tied: bool = Field(description="another answer is given as often, so none is what most say")


class ServerInfo(BaseModel):
    """A server. ``said`` has what it says of each setting where that is not what is wanted, else
    null.
    """

    name: str
    state: Literal["agrees", "differs", "not read"]
    problem: str
    said: list[str | None]
    read_at: str


class ServerDay(BaseModel):
    """How it stood at the end of a day on which something was new."""

    day: date
    agree: int
    differ: int
    unread: int


class ServerMatrix(BaseModel):
    """A set of servers against the settings of their templates. ``seen`` stands for what is
    wanted.
    """

    set: ServerSetInfo
    held: HeldAgainst
    seen: str
    settings: list[ServerSetting]
    servers: list[ServerInfo]
    days: list[ServerDay]
    script: list[str] = Field(description="the lines that take a corrected file in, there")


class ServerTaken(BaseModel):
    """What came of one file."""

    name: str
    problem: str


class HoldAgainst(Strict):
    """What the servers of a set are to be held against. What is agreed on is what is wanted at the
    moment, which was ``seen``.
    """

    way: Way
    server: str = Field("", max_length=MOST_NAME)
    seen: str = Field("", max_length=64)


class ServerTurn(BaseModel):
    """What one reading of a server found otherwise than the one before, or why it could not be."""

    at: str
    problem: str
    changes: list[SaidInfo]
    is_first: bool


class ServerCourse(BaseModel):
    """What was read of a server, the newest first."""

    turns: list[ServerTurn]
