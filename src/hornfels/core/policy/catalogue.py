"""The one catalogue of password and lockout settings (domain rules §2).

Everything that names a setting reads it from here: editor, validation, LDIF reader, command line,
documentation. To add a setting, add it here and to `hornfels.core.policy.model.Settings`.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from hornfels.core.values.time import DAY, MINUTE

Kind = Literal["count", "switch", "span"]
LONGEST_SPAN = 2**63 - 1
"""Ticks; the longest span below *never* that a directory can hold."""


Bite = Literal["now", "next"]
"""When a change bites: at once, or when the password is next changed or reset."""
_WHEN: dict[Bite, str] = {"now": "at once", "next": "when the password is next changed or reset"}


@dataclass(frozen=True, slots=True)
class Setting:
    """One setting and how each place writes it.

    ``low`` and ``high`` bound the fine-grained value: characters, passwords or tries for a count,
    ticks of 100 ns for a span. ``endless`` is the word for the value without end where the setting
    has one. ``domain_mask`` is the bit of ``pwdProperties``. ``default`` is what a new domain
    starts with (ticks for a span).
    """

    key: str
    label: str
    kind: Kind
    unit: str
    section: Literal["composition", "age", "lockout"]
    explanation: str
    bites: Bite
    pso_attribute: str
    domain_attribute: str
    domain_mask: int
    template_key: str
    low: int
    high: int
    default: int | bool
    endless: str | None = None

    @property
    def takes_effect(self) -> str:
        """When a change of it bites, in words (domain rules §7)."""
        return _WHEN[self.bites]


CATALOGUE: tuple[Setting, ...] = (
    Setting(
        "min_length",
        "Minimum length",
        "count",
        "characters",
        "composition",
        (
            "The fewest characters a password may have. Length does more against guessing than "
            "any other rule."
        ),
        "next",
        "msDS-MinimumPasswordLength",
        "minPwdLength",
        0,
        "MinimumPasswordLength",
        0,
        255,
        7,
    ),
    Setting(
        "complexity",
        "Complexity",
        "switch",
        "",
        "composition",
        "Asks for characters of three of the five groups (uppercase, lowercase, digits, "
        "symbols, letters without case) "
        "and refuses the person's own names.",
        "next",
        "msDS-PasswordComplexityEnabled",
        "pwdProperties",
        0x1,
        "PasswordComplexity",
        0,
        1,
        True,
    ),
    Setting(
        "history_length",
        "Password history",
        "count",
        "passwords",
        "composition",
        "How many of the latest passwords, the present one included, cannot be chosen again.",
        "next",
        "msDS-PasswordHistoryLength",
        "pwdHistoryLength",
        0,
        "PasswordHistorySize",
        0,
        1024,
        24,
    ),
    Setting(
        "reversible_encryption",
        "Reversible encryption",
        "switch",
        "",
        "composition",
        (
            "Stores passwords so that the directory can read them back. Almost as weak as plain "
            "text; leave it off."
        ),
        "next",
        "msDS-PasswordReversibleEncryptionEnabled",
        "pwdProperties",
        0x10,
        "ClearTextPassword",
        0,
        1,
        False,
    ),
    Setting(
        "min_age",
        "Minimum age",
        "span",
        "days",
        "age",
        (
            "How long a new password must be kept before its owner may change it. Keeps people "
            "from running through the history."
        ),
        "now",
        "msDS-MinimumPasswordAge",
        "minPwdAge",
        0,
        "MinimumPasswordAge",
        0,
        LONGEST_SPAN,
        DAY,
    ),
    Setting(
        "max_age",
        "Maximum age",
        "span",
        "days",
        "age",
        (
            "How long a password is good for. Passwords older than a new maximum expire the "
            "moment it takes effect."
        ),
        "now",
        "msDS-MaximumPasswordAge",
        "maxPwdAge",
        0,
        "MaximumPasswordAge",
        0,
        LONGEST_SPAN,
        42 * DAY,
        "never expires",
    ),
    Setting(
        "lockout_threshold",
        "Lockout threshold",
        "count",
        "bad tries",
        "lockout",
        "The bad try that locks the account. 0 never locks; 1 or 2 lock people out over a typo.",
        "now",
        "msDS-LockoutThreshold",
        "lockoutThreshold",
        0,
        "LockoutBadCount",
        0,
        65535,
        0,
    ),
    Setting(
        "lockout_window",
        "Observation window",
        "span",
        "minutes",
        "lockout",
        (
            "A bad try that comes this long after the last one starts the count again. Cannot "
            "exceed the lockout duration."
        ),
        "now",
        "msDS-LockoutObservationWindow",
        "lockOutObservationWindow",
        0,
        "ResetLockoutCount",
        0,
        LONGEST_SPAN,
        30 * MINUTE,
    ),
    Setting(
        "lockout_duration",
        "Lockout duration",
        "span",
        "minutes",
        "lockout",
        "How long a lock lasts before it ends by itself, or until an operator unlocks the account.",
        "now",
        "msDS-LockoutDuration",
        "lockoutDuration",
        0,
        "LockoutDuration",
        0,
        LONGEST_SPAN,
        30 * MINUTE,
        "until unlocked",
    ),
)

BY_KEY: dict[str, Setting] = {setting.key: setting for setting in CATALOGUE}

PRECEDENCE_ATTRIBUTE = "msDS-PasswordSettingsPrecedence"
LINKS_ATTRIBUTE = "msDS-PSOAppliesTo"
HIGHEST_PRECEDENCE_NUMBER = 2**31 - 1
