"""What the API says and takes. Spans are seconds, null for never / until unlocked; moments are ISO
8601 in UTC.
"""

from __future__ import annotations

from datetime import date
from math import isfinite
from typing import Annotated, Literal, TypeVar
from uuid import UUID

from pydantic import AfterValidator, AwareDatetime, BaseModel, ConfigDict, Field, SecretStr

from hornfels.core.drafts.operations import Flag
from hornfels.core.findings.additions import Enforced
from hornfels.core.policy.catalogue import BY_KEY, Bite, PlainValue, SettingKey, TemplateKey
from hornfels.core.policy.model import name_problem
from hornfels.core.policy.starting_points import StartKey
from hornfels.core.rights.roles import Right
from hornfels.core.values.text import hidden

T = TypeVar("T")


def _finite(value: T) -> T:
    if isinstance(value, float) and not isfinite(value):
        raise ValueError("Give a number that is not infinite.")
    return value


Seconds = Annotated[float | int, AfterValidator(_finite)]
SettingValue = Annotated[bool | int | float | None, AfterValidator(_finite)]
Number = Annotated[int, Field(ge=1, lt=2**31)]
"""What the database numbers things by."""
Version = Number
MOST_REASON = 500
"""Characters of a reason."""
Fingerprint = Annotated[int, Field(ge=0, lt=2**63)]
"""Tells one state of a policy from another."""


class ShownOnce(BaseModel):
    """An answer that may hold a secret, which nobody can see again."""


class Strict(BaseModel):
    """A request body: unknown fields are refused, so that a misspelt one is not lost."""

    model_config = ConfigDict(extra="forbid")


class SignIn(Strict):
    name: str = Field(max_length=200)
    password: SecretStr = Field(max_length=1000)


class SignedIn(BaseModel):
    """Who is signed in, and what they may do in one domain at least."""

    name: str | None
    one_time: bool = Field(False, description="whether another password has to be chosen first")
    rights: list[Right] = []
    everywhere: list[Right] = Field([], description="what they may do in every domain")
    elsewhere: bool = Field(False, description="whether they sign in at the provider")
    directory: str | None = Field(
        None, description="the domain at whose directory they sign in, with the password there"
    )
    provider: str = Field("", description="what the provider is called, where there is one")
    own_page: bool = Field(False, description="whether people of a domain have a page of their own")


class SettingInfo(BaseModel):
    """One entry of the catalogue of settings."""

    key: TemplateKey
    everywhere: bool = Field(
        description="whether every policy has it; else only the domain policy, kept in templates"
    )
    label: str
    kind: Literal["count", "switch", "span"]
    unit: str
    section: Literal["composition", "age", "lockout", "kerberos"]
    explanation: str
    takes_effect: str
    low: int
    high: int
    endless: str | None = Field(description="the word for the value without end, if any")
    zero: str | None = Field(description="the word for 0 where that means something of its own")
    default: SettingValue = Field(
        description="what a new domain has, or a value to begin with; spans in seconds"
    )


class SettingsInfo(BaseModel):
    """All settings of one policy; spans in seconds, null for never and until unlocked."""

    min_length: int
    complexity: bool
    history_length: int
    reversible_encryption: bool
    min_age: int | float
    max_age: int | float | None
    lockout_threshold: int
    lockout_window: int | float
    lockout_duration: int | float | None


class StartingPointInfo(BaseModel):
    """Settings to start a new policy from; spans in seconds, reasons by setting."""

    key: str
    label: str
    settings: SettingsInfo
    reasons: dict[SettingKey, str]


class AdjustmentInfo(BaseModel):
    """Another setting's value to go along with one that was changed; spans in seconds."""

    key: SettingKey
    value: SettingValue
    reason: str


class DomainInfo(BaseModel):
    dns_name: str
    dn: str
    linked_groups: Literal["global", "any"]
    functional_level: int | None
    version: int
    source: str
    loaded_at: str
    accounts: int
    groups: int
    policies: int
    notices: list[str]
    approval_required: bool
    trials_required: bool
    pending: int = Field(description="publications that the directory does not hold yet")
    enforced: Enforced = Field(
        description="where additions hold: here alone, where a directory server asks at the gate "
        "(only under policies with complexity), or everywhere"
    )
    draft: int | None = Field(description="the draft that is shown, null for live")
    rights: list[Right] = Field(description="what one may do here")


class DomainEdit(Strict):
    linked_groups: Literal["global", "any"] | None = None
    approval_required: bool | None = None
    trials_required: bool | None = None
    reason: str = Field(
        "", max_length=MOST_REASON, description="why publishing wants something else"
    )
    version: Version


class DraftInfo(BaseModel):
    """A draft: a list of changes that are weighed, reviewed and published together."""

    id: int
    title: str
    reason: str
    author: str
    version: int
    changed_by: str
    changed_at: str
    approved_by: str | None
    approval_ended: str = Field(
        description="the reason for which the last approval ended, empty if none has ended"
    )
    contributors: list[str] = Field(description="who ever changed it, and so cannot approve it")
    changes: int
    conflicts: int = Field(
        description="changes that do not fit live; those that are so already are not among them"
    )
    already: int = Field(description="changes that are so already")
    all_there: bool = Field(description="whether nothing is left to do")
    can_undo: bool
    can_redo: bool


def _seen(text: str) -> str:
    if any(map(hidden, text)):
        raise ValueError("Take out the characters that control or cannot be seen.")
    return text


Title = Annotated[str, AfterValidator(_seen)]


class DraftNew(Strict):
    title: Title = Field(default="", max_length=100)


class DraftEdit(Strict):
    version: Version
    title: Title = Field(min_length=1, max_length=100)
    reason: str = Field(max_length=2000)


class DraftVersion(Strict):
    """Names the state of the draft that was seen."""

    version: Version


class DraftApproval(DraftVersion):
    """Names the text of the draft that the approver has read."""

    text: str = Field(pattern="^[0-9a-f]{64}$", description="`text` of the draft as shown")


class ChangeInfo(BaseModel):
    """One thing a draft does, in words. ``operation`` numbers the operation it belongs to."""

    operation: int
    text: str
    before: str
    after: str
    bites: str
    conflict: str = Field(description="why it does not fit live, empty if it does")
    already: bool = Field(description="whether it does not fit because it is so already")
    can_keep: bool = Field(
        description="whether the conflict can be resolved by writing it over what is live now"
    )


class ChangeGroup(BaseModel):
    subject: str
    changes: list[ChangeInfo]


class DraftDetail(DraftInfo):
    groups: list[ChangeGroup]
    text: str = Field(
        description="digest of the sentences and of the objects that they name, to approve by"
    )
    approval_required: bool
    what_ifs: int = Field(description="operations that are only weighed and not published")
    left_out: list[LeftOutInfo] = Field(description="what an LDIF file of the draft cannot hold")


class LeftOutInfo(BaseModel):
    """Something a draft does that its LDIF file does not do."""

    what: str
    why: str


class TransferInfo(BaseModel):
    """Accounts that go from one policy to another; a null mark is the domain policy."""

    before: str
    before_mark: int | None
    after: str
    after_mark: int | None
    accounts: int


class SettingImpactInfo(BaseModel):
    key: str
    stronger: int
    weaker: int
    weaker_privileged: int
    bites: Bite


class ImpactInfo(BaseModel):
    """What a draft does to people. ``expiring`` counts passwords for each of the next days,
    ``expiring_before`` as it is live.
    """

    accounts: int
    transfers: list[TransferInfo]
    settings: list[SettingImpactInfo]
    expire_at_once: int
    expiring: list[int]
    expiring_before: list[int]
    newly_lockable: int
    no_longer_lockable: int
    under_addition_before: int
    under_addition: int
    asked_otherwise: int = Field(
        description="accounts for whom what is asked beyond the directory changes"
    )
    weaker_privileged: int
    weaker_privileged_names: list[str] = Field(
        description="some of the administrators for whom something gets weaker"
    )


class WhatIfMembership(Strict):
    """An account or group put into a group or taken out of it, to be weighed."""

    member: str = Field(max_length=4000)
    group: str = Field(max_length=4000)
    join: bool


class WhatIfFlag(Strict):
    account: str = Field(max_length=4000)
    flag: Flag
    on: bool


PointKind = Literal["loaded", "published", "closed", "unlocking", "must change", "setting"]


class PointInfo(BaseModel):
    """A point in a domain's history."""

    id: int
    kind: PointKind
    title: str
    reason: str
    author: str
    approver: str | None
    at: str
    effect: list[str] = Field(
        description=(
            "what a changed setting does to accounts, or what the directory holds of each step of "
            "a closed publication"
        )
    )
    groups: list[ChangeGroup] = Field(description="what was published")
    can_undo: bool
    in_directory: bool | None = Field(
        description="whether the directory holds it; null where that is no question"
    )
    change_records: bool = Field(description="whether there is a file of change records")
    unlocked: list[str] = Field(description="the accounts that were to be unlocked")


class Comparison(BaseModel):
    """What changed between two points of a domain's history."""

    groups: list[ChangeGroup]


class TieInfo(BaseModel):
    guid: str
    name: str
    contested: int
    wins: bool


class TakenInfo(BaseModel):
    guid: str
    name: str
    accounts: int


class CourseInfo(BaseModel):
    """How the life of a password and of a lock run; spans in seconds."""

    changeable_after: Seconds
    expires_after: Seconds | None = Field(description="null if it never expires")
    locks_at: int | None = Field(description="the bad try that locks, null if none does")
    lock_lasts: Seconds | None = Field(description="null if it lasts until unlocked")


class RemainderInfo(BaseModel):
    """Accounts of one policy in populations that are too small to be listed."""

    governed: int = Field(description="accounts that the policy applies to")
    reached: int = Field(description="accounts that the policy reaches, overridden or not")


class Layer(BaseModel):
    """One policy as a layer, in evaluation order."""

    guid: str
    name: str
    precedence: int
    mark: int
    version: int
    change: Literal["", "new", "changed"] = Field(
        description="what the draft that is shown does to it"
    )
    settings: SettingsInfo
    summary: str = Field(description="length, age and tries in a few words")
    reached: int
    governed: int
    unlisted: RemainderInfo
    idle: str
    ties: list[TieInfo]


class Bedrock(BaseModel):
    version: int
    settings: SettingsInfo
    summary: str
    course: CourseInfo
    live: SettingsInfo | None = Field(
        description="its live settings, where the draft that is shown changes them"
    )
    problems: list[ProblemInfo]
    origins: list[OriginInfo] = Field(description="empty where no template was read")
    governed: int
    sources: list[GpoSource]


class IgnoredInfo(BaseModel):
    """A source that says something about a setting and is not heard."""

    source: str
    said: str
    why: str


class OriginInfo(BaseModel):
    """Who says one setting of the domain policy, and who is ignored. An empty source: none that was
    read says anything.
    """

    key: str
    label: str
    said: str
    source: str
    gpo: str
    ignored: list[IgnoredInfo]
    warning: str = Field(description="what is odd about it: the domain object holds another value")


class GpoSource(BaseModel):
    """A group policy object linked somewhere; only those at the domain root write the domain
    policy.

    ``says`` holds what its template says, spans in seconds; null where the template was not read.
    """

    gpo: str
    name: str
    says: dict[TemplateKey, SettingValue] | None
    container: str
    at_root: bool
    order: int
    enforced: bool
    disabled: bool = Field(description="not heard: its link or its computer part is switched off")
    link_off: bool


class Cell(BaseModel):
    """What one policy does to one population."""

    guid: str
    direct: bool
    holds: bool
    reason: str


class Population(BaseModel):
    key: str
    label: str
    who: str = Field(description="what its accounts are known by: the groups that they share")
    count: int
    moved: int = Field(description="accounts of it that the draft gives another policy")
    winner: str
    source: Literal["account", "group", "domain", "exempt"]
    sample: str = Field(description="the name of one of its accounts")
    cells: list[Cell]


class Strata(BaseModel):
    domain: DomainInfo
    layers: list[Layer]
    bedrock: Bedrock
    populations: list[Population]
    removed: list[str] = Field(description="names of the policies that the draft removes")
    unlisted: Unlisted


class Unlisted(BaseModel):
    """Populations too small to be listed, in sum."""

    populations: int
    accounts: int
    under_domain_policy: int = Field(description="accounts of these under the domain policy")


class WhatIf(Strict):
    """A change to weigh: another number or place for a policy, or a link to a group made or taken
    away.
    """

    guid: UUID
    precedence: int | None = None
    place: int | None = Field(
        default=None, ge=0, description="position among the other policies, 0 first"
    )
    link: str | None = Field(default=None, max_length=4000, description="DN of a group")
    unlink: str | None = Field(default=None, max_length=4000, description="DN of a group")


class MoveInfo(BaseModel):
    """Accounts of one population that would change policy; “domain” is the domain policy."""

    population: str
    accounts: int
    before: str
    before_name: str
    after: str
    after_name: str
    after_mark: int | None
    stronger: list[str]
    weaker: list[str]


class WhatIfAnswer(BaseModel):
    precedence: int | None = Field(
        description="the number weighed; null where no whole number is free"
    )
    order: list[str]
    accounts: int
    moves: list[MoveInfo]
    sentence: str


class MendInfo(BaseModel):
    """An edit that mends a finding, ready to be sent to the policy."""

    label: str
    guid: str
    edit: PolicyEdit


class AcceptanceInfo(BaseModel):
    reason: str
    until: date
    by: str


class FindingInfo(BaseModel):
    key: str
    kind: str
    severity: Literal["high", "medium", "low"]
    title: str
    why: str
    policy: str | None = Field(
        description='a GUID, "domain" for the domain policy, null where none is to blame'
    )
    mark: int | None
    accounts: int
    setting: str
    account: str
    mend: MendInfo | None
    accepted: AcceptanceInfo | None


class Findings(BaseModel):
    findings: list[FindingInfo] | None = Field(
        description="null while they are still being looked for"
    )


class Acceptance(Strict):
    key: str = Field(max_length=500)
    reason: str = Field(min_length=3, max_length=2000)
    until: date


class ProblemInfo(BaseModel):
    field: str
    severity: Literal["error", "warning"]
    message: str


class LinkInfo(BaseModel):
    dn: str
    name: str
    kind: str
    scope: str
    direct_members: int
    trouble: str
    nested: list[str] = Field(description="groups nested in a linked group, nearest first")


class LivePolicy(BaseModel):
    """How a policy stands live while a draft changes it."""

    name: str
    precedence: int
    settings: SettingsInfo
    links: list[str]


class PolicyDetail(BaseModel):
    guid: str
    dn: str
    name: str
    precedence: int
    mark: int
    guarded: bool
    version: int
    changed_by: str
    changed_at: str
    settings: SettingsInfo
    live: LivePolicy | None
    bedrock: SettingsInfo
    problems: list[ProblemInfo]
    reached: int
    governed: int
    taken_by: list[TakenInfo]
    idle: str
    ties: list[TieInfo]
    links: list[LinkInfo]
    guess_budget: str
    reuse: str
    course: CourseInfo


class SettingsEdit(Strict):
    """New values for some settings; what is left out stays exactly as it is."""

    min_length: int | None = None
    complexity: bool | None = None
    history_length: int | None = None
    reversible_encryption: bool | None = None
    min_age: Seconds | None = None
    max_age: Seconds | None = None
    lockout_threshold: int | None = None
    lockout_window: Seconds | None = None
    lockout_duration: Seconds | None = None

    def given(self) -> dict[SettingKey, PlainValue]:
        """The settings that are given, null for never and until unlocked."""
        return {key: getattr(self, key) for key in BY_KEY if key in self.model_fields_set}


def _policy_name(name: str) -> str:
    problem = name_problem(name)
    if problem:
        raise ValueError(problem)
    return name


Name = Annotated[str, AfterValidator(_policy_name)]


class PolicyNew(Strict):
    """A policy that begins with a starting point, or as a copy of another policy."""

    name: Name
    precedence: int
    start: StartKey = "new-domain"
    copy_of: UUID | None = None
    same_links: bool = Field(default=False, description="whether a copy has the same links too")
    settings: SettingsEdit = SettingsEdit()
    links: list[str] = Field(default=[], max_length=200, description="DNs of accounts and groups")


class PolicyEdit(Strict):
    version: Fingerprint
    name: Name | None = None
    precedence: int | None = None
    guarded: bool | None = None
    settings: SettingsEdit = SettingsEdit()


class EditToWeigh(Strict):
    """An edit that is not saved; without a policy, a new one that starts from the defaults."""

    policy: UUID | Literal["domain"] | None
    precedence: int | None = None
    settings: SettingsEdit = SettingsEdit()


class EditWeighed(BaseModel):
    """What stands in the way of an edit, whom it would hit, and what the settings come to."""

    problems: list[ProblemInfo]
    sentence: str
    guess_budget: str
    reuse: str
    course: CourseInfo


class AttributeInfo(BaseModel):
    """One attribute as the directory holds it, its values as written in LDIF."""

    name: str
    values: list[str]
    reads: str = Field(description="what the value means, where its digits do not say")


class SourceEdit(Strict):
    """What the template of one group policy object is to say; a setting under ``unset`` is to say
    nothing.
    """

    gpo: str = Field(max_length=4000)
    settings: dict[TemplateKey, SettingValue] = {}
    unset: list[TemplateKey] = []


class SourceLinkEdit(Strict):
    """Another place among the links at the domain root (0 first), or a switch of the link."""

    gpo: str = Field(max_length=4000)
    place: int | None = Field(default=None, ge=0)
    enforced: bool | None = None
    disabled: bool | None = None


class BedrockEdit(Strict):
    """New values of the domain policy."""

    version: Fingerprint
    settings: SettingsEdit


class AdjustmentsAsked(Strict):
    """All settings as they would be, and the one that was just changed."""

    settings: SettingsEdit
    changed: SettingKey


class LinkNew(Strict):
    version: Fingerprint
    dn: str = Field(max_length=4000)


class Conflict(BaseModel):
    """Somebody else was faster: how the policy stands now."""

    message: str
    current: PolicyDetail | Bedrock


class AccountsAsked(BaseModel):
    """Which accounts, in which order. Every part that is given narrows further."""

    model_config = ConfigDict(extra="forbid")

    q: str = Field("", max_length=200, description="words in the account's or its display name")
    policy: UUID | Literal["domain"] | None = None
    population: str | None = Field(None, max_length=40)
    group: str | None = Field(
        None, max_length=300, description="a group that they are in, at any depth"
    )
    way: Literal["account", "group", "domain", "exempt"] | None = Field(
        None, description="how their policy comes to them"
    )
    tie: bool | None = Field(
        None, description="whether two policies of one precedence compete for them"
    )
    locked: bool | None = None
    expiry: Literal["must_change", "expired", "never", "unknown"] | None = None
    within: int | None = Field(
        None, ge=1, le=36_500, description="the password expires in that many days"
    )
    enabled: bool | None = None
    privileged: bool | None = Field(
        None, description="whether they are in the administrators' groups"
    )
    flag: list[
        Literal[
            "disabled",
            "no_password_required",
            "reversible_encryption",
            "never_expires",
            "smart_card_required",
        ]
    ] = Field(default=[], max_length=5)
    container: str | None = Field(
        None, max_length=2000, description="a distinguished name that they lie below"
    )
    set_before: AwareDatetime | None = Field(
        None, description="the password was set before this moment"
    )
    order: Literal[
        "name", "display_name", "policy", "why", "expires", "set", "bad_tries", "container"
    ] = "name"
    descending: bool = False


class AccountsPageAsked(AccountsAsked):
    offset: int = Field(0, ge=0, lt=2**31)
    limit: int = Field(100, ge=1, le=500)


class AccountRow(BaseModel):
    row: int
    name: str
    display_name: str
    policy: str
    policy_name: str
    was: str | None = Field(description="its live policy, where the draft gives it another one")
    mark: int | None
    source: Literal["account", "group", "domain", "exempt"]
    through: str | None = Field(description="the linked group that brings the policy")
    tie: bool = Field(description="whether two policies of one precedence compete for it")
    expiry: Literal["never", "now", "at", "unknown"]
    expires_at: str | None
    set_at: str | None
    bad_tries: int
    locked: bool
    flags: list[str]
    container: str


class AccountPage(BaseModel):
    total: int
    offset: int
    rows: list[AccountRow]


class ContainerInfo(BaseModel):
    dn: str
    accounts: int


class GroupLink(BaseModel):
    guid: str
    name: str
    precedence: int
    mark: int
    trouble: str


class GroupShare(BaseModel):
    """How many of a group's accounts get one policy; “domain” is the domain policy."""

    guid: str
    name: str
    mark: int | None
    accounts: int
    sample: str = Field(description="one of these accounts")


class GroupInfo(BaseModel):
    name: str
    dn: str
    scope: str
    security: bool
    direct: int
    accounts: int
    inside: list[str] = Field(description="groups that list it")
    nested: list[str] = Field(description="groups it lists")
    links: list[GroupLink]
    shares: list[GroupShare]


class Step(BaseModel):
    name: str
    dn: str
    scope: str
    primary: bool


class CoreLayer(BaseModel):
    """One policy in an account's core, with the way it comes by; no steps for a direct link."""

    guid: str
    name: str
    precedence: int
    mark: int
    outcome: Literal["wins", "loses", "does not count"]
    reason: str
    direct: bool
    steps: list[Step]
    alternatives: int = Field(description="equally short ways, this one included")
    other_ways: list[list[str]] = Field(
        description="groups of the other equally short ways, a dozen altogether at most"
    )


class ForceSetting(BaseModel):
    key: str
    value: SettingValue
    policy_value: SettingValue
    bent_by: str


class FlagInfo(BaseModel):
    flag: str
    setting: str
    effect: str


class BandEnd(BaseModel):
    """When the password of an account ends by the length bands of its policy."""

    day: date
    from_gate: bool = Field(description="else it is taken for one of the shortest band")
    enforced: bool = Field(description="whether it has to be changed then")


class AccountCore(BaseModel):
    name: str
    dn: str
    display_name: str
    source: Literal["account", "group", "domain", "exempt"]
    policy: str
    policy_name: str
    mark: int | None
    reason: str
    layers: list[CoreLayer]
    settings: list[ForceSetting]
    flags: list[FlagInfo]
    password_set: str | None
    expiry: Literal["never", "now", "at", "unknown"]
    expires_at: str | None
    expiry_reason: str
    band_end: BandEnd | None
    locked: bool
    locked_since: str | None
    locked_until: str | None
    bad_count: int
    population: str


class Hit(BaseModel):
    kind: Literal["account", "group", "policy"]
    name: str
    detail: str
    dn: str
    guid: str | None
    mark: int | None
    counts: bool


class Hits(BaseModel):
    hits: list[Hit]


class Confirmation(Strict):
    """Why something goes on that was held."""

    reason: str = Field(max_length=MOST_REASON)


class JobInfo(BaseModel):
    """Long work and how far it is."""

    id: UUID
    kind: Literal[
        "load",
        "findings",
        "trials",
        "read",
        "agreement",
        "publish",
        "lifetimes",
        "exposure",
        "mailing",
        "report",
        "spread",
    ]
    state: Literal["queued", "running", "held", "done", "failed", "cancelled"]
    name: str = Field(description="what it works on, such as the file that is loaded")
    step: str
    done: int = Field(description="how much of the step is done")
    of: int = Field(
        description=(
            "of how much, 0 where that is not known; bytes while reading, rows while storing"
        )
    )
    rate: float = Field(description="how much of it a second, 0 where that is not known yet")
    left: float | None = Field(
        description="seconds that the step still takes, where that can be told"
    )
    stopping: bool
    error: str
    losses: list[str] = Field(
        description="what a held import or sync would take away, in sentences, before it goes on"
    )
    waits: bool = Field(description="whether the losses wait to be confirmed by a second person")
    domain: str | None
    user: str
    at: str
    can_retry: bool


Bedrock.model_rebuild()
Strata.model_rebuild()
MendInfo.model_rebuild()
FindingInfo.model_rebuild()
