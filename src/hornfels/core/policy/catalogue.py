"""The one catalogue of password, lockout and ticket settings (domain rules §2).

Everything that names a setting reads it from here: editor, validation, LDIF reader, templates,
command line, documentation. To add a setting that every policy has, add it to `SettingKey`, to
`CATALOGUE` and to `hornfels.core.policy.model.Settings`; one that only templates hold, to
`ExtendedKey` and `EXTENDED`.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

from hornfels.core.values.time import DAY, HOUR, MINUTE

SettingKey = Literal[
    "min_length",
    "complexity",
    "history_length",
    "reversible_encryption",
    "min_age",
    "max_age",
    "lockout_threshold",
    "lockout_window",
    "lockout_duration",
]
"""The settings that every policy has."""
ExtendedKey = Literal[
    "audit_length",
    "relaxed_limit",
    "ticket_age",
    "renew_age",
    "service_age",
    "clock_skew",
    "validate_client",
]
"""The settings that only the domain policy has, kept in templates and not on the domain object
([MS-GPSB] 2.2).
"""
TemplateKey = Literal[SettingKey, ExtendedKey]

Kind = Literal["count", "switch", "span"]
Value = bool | int | None
"""A setting's value: a count, a switch, or a span in ticks of 100 ns with None for *never* and
*until unlocked*.
"""
Template = Mapping[TemplateKey, Value]
"""What one object's security template says, by setting; a key left out means that it says nothing,
which differs from 0.
"""
PlainValue = bool | int | float | None
"""A value with a span in seconds, as scripts and the API see it."""

LONGEST_SPAN = 2**63 - 1
"""Ticks; the longest span below *never* that a directory can hold."""

Bite = Literal["now", "next"]
"""When a change bites: at once, or when the password is next changed or reset."""
WHEN: dict[Bite, str] = {"now": "at once", "next": "when the password is next changed or reset"}

ACCESS, KERBEROS, REGISTRY = "System Access", "Kerberos Policy", "Registry Values"
"""The sections of a template."""
_SAM = "MACHINE\\System\\CurrentControlSet\\Control\\SAM\\"


@dataclass(frozen=True, slots=True, kw_only=True)
class Extended:
    """One setting that a template can hold.

    ``low`` and ``high`` bound the value: characters, passwords or tries for a count, ticks of
    100 ns for a span; ``template_range`` does where a template's bounds are others. ``endless`` is
    the word for the value without end where the setting has one, ``zero`` the one for 0 where that
    means something of its own. ``default`` is what a new domain
    starts with (ticks for a span); for the audit, which it has not, a value to begin with.
    """

    key: TemplateKey
    label: str
    kind: Kind
    unit: str
    section: Literal["composition", "age", "lockout", "kerberos"]
    explanation: str
    default: int | bool
    low: int = 0
    high: int = 1
    endless: str | None = None
    zero: str | None = None
    template_section: str = ACCESS
    template_key: str
    template_range: tuple[int, int] | None = None

    @property
    def takes_effect(self) -> str:
        """When a change of it bites, in words (domain rules §7)."""
        return "at the next policy refresh"


@dataclass(frozen=True, slots=True, kw_only=True)
class Setting(Extended):
    """One setting that every policy has, and how the directory writes it. ``domain_mask`` is the
    bit of ``pwdProperties``.
    """

    key: SettingKey
    bites: Bite
    pso_attribute: str
    domain_attribute: str
    domain_mask: int = 0

    @property
    def takes_effect(self) -> str:
        """When a change of it bites, in words (domain rules §7)."""
        return WHEN[self.bites]


CATALOGUE: tuple[Setting, ...] = (
    Setting(
        key="min_length",
        label="Minimum length",
        kind="count",
        unit="characters",
        section="composition",
        explanation=(
            "The fewest characters a password may have. Length does more against guessing"
            " than any other rule."
        ),
        low=0,
        high=255,
        default=7,
        template_key="MinimumPasswordLength",
        template_range=(0, 128),
        bites="next",
        pso_attribute="msDS-MinimumPasswordLength",
        domain_attribute="minPwdLength",
    ),
    Setting(
        key="complexity",
        label="Complexity",
        kind="switch",
        unit="",
        section="composition",
        explanation=(
            "Asks for characters of three of the five groups (uppercase, lowercase, "
            "digits, symbols, letters without case) and refuses the person's own names."
        ),
        default=True,
        template_key="PasswordComplexity",
        bites="next",
        pso_attribute="msDS-PasswordComplexityEnabled",
        domain_attribute="pwdProperties",
        domain_mask=0x1,
    ),
    Setting(
        key="history_length",
        label="Password history",
        kind="count",
        unit="passwords",
        section="composition",
        explanation=(
            "How many of the latest passwords, the present one included, cannot be chosen again."
        ),
        low=0,
        high=1024,
        default=24,
        template_key="PasswordHistorySize",
        template_range=(0, 24),
        bites="next",
        pso_attribute="msDS-PasswordHistoryLength",
        domain_attribute="pwdHistoryLength",
    ),
    Setting(
        key="reversible_encryption",
        label="Reversible encryption",
        kind="switch",
        unit="",
        section="composition",
        explanation=(
            "Stores passwords so that the directory can read them back. Almost as weak as"
            " plain text; leave it off."
        ),
        default=False,
        template_key="ClearTextPassword",
        bites="next",
        pso_attribute="msDS-PasswordReversibleEncryptionEnabled",
        domain_attribute="pwdProperties",
        domain_mask=0x10,
    ),
    Setting(
        key="min_age",
        label="Minimum age",
        kind="span",
        unit="days",
        section="age",
        explanation=(
            "How long a new password must be kept before its owner may change it. Keeps "
            "people from running through the history."
        ),
        low=0,
        high=LONGEST_SPAN,
        default=DAY,
        template_key="MinimumPasswordAge",
        template_range=(0, 998 * DAY),
        bites="now",
        pso_attribute="msDS-MinimumPasswordAge",
        domain_attribute="minPwdAge",
    ),
    Setting(
        key="max_age",
        label="Maximum age",
        kind="span",
        unit="days",
        section="age",
        explanation=(
            "How long a password is good for. Passwords older than a new maximum expire "
            "the moment it takes effect."
        ),
        low=0,
        high=LONGEST_SPAN,
        default=42 * DAY,
        endless="never expires",
        template_key="MaximumPasswordAge",
        template_range=(DAY, 999 * DAY),
        bites="now",
        pso_attribute="msDS-MaximumPasswordAge",
        domain_attribute="maxPwdAge",
    ),
    Setting(
        key="lockout_threshold",
        label="Lockout threshold",
        kind="count",
        unit="bad tries",
        section="lockout",
        explanation=(
            "The bad try that locks the account. 0 never locks; 1 or 2 lock people out over a typo."
        ),
        low=0,
        high=65535,
        default=0,
        zero="never locks",
        template_key="LockoutBadCount",
        template_range=(0, 999),
        bites="now",
        pso_attribute="msDS-LockoutThreshold",
        domain_attribute="lockoutThreshold",
    ),
    Setting(
        key="lockout_window",
        label="Observation window",
        kind="span",
        unit="minutes",
        section="lockout",
        explanation=(
            "A bad try that comes this long after the last one starts the count again. "
            "Cannot exceed the lockout duration."
        ),
        low=0,
        high=LONGEST_SPAN,
        default=30 * MINUTE,
        template_key="ResetLockoutCount",
        template_range=(MINUTE, 99_999 * MINUTE),
        bites="now",
        pso_attribute="msDS-LockoutObservationWindow",
        domain_attribute="lockOutObservationWindow",
    ),
    Setting(
        key="lockout_duration",
        label="Lockout duration",
        kind="span",
        unit="minutes",
        section="lockout",
        explanation=(
            "How long a lock lasts before it ends by itself, or until an operator unlocks"
            " the account."
        ),
        low=0,
        high=LONGEST_SPAN,
        default=30 * MINUTE,
        endless="until unlocked",
        template_key="LockoutDuration",
        template_range=(MINUTE, 99_999 * MINUTE),
        bites="now",
        pso_attribute="msDS-LockoutDuration",
        domain_attribute="lockoutDuration",
    ),
)

EXTENDED: tuple[Extended, ...] = (
    Extended(
        key="audit_length",
        label="Minimum length audit",
        kind="count",
        unit="characters",
        section="composition",
        explanation=(
            "Shorter passwords are let through and logged: a look at what a longer "
            "minimum would refuse."
        ),
        low=1,
        high=128,
        default=14,
        template_section=REGISTRY,
        template_key=f"{_SAM}MinimumPasswordLengthAudit",
    ),
    Extended(
        key="relaxed_limit",
        label="Minimum length beyond 14",
        kind="switch",
        unit="",
        section="composition",
        explanation=("Lets the minimum length of the domain policy go up to 128 instead of 14."),
        default=False,
        template_section=REGISTRY,
        template_key=f"{_SAM}RelaxMinimumPasswordLengthLimits",
    ),
    Extended(
        key="ticket_age",
        label="Ticket lifetime",
        kind="span",
        unit="hours",
        section="kerberos",
        explanation="How long a sign-in ticket is good for.",
        low=0,
        high=99_999 * HOUR,
        default=10 * HOUR,
        template_section=KERBEROS,
        template_key="MaxTicketAge",
    ),
    Extended(
        key="renew_age",
        label="Ticket renewal",
        kind="span",
        unit="days",
        section="kerberos",
        explanation="How long a ticket can be renewed before its owner signs in again.",
        low=0,
        high=99_999 * DAY,
        default=7 * DAY,
        template_section=KERBEROS,
        template_key="MaxRenewAge",
    ),
    Extended(
        key="service_age",
        label="Service ticket lifetime",
        kind="span",
        unit="minutes",
        section="kerberos",
        explanation="How long a ticket for one service is good for.",
        low=0,
        high=99_999 * MINUTE,
        default=10 * HOUR,
        template_section=KERBEROS,
        template_key="MaxServiceAge",
    ),
    Extended(
        key="clock_skew",
        label="Clock tolerance",
        kind="span",
        unit="minutes",
        section="kerberos",
        explanation="How far clocks may differ before tickets are refused.",
        low=0,
        high=99_999 * MINUTE,
        default=5 * MINUTE,
        template_section=KERBEROS,
        template_key="MaxClockSkew",
    ),
    Extended(
        key="validate_client",
        label="Check the account on every request",
        kind="switch",
        unit="",
        section="kerberos",
        explanation=("Looks up with each service ticket whether the account may still sign in."),
        default=True,
        template_section=KERBEROS,
        template_key="TicketValidateClient",
    ),
)

BY_KEY: dict[SettingKey, Setting] = {setting.key: setting for setting in CATALOGUE}
TEMPLATE_SETTINGS: dict[TemplateKey, Extended] = {s.key: s for s in (*CATALOGUE, *EXTENDED)}
"""Every setting that a template can hold, by key."""

PRECEDENCE_ATTRIBUTE = "msDS-PasswordSettingsPrecedence"
LINKS_ATTRIBUTE = "msDS-PSOAppliesTo"
HIGHEST_PRECEDENCE_NUMBER = 2**31 - 1
