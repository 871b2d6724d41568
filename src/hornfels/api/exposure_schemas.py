"""What the API says of accounts whose passwords others know, and of the corpora at hand."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from pydantic import AfterValidator, BaseModel, Field

from hornfels.api.bench_schemas import Name
from hornfels.api.locks_schemas import AccountUnder
from hornfels.api.schemas import MOST_REASON, JobInfo, Strict
from hornfels.core.exposure.known import Kind
from hornfels.service.exposure_orders import MOST_DAYS
from hornfels.store.exposure import Consequence

MOST_LISTED = 2_000
MOST_CONFIRMED = 2_000


class CorpusInfo(BaseModel):
    """A corpus at hand, of one or more files."""

    name: str
    kind: Literal["sha1", "nt"] | None
    folded: bool
    entries: int
    seen: int = Field(description="the counts of all entries")
    bytes: int
    files: int
    compares: bool = Field(description="whether accounts can be compared with it")
    problem: str = Field(description="what is wrong with a file of it")


class ExposureCounts(BaseModel):
    """Accounts by what is known of their passwords. Those that share one are not exposed for it."""

    exposed: int
    listed: int
    blank: int
    own_name: int
    house_term: int
    shared: int


class ExposureRun(ExposureCounts):
    """One time that accounts were compared."""

    at: datetime
    whole: bool = Field(description="with everything, not only with what was new")
    compared: int
    unknown: int = Field(description="names in the file that no account here has")
    groups: int = Field(description="groups that share a password")


class ExposureOrder(BaseModel):
    """What becomes of exposed accounts under a policy."""

    consequence: Consequence
    days: int
    standing: bool = Field(description="done without anybody's word")


class PopulationExposure(BaseModel):
    """How far others know the passwords of a population."""

    key: str
    who: str = Field(description="what its accounts are known by")
    accounts: int
    exposed: int


class PolicyExposure(ExposureCounts):
    """How far others know the passwords of those under a policy."""

    policy: str
    policy_name: str
    mark: int | None
    accounts: int
    due: int
    order: ExposureOrder
    populations: list[PopulationExposure] = Field(
        description="those with the largest shares first, where there are several"
    )


class SharedGroup(BaseModel):
    """Accounts that have the same password."""

    group: int
    size: int
    members: list[str] | None = Field(description="null for who may not see them")


class ExposureDeed(BaseModel):
    """An account that was told to choose another password; `told` says why it was refused."""

    at: datetime
    by: str
    account: str
    policy_name: str
    told: str


class ExposureInfo(BaseModel):
    """How a domain stands."""

    file: str = Field(
        description="the file that accounts' hashes come from, on the worker's side; empty for "
        "whoever may not load"
    )
    trouble: str = Field(
        description="why the last comparison failed, without files for whoever may not load"
    )
    job: JobInfo | None
    runs: list[ExposureRun] = Field(description="the latest first")
    now: ExposureCounts
    policies: list[PolicyExposure]
    groups: list[SharedGroup]
    corpora: list[CorpusInfo]
    deeds: list[ExposureDeed]
    possible: bool = Field(description="whether somebody is set to write into the directory")
    waits: bool = Field(description="whether another order waits for a second person")
    spared: list[str] = Field(description="accounts that are never told to")


class ExposureReason(BaseModel):
    kind: Kind
    list: str
    since: datetime


class ExposedAccount(AccountUnder):
    """An account, and what is known of its password."""

    reasons: list[ExposureReason]
    since: datetime
    group: int = Field(description="those who share its password, 0 for nobody")
    due_at: datetime | None = Field(description="when it has to choose another by its policy")
    spared: bool = Field(description="never told to, by name, by its flags or for what it is")


class ExposedAccounts(BaseModel):
    """The newest of them, and how many there are."""

    total: int
    accounts: list[ExposedAccount]


def _said(text: str) -> str:
    if not text.strip():
        raise ValueError("Say why: it stands in the trail, for whoever looks later.")
    return text.strip()


Reason = Annotated[str, Field(max_length=MOST_REASON), AfterValidator(_said)]


class OrderEdit(Strict):
    consequence: Consequence
    days: int = Field(0, ge=0, le=MOST_DAYS)
    standing: bool = False
    reason: Reason


class PlanConfirmed(Strict):
    """The accounts that somebody has seen in the plan."""

    accounts: list[Name] = Field(min_length=1, max_length=MOST_CONFIRMED)
    reason: Reason


class PlanDone(BaseModel):
    required: int = Field(description="accounts that must change the password now")
    pending: int = Field(description="accounts that wait in change records")
    refused: int
    point: int | None = Field(description="the entry in the history")
