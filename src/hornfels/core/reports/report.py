"""The parts of a report, ready to be written down."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from datetime import date, datetime

from hornfels.core.baselines.assessing import Assessment
from hornfels.core.baselines.baseline import Baseline
from hornfels.core.domain.estate import Estate
from hornfels.core.drafts.impact import Impact
from hornfels.core.drafts.sentences import Sentence
from hornfels.core.findings.finding import Finding
from hornfels.core.resolution.section import Section
from hornfels.core.servers.agreement import Coverage

Mark = Callable[[int], int | None]
"""The number of a policy's look, by the policy's; None for the domain policy."""


@dataclass(frozen=True, slots=True)
class Under:
    """Accounts under a policy: who they are, how many, and why they are under this one."""

    who: str
    count: int
    why: str


@dataclass(frozen=True, slots=True)
class PolicyPart:
    """One policy: its settings with their values in words, what it asks of people, whom it is
    linked to, and who is under it. ``precedence`` is None for the domain policy, ``mark`` numbers
    its look; ``trouble`` says why it governs nobody, or that it is tied.
    """

    name: str
    precedence: int | None
    mark: int | None
    accounts: int
    settings: tuple[tuple[str, str], ...]
    words: tuple[str, ...]
    links: tuple[str, ...]
    under: tuple[Under, ...]
    trouble: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Accepted:
    """That a finding, or that a recommendation is not followed, is accepted until a day."""

    reason: str
    until: date
    by: str


@dataclass(frozen=True, slots=True)
class FindingPart:
    finding: Finding
    accepted: Accepted | None = None


@dataclass(frozen=True, slots=True)
class BaselinePart:
    """A baseline with what comes of each recommendation; what is accepted goes by its key."""

    baseline: Baseline
    found: tuple[Assessment, ...]
    accepted: dict[str, Accepted]

    @property
    def met(self) -> int:
        return sum(one.state == "met" for one in self.found)


@dataclass(frozen=True, slots=True)
class ChangePart:
    """A point of the history: what was done when, by whom and why, who approved it, and what it
    changed in words; of accounts, how many it was about.
    """

    at: datetime
    kind: str
    title: str
    reason: str
    author: str
    approver: str
    sentences: tuple[Sentence, ...]
    accounts: int = 0


@dataclass(frozen=True, slots=True)
class ServerPart:
    """A set of servers that should agree."""

    name: str
    coverage: Coverage


@dataclass(frozen=True, slots=True)
class WeekLine:
    """How many passwords end in the week from a day on."""

    begins: date
    many: int


@dataclass(frozen=True, slots=True)
class BunchLine:
    """A day on which many passwords end, and why."""

    day: date
    many: int
    told: str


@dataclass(frozen=True, slots=True)
class GuessLine:
    """What a policy leaves a guesser within the life of a password, and the minutes a year that one
    person gives for it, as people read them.
    """

    name: str
    mark: int | None
    tries: str
    chance: str
    minutes: str


@dataclass(frozen=True, slots=True)
class ForecastPart:
    """When people's passwords end, week by week, what is on no day, and what guessing costs."""

    weeks: tuple[WeekLine, ...]
    bunches: tuple[BunchLine, ...]
    ended: int
    to_change: int
    never: int
    unknown: int
    guesses: tuple[GuessLine, ...]


@dataclass(frozen=True, slots=True)
class ExposureLine:
    """Accounts under a policy whose passwords others know: all of them, each once, and by what is
    known; those who share one with others are counted apart.
    """

    name: str
    mark: int | None
    accounts: int
    exposed: int
    listed: int
    blank: int
    own_name: int
    house_term: int
    shared: int


@dataclass(frozen=True, slots=True)
class ExposurePart:
    """What was found when accounts were last compared with known passwords, and how many were."""

    at: datetime
    compared: int
    lines: tuple[ExposureLine, ...]


@dataclass(frozen=True, slots=True)
class NoticesPart:
    """Letters to people from a day on: handed over, by what they were about (one may be about
    several things), and those that did not arrive for sure.
    """

    since: date
    sent: int
    about: tuple[tuple[str, int], ...]
    refused: int
    uncertain: int
    waiting: int


@dataclass(frozen=True, slots=True)
class Head:
    """Which domain, as last read from where and when, and when the report was made. ``draft`` is
    the title of the draft that it tells of instead of live, "" for live.
    """

    domain: str
    source: str
    read_at: datetime | None
    made_at: datetime
    draft: str = ""


@dataclass(frozen=True, slots=True)
class DomainReport:
    """A domain's policies, who is under which and why, and what is to be said of them. What is None
    is not told of: there may be no history to look at.
    """

    head: Head
    estate: Estate
    section: Section
    policies: tuple[PolicyPart, ...]
    findings: tuple[FindingPart, ...]
    baselines: tuple[BaselinePart, ...]
    changes: tuple[ChangePart, ...] | None = None
    since: date | None = None
    servers: tuple[ServerPart, ...] = ()
    forecast: ForecastPart | None = None
    exposure: ExposurePart | None = None
    notices: NoticesPart | None = None


@dataclass(frozen=True, slots=True)
class Transferred:
    """Accounts that went from one policy to another, by name."""

    before: str
    after: str
    accounts: int


@dataclass(frozen=True, slots=True)
class ChangeReport:
    """A publish: what it changed, and whom that hits among the accounts as last read; None where
    that cannot be told any more.
    """

    head: Head
    change: ChangePart
    impact: Impact | None
    transfers: tuple[Transferred, ...] = ()
