"""The estate: one domain as last read, with its accounts, groups and memberships as columns (domain
rules §1).

Accounts and groups are numbered by row. Row numbers mean something only within one estate.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from enum import IntFlag
from functools import cached_property
from typing import Literal, NamedTuple
from uuid import UUID

import numpy as np
import numpy.typing as npt

from hornfels.core.policy.addition import Addition
from hornfels.core.policy.catalogue import Template
from hornfels.core.policy.model import Policy, Settings
from hornfels.core.policy.term_lists import TermList
from hornfels.core.values.sid import split_sid
from hornfels.core.values.text import TextColumn

Int32 = npt.NDArray[np.int32]
Int64 = npt.NDArray[np.int64]
UInt32 = npt.NDArray[np.uint32]
Bools = npt.NDArray[np.bool_]

LinkedGroups = Literal["global", "any"]
"""Which linked groups count: *global* security groups (the specification) or *any* security group
(some servers).
"""

KERBEROS_SERVICE_RID = 502
EVERYONE_RID = 513
"""The group that holds everybody, and a new account from its first moment (`Domain Users`)."""
FINE_GRAINED_LEVEL = 3
"""The lowest functional level at which fine-grained policies apply."""

UNKNOWN_TIME = -1
"""Stands in a column of moments where the source did not say."""


class Control(IntFlag):
    """The bits of ``userAccountControl`` that matter here ([MS-ADTS] 2.2.16)."""

    DISABLED = 0x2
    NO_PASSWORD_REQUIRED = 0x20
    REVERSIBLE_ENCRYPTION = 0x80
    INTERDOMAIN_TRUST = 0x800
    WORKSTATION_TRUST = 0x1000
    SERVER_TRUST = 0x2000
    NEVER_EXPIRES = 0x10000
    SMART_CARD_REQUIRED = 0x40000


TRUST_BITS = int(Control.INTERDOMAIN_TRUST | Control.WORKSTATION_TRUST | Control.SERVER_TRUST)

LINK_DISABLED, LINK_ENFORCED = 1, 2
"""Options of a link in ``gPLink`` ([MS-GPOL] 2.2.2)."""

GROUP_BUILTIN, GROUP_GLOBAL, GROUP_DOMAIN_LOCAL, GROUP_UNIVERSAL, GROUP_SECURITY = (
    0x1,
    0x2,
    0x4,
    0x8,
    0x80000000,
)
"""Bits of ``groupType`` ([MS-ADTS] 2.2.12)."""


@dataclass(frozen=True)
class GpoLink:
    """One group policy object linked to a container, in link order 1, 2, 3 … (domain rules §4)."""

    container: str
    gpo: str
    name: str
    order: int
    enforced: bool
    disabled: bool
    computer_part_disabled: bool
    security_settings: bool = False
    """Whether the object holds security settings, account settings among them, as far as the
    directory tells.
    """


@dataclass(frozen=True)
class Domain:
    """The domain object: its name and its own password and lockout settings, the *domain
    policy*.
    """

    dn: str
    dns_name: str
    sid: str
    functional_level: int | None
    settings: Settings
    other_properties: int = 0
    """The bits of ``pwdProperties`` beside complexity and reversible encryption, kept as read."""
    gpo_links: tuple[GpoLink, ...] = ()
    templates: Mapping[str, Template] = field(default_factory=dict)
    """What the security templates of group policy objects say
    (`hornfels.core.domain.sources.Template`), by `loose_key` of the object.
    """
    addition: Addition | None = None
    """What the domain policy asks beyond the directory's own rules."""
    term_lists: Mapping[str, TermList] = field(default_factory=dict)
    """The lists of blocked terms, by name."""
    places: tuple[str, ...] = ()
    """Departments, offices, towns and companies of its accounts, the most frequent first."""


class Link(NamedTuple):
    """A policy's link to one object. ``target`` is the row of an account or group, −1 for anything
    else.
    """

    policy: int
    kind: Literal["account", "group", "ou", "contact", "domain", "other", "outside"]
    target: int
    dn: str


def joined_names(names: Iterable[str]) -> str:
    """Names as one text, each on a line of its own."""
    return "\n".join(dict.fromkeys(name.replace("\n", " ") for name in names))


@dataclass(frozen=True, slots=True, eq=False)
class Accounts:
    """User-class objects by row. Moments are ticks since 1601, 0 for "not set", `UNKNOWN_TIME`
    where not read.
    """

    dn: TextColumn
    name: TextColumn
    display_name: TextColumn
    other_names: TextColumn
    """Given name, surname, and what stands before the @ of sign-in name and mail, as far as known
    (see `joined_names`).
    """
    mail: TextColumn
    """The address for mail, "" where there is none or it was not read."""
    language: TextColumn
    """The language that is preferred, as a tag (BCP 47), "" where none is."""
    rid: Int64
    control: UInt32
    password_set: Int64
    bad_count: Int32
    bad_time: Int64
    lockout_time: Int64
    primary_group: Int32
    """Row of the primary group, −1 where it is not in the estate."""

    def __len__(self) -> int:
        return len(self.rid)


@dataclass(frozen=True, slots=True, eq=False)
class Groups:
    """Groups by row. ``kind`` is ``groupType`` read as an unsigned number."""

    dn: TextColumn
    name: TextColumn
    rid: Int64
    kind: UInt32

    def __len__(self) -> int:
        return len(self.rid)

    @property
    def security(self) -> Bools:
        security: Bools = np.not_equal(self.kind & GROUP_SECURITY, 0)
        return security

    @property
    def carries(self) -> Bools:
        """Which groups a policy can pass through: security groups, but no built-in ones (domain
        rules §3).
        """
        carries: Bools = self.security & ((self.kind & GROUP_BUILTIN) == 0)
        return carries

    def stops(self, row: int) -> str:
        """What keeps a group from carrying any policy, "" if it can."""
        kind = int(self.kind[row])
        if not kind & GROUP_SECURITY:
            return "a distribution group"
        return "a built-in group" if kind & GROUP_BUILTIN else ""

    def scope(self, row: int) -> Literal["global", "domain local", "universal", "unknown"]:
        kind = int(self.kind[row])
        if kind & GROUP_GLOBAL:
            return "global"
        if kind & GROUP_DOMAIN_LOCAL:
            return "domain local"
        return "universal" if kind & GROUP_UNIVERSAL else "unknown"

    def counts_when_linked(self, linked_groups: LinkedGroups) -> Bools:
        """Which groups a link can act through (domain rules §3)."""
        return (
            self.carries
            if linked_groups == "any"
            else self.carries & ((self.kind & GROUP_GLOBAL) != 0)
        )


class Adjacency(NamedTuple):
    """For each row on one side, the rows on the other: ``rows[starts[i]:starts[i + 1]]``."""

    starts: Int64
    rows: Int32

    def of(self, i: int) -> Int32:
        return self.rows[self.starts[i] : self.starts[i + 1]]

    def of_many(self, which: npt.NDArray[np.integer]) -> tuple[Int32, Int64]:
        """The neighbours of all rows in `which`, one after another, and how many each row has."""
        starts = self.starts[which]
        sizes = self.starts[which + 1] - starts
        if len(which) == 1:
            return self.rows[starts[0] : starts[0] + sizes[0]], sizes
        ends = np.cumsum(sizes)
        positions = np.arange(ends[-1] if len(ends) else 0) + np.repeat(
            starts - (ends - sizes), sizes
        )
        return self.rows[positions], sizes


def adjacency(sources: Int32, targets: Int32, size: int) -> Adjacency:
    """Group `targets` by their `sources`; both sides given as rows. `size` is the number of rows on
    the source side.
    """
    # One sort of packed pairs is several times faster than an argsort or a sparse-matrix
    # conversion.
    pairs = np.sort((sources.astype(np.int64) << 32) | targets)
    starts = np.zeros(size + 1, dtype=np.int64)
    np.cumsum(np.bincount(sources, minlength=size), out=starts[1:])
    return Adjacency(starts, (pairs & 0xFFFFFFFF).astype(np.int32))


@dataclass(frozen=True, eq=False)
class Memberships:
    """Who is in which group. Lists hold explicit memberships; the primary group comes from the
    account.
    """

    account: Int32
    account_group: Int32
    child: Int32
    child_group: Int32
    accounts: Accounts = field(repr=False)
    groups: Groups = field(repr=False)

    @cached_property
    def members(self) -> Adjacency:
        """Group → accounts in it directly or by primary group."""
        has_primary = np.flatnonzero(self.accounts.primary_group >= 0).astype(np.int32)
        return adjacency(
            np.concatenate([self.account_group, self.accounts.primary_group[has_primary]]),
            np.concatenate([self.account, has_primary]),
            len(self.groups),
        )

    @cached_property
    def groups_of_account(self) -> Adjacency:
        """Account → groups that list it (without its primary group)."""
        return adjacency(self.account, self.account_group, len(self.accounts))

    def _nested(self, among: Bools) -> Adjacency:
        keep = among[self.child] & among[self.child_group]
        return adjacency(self.child_group[keep], self.child[keep], len(self.groups))

    @cached_property
    def nested(self) -> Adjacency:
        """Group → groups nested in it that a policy passes on to: a distribution or built-in group
        on either side breaks it.
        """
        return self._nested(self.groups.carries)

    @cached_property
    def secure(self) -> Adjacency:
        """Security group → security groups nested in it, built-in ones too: who has a group's
        rights.
        """
        return self._nested(self.groups.security)

    @cached_property
    def groups_of_group(self) -> Adjacency:
        """Group → every group that lists it, distribution groups too."""
        return adjacency(self.child, self.child_group, len(self.groups))

    def accounts_below(self, group: int) -> Int32:
        """Rows of the accounts in a group: listed, by primary group, or through security groups
        nested at any depth.
        """
        seen, frontier = {group}, [group]
        while frontier:
            frontier = [
                child for g in frontier for child in self.secure.of(g).tolist() if child not in seen
            ]
            frontier = list(dict.fromkeys(frontier))
            seen.update(frontier)
        return np.unique(np.concatenate([self.members.of(g) for g in seen]))


@dataclass(frozen=True, eq=False)
class Estate:
    """One domain as last read, with the choice of linked groups that count."""

    domain: Domain
    accounts: Accounts
    groups: Groups
    memberships: Memberships
    policies: tuple[Policy, ...]
    links: tuple[Link, ...]
    linked_groups: LinkedGroups = "global"

    @property
    def fine_grained_possible(self) -> bool:
        """False only where the functional level is known to be too low."""
        level = self.domain.functional_level
        return level is None or level >= FINE_GRAINED_LEVEL

    @cached_property
    def exempt(self) -> Bools:
        """Accounts that always get the domain policy (domain rules §3.1)."""
        if not self.fine_grained_possible:
            return np.ones(len(self.accounts), dtype=np.bool_)
        trust = np.not_equal(self.accounts.control & TRUST_BITS, 0)
        exempt: Bools = np.logical_or(trust, self.accounts.rid == KERBEROS_SERVICE_RID)
        return exempt

    @cached_property
    def policy_numbers(self) -> dict[UUID, int]:
        """The number of each policy by its GUID."""
        return {policy.guid: number for number, policy in enumerate(self.policies)}

    @cached_property
    def links_by_policy(self) -> tuple[tuple[Link, ...], ...]:
        """The links of each policy, by its number."""
        found: list[list[Link]] = [[] for _ in self.policies]
        for link in self.links:
            found[link.policy].append(link)
        return tuple(map(tuple, found))

    def find_account(self, name: str) -> int | None:
        """The row of the account with this ``sAMAccountName`` or distinguished name."""
        for column in (self.accounts.name, self.accounts.dn):
            rows = column.find(name)
            if len(rows):
                return int(rows[0])
        return None

    def account_with_sid(self, sid: str) -> int | None:
        """The row of the account with this printed SID, None if no account of the domain has it."""
        domain, rid = split_sid(sid)
        if domain != self.domain.sid:
            return None
        found = np.flatnonzero(self.accounts.rid == rid)
        return int(found[0]) if len(found) else None

    def find_accounts(self, names: Sequence[str]) -> Int64:
        """The rows of many accounts, as `find_account` finds them; −1 where there is none."""
        rows = self.accounts.name.first_rows(names)
        # Every distinguished name says what its parts are.
        others = [n for n in np.flatnonzero(rows < 0).tolist() if "=" in names[n]]
        if others:
            rows[others] = self.accounts.dn.first_rows([names[n] for n in others])
        return rows

    def with_policies(self, policies: tuple[Policy, ...], links: tuple[Link, ...]) -> Estate:
        """The same directory under other policies; what was computed for its memberships is
        kept.
        """
        return replace(self, policies=policies, links=links)
