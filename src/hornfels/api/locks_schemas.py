"""Locked accounts, and unlocking them."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import AfterValidator, BaseModel, Field

from hornfels.api.bench_schemas import Name
from hornfels.api.schemas import JobInfo, Strict, Title

MOST_SHOWN = 500
"""Locked accounts, and as many close to it, that are said one by one."""


class UnlockingInfo(BaseModel):
    """Somebody has asked for it; ``point`` is where it stands in the history."""

    point: int
    by: str
    at: str
    told: str | None = Field(
        None,
        description="what the directory said: empty if it is unlocked there, null if not asked",
    )
    job: JobInfo | None = Field(None, description="the reading that follows it")


class AccountUnder(BaseModel):
    """An account and the policy that it is under."""

    name: str
    display_name: str
    policy: str
    policy_name: str
    mark: int | None


class LockedAccount(AccountUnder):
    since: str | None
    tries: int
    until: str | None = Field(description="null until an operator unlocks it")
    asked: UnlockingInfo | None = Field(description="who has asked for it to be unlocked")


class CloseAccount(AccountUnder):
    """An account that a few more bad tries would lock."""

    tries: int
    left: int
    forgotten_at: str | None


class EarlierLock(BaseModel):
    """A lock of an account that some load has found."""

    at: str | None
    tries: int


class PatternInfo(BaseModel):
    kind: Literal["again", "together"]
    sentence: str
    accounts: list[str]
    locks: int


class LocksAnswer(BaseModel):
    """Totals, and the latest of each."""

    locked_total: int
    close_total: int
    locked: list[LockedAccount]
    close: list[CloseAccount]
    patterns: list[PatternInfo]


def _not_blank(text: str) -> str:
    if not text.strip():
        raise ValueError("Say why, for whoever reads the history.")
    return text.strip()


class UnlockNew(Strict):
    """Accounts to unlock, and why."""

    accounts: list[Name] = Field(min_length=1, max_length=MOST_SHOWN)
    reason: Annotated[Title, AfterValidator(_not_blank)] = Field(max_length=500)
