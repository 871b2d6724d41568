"""A policy rehearsed in the directory itself."""

from __future__ import annotations

from typing import Literal, Self

from pydantic import BaseModel, Field, SecretStr, model_validator

from hornfels.api.schemas import Name, Seconds, Strict
from hornfels.core.lockout.machine import EventKind, Outcome


class RehearsalAsked(Strict):
    """What is tried on an account that is made for it: a candidate, an invented set on both sides
    of every rule, a story in our notation; one of them at least.
    """

    policy: Name = Field(description="a GUID, or “domain” for the domain policy")
    candidate: SecretStr | None = Field(None, max_length=256)
    boundary_set: bool = False
    story: str | None = Field(None, min_length=1, max_length=2_000)

    @model_validator(mode="after")
    def _something(self) -> Self:
        if self.candidate is None and not self.boundary_set and self.story is None:
            raise ValueError("Say what to rehearse: a candidate, the boundary set or a story.")
        return self


class TriedInfo(BaseModel):
    """A password that was set, or refused, and what we say of it. ``text`` is empty for a candidate
    of somebody's; ``why`` explains a difference.
    """

    about: str
    text: str
    accepted: bool
    ours: bool
    refused_by: list[str] = Field(description="labels of the rules that refuse it here")
    why: str


class PlayedInfo(BaseModel):
    """One event of the story as it was played, without the time between them."""

    at: Seconds
    event: EventKind
    outcome: Outcome
    ours: Outcome


class RehearsalAnswer(BaseModel):
    server: str
    tries: list[TriedInfo]
    played: list[PlayedInfo]
    agree: Literal["all", "some", "none"]
