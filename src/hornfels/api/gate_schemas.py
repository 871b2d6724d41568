"""What the API says and takes at the gate, and of it."""

from __future__ import annotations

from datetime import UTC, date, datetime, time
from typing import Annotated, Literal
from uuid import UUID

from pydantic import AwareDatetime, BaseModel, Field, SecretStr

from hornfels.api.people_schemas import Reason
from hornfels.api.schemas import MOST_REASON, ShownOnce, Strict
from hornfels.core.gate.judging import GateOperation, Inquiry
from hornfels.core.gate.record import LONGEST_ACCOUNT, Outcome, Record
from hornfels.core.passwords.rules.rule import Status
from hornfels.core.policy.addition import PathName
from hornfels.core.values.time import moment_from_datetime
from hornfels.store.gate import CallerKind

LONGEST_CANDIDATE = 10_000
MOST_RECORDS = 1_000

Account = Annotated[str, Field(max_length=LONGEST_ACCOUNT)]
Candidate = Annotated[SecretStr, Field(max_length=LONGEST_CANDIDATE)]


class GateQuestion(Strict):
    """May this password be set for this account?"""

    account: Account = Field(description="its sAMAccountName; one that is unknown is a new one")
    operation: GateOperation = "unknown"
    candidate: Candidate
    present: Candidate | None = Field(
        None, description="the password that a change replaces, for rules about how close it is"
    )
    display_name: str = Field("", max_length=LONGEST_ACCOUNT)
    names: list[Account] = Field(
        default=[], max_length=20, description="more names that may not stand in it"
    )
    complexity_left: bool = Field(
        False, description="whoever asks leaves the check of complexity to the gate"
    )

    def inquiry(self) -> Inquiry:
        return Inquiry(
            self.account,
            self.operation,
            self.candidate.get_secret_value(),
            None if self.present is None else self.present.get_secret_value(),
            self.display_name,
            tuple(self.names),
            self.complexity_left,
        )


class GateRule(BaseModel):
    """What one rule says."""

    rule: str
    path: PathName | Literal[""]
    status: Status
    told: str = Field(description="a sentence for the person, where there is something to say")


class GateVerdict(BaseModel):
    """The answer, with what to tell the person."""

    accepted: bool
    told: str
    rules: list[GateRule]
    policy: str = Field(description="the policy it was judged by, empty for the domain policy")
    known: bool = Field(description="whether the account is one that was read")


class GateRecord(Strict):
    """One question that was answered elsewhere by these rules, without the candidate."""

    id: UUID
    at: AwareDatetime
    account: Account
    operation: GateOperation
    outcome: Outcome
    policy: str = Field("", max_length=LONGEST_ACCOUNT)
    rules: list[Annotated[str, Field(max_length=64)]] = Field(default=[], max_length=100)
    ends: date | None = Field(None, description="the day on which the password ends by its band")
    took: int = Field(0, ge=0, lt=2**31, description="microseconds")

    def record(self) -> Record:
        ends = None if self.ends is None else datetime.combine(self.ends, time(), UTC)
        return Record(
            self.id,
            moment_from_datetime(self.at),
            self.account,
            self.operation,
            self.outcome,
            self.policy,
            tuple(self.rules),
            None if ends is None else moment_from_datetime(ends),
            self.took,
        )


class GateRecords(Strict):
    """What a caller that judges by itself has answered, and how it stands."""

    rules: str = Field("", max_length=100, description="the ETag of the rules that it goes by")
    otherwise: Literal["", "refuse", "accept"] = Field(
        "", description="what becomes of a password about which no answer comes in time"
    )
    records: list[GateRecord] = Field(default=[], max_length=MOST_RECORDS)


class CallerNew(Strict):
    title: str = Field(min_length=1, max_length=100)
    kind: CallerKind
    reason: Reason = ""


class CallerInfo(BaseModel):
    """Who may ask, and how that stands."""

    id: UUID
    title: str
    kind: CallerKind
    made_by: str
    made_at: str
    seen_at: str | None
    judges: bool = Field(description="whether it judges by itself, by rules that it has fetched")
    otherwise: Literal["", "refuse", "accept"]
    accepted: int
    refused: int
    unanswered: int
    slowest: int | None = Field(description="microseconds that the slowest answer took")
    trouble: str


class CallerMade(ShownOnce):
    """A new caller and its token, which nobody can see again."""

    title: str
    kind: CallerKind
    token: str
    waits: bool = Field(description="whether the token opens nothing before a second person agrees")


class EndingDay(BaseModel):
    """How many passwords end on a day by their band."""

    day: date
    accounts: int


class LifetimesInfo(BaseModel):
    """Passwords that end by the length bands of additions."""

    banded: int = Field(description="accounts whose password ends by a band")
    from_gate: int = Field(description="those of which the gate knows the day")
    due: int = Field(description="those whose day has come")
    coming: list[EndingDay] = Field(description="the days of the next four weeks")
    enforced: bool
    possible: bool = Field(description="whether somebody is set to write into the directory")
    told: str = Field(description="what came of it last")
    waits: bool = Field(description="whether another choice waits for a second person")
    spared: list[str] = Field(description="accounts for which it is never done")


class AnswerInfo(BaseModel):
    """What came of a question."""

    id: UUID
    at: str
    caller: str
    account: str
    operation: GateOperation
    outcome: Outcome
    policy: str
    rules: list[str]
    took: int


class LifetimesEdit(Strict):
    enforced: bool
    spared: list[Account] = Field(
        default=[], max_length=200, description="accounts for which it is never done"
    )
    reason: str = Field("", max_length=MOST_REASON)
