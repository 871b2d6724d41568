"""Where the domain policy comes from (domain rules §4): group policy objects, setting by setting,
the first that says something.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any, Literal

from hornfels.core.domain.estate import Domain, GpoLink
from hornfels.core.policy.catalogue import BY_KEY, CATALOGUE, Kind
from hornfels.core.values.dn import loose_key
from hornfels.core.values.time import DAY, HOUR, MINUTE

Value = bool | int | None
Template = Mapping[str, Value]
"""What one object's security template says, by setting; a key left out means that it says nothing,
which differs from 0.
"""


@dataclass(frozen=True, slots=True)
class Extended:
    """A setting that only the domain policy has, kept in templates and not on the domain object
    ([MS-GPSB] 2.2).
    """

    key: str
    label: str
    kind: Kind
    unit: str
    section: Literal["composition", "kerberos"]
    explanation: str
    low: int
    high: int
    default: int | bool
    """What a new domain starts with; for the audit, which it has not, a value to begin with."""


EXTENDED: tuple[Extended, ...] = (
    Extended(
        "audit_length",
        "Minimum length audit",
        "count",
        "characters",
        "composition",
        (
            "Shorter passwords are let through and logged: a look at what a longer minimum would "
            "refuse."
        ),
        1,
        128,
        14,
    ),
    Extended(
        "relaxed_limit",
        "Minimum length beyond 14",
        "switch",
        "",
        "composition",
        "Lets the minimum length of the domain policy go up to 128 instead of 14.",
        0,
        1,
        False,
    ),
    Extended(
        "ticket_age",
        "Ticket lifetime",
        "span",
        "hours",
        "kerberos",
        "How long a sign-in ticket is good for.",
        0,
        99_999 * HOUR,
        10 * HOUR,
    ),
    Extended(
        "renew_age",
        "Ticket renewal",
        "span",
        "days",
        "kerberos",
        "How long a ticket can be renewed before its owner signs in again.",
        0,
        99_999 * DAY,
        7 * DAY,
    ),
    Extended(
        "service_age",
        "Service ticket lifetime",
        "span",
        "minutes",
        "kerberos",
        "How long a ticket for one service is good for.",
        0,
        99_999 * MINUTE,
        600 * MINUTE,
    ),
    Extended(
        "clock_skew",
        "Clock tolerance",
        "span",
        "minutes",
        "kerberos",
        "How far clocks may differ before tickets are refused.",
        0,
        99_999 * MINUTE,
        5 * MINUTE,
    ),
    Extended(
        "validate_client",
        "Check the account on every request",
        "switch",
        "",
        "kerberos",
        "Looks up with each service ticket whether the account may still sign in.",
        0,
        1,
        True,
    ),
)

EXTENDED_BY_KEY = {e.key: e for e in EXTENDED}


def is_span(key: str) -> bool:
    """Whether a setting of a template is a span of time."""
    return (BY_KEY.get(key) or EXTENDED_BY_KEY[key]).kind == "span"


SHORT_LIMIT, RELAXED_LIMIT = 14, 128
"""The longest minimum length a template may ask for, without and with the relaxed limit."""

_TEMPLATE_RANGES: dict[str, tuple[int, int]] = {
    "history_length": (0, 24),
    "min_age": (0, 998 * DAY),
    "max_age": (DAY, 999 * DAY),
    "lockout_threshold": (0, 999),
    "lockout_window": (MINUTE, 99_999 * MINUTE),
    "lockout_duration": (MINUTE, 99_999 * MINUTE),
}


@dataclass(frozen=True, slots=True)
class Ignored:
    """A source that says something about a setting and is not heard."""

    link: GpoLink
    value: Value
    why: str


@dataclass(frozen=True, slots=True)
class Origin:
    """One setting of the domain policy: who says it, what, and who is ignored. ``link`` is None
    where no source says anything.
    """

    key: str
    link: GpoLink | None
    value: Value
    ignored: tuple[Ignored, ...]


def root_links(domain: Domain) -> list[GpoLink]:
    """The links at the domain root in the order they are heard: enforced ones first, then by link
    order.
    """
    at_root = [
        link for link in domain.gpo_links if loose_key(link.container) == loose_key(domain.dn)
    ]
    return sorted(at_root, key=lambda link: (not link.enforced, link.order))


def origins(domain: Domain) -> list[Origin]:
    """Every setting of the domain policy with its source, the extended ones too."""
    return [
        _origin(domain, key) for key in (*(s.key for s in CATALOGUE), *(e.key for e in EXTENDED))
    ]


def audit_length(domain: Domain) -> int | None:
    """Below how many characters the domain policy logs an accepted password; None if no source
    says.
    """
    value = _origin(domain, "audit_length").value
    return value if isinstance(value, int) else None


def _origin(domain: Domain, key: str) -> Origin:
    winner: GpoLink | None = None
    value: Value = None
    ignored = []
    for link in root_links(domain):
        template = domain.templates.get(loose_key(link.gpo), {})
        if key not in template:
            continue
        said = template[key]
        if link.disabled:
            ignored.append(Ignored(link, said, "its link is switched off"))
        elif link.computer_part_disabled:
            ignored.append(Ignored(link, said, "its computer part is switched off"))
        elif winner:
            earlier = "is enforced" if winner.enforced and not link.enforced else "comes first"
            ignored.append(Ignored(link, said, f"{winner.name} {earlier}"))
        else:
            winner, value = link, said
    return Origin(key, winner, value, tuple(ignored))


Answers = Mapping[str, tuple[Value, ...]]
"""What the sources together say of each setting on the domain object: nothing (empty), or one
value.
"""


def answers(domain: Domain) -> Answers:
    """The value each setting of the domain policy is given by its sources."""
    found = (_origin(domain, setting.key) for setting in CATALOGUE)
    return {o.key: () if o.link is None else (o.value,) for o in found}


def rewritten(domain: Domain, before: Answers) -> Domain:
    """The domain policy once the directory has written what its sources say other than `before`.

    Only settings whose answer changes are written; where no source says anything any more the value
    on the domain object stays.
    """
    changes: dict[str, Any] = {
        key: said[0] for key, said in answers(domain).items() if said and said != before[key]
    }
    return replace(domain, settings=replace(domain.settings, **changes)) if changes else domain


def template_problems(template: Template) -> dict[str, str]:
    """What a template may not say, by setting (domain rules §2)."""
    found = {}
    for key, value in template.items():
        if key == "min_length":
            high = RELAXED_LIMIT if template.get("relaxed_limit") else SHORT_LIMIT
            low = 0
        elif key in EXTENDED_BY_KEY:
            low, high = EXTENDED_BY_KEY[key].low, EXTENDED_BY_KEY[key].high
        elif key in _TEMPLATE_RANGES:
            low, high = _TEMPLATE_RANGES[key]
        else:
            continue
        if value is not None and not low <= value <= high:
            label = BY_KEY[key].label if key in BY_KEY else EXTENDED_BY_KEY[key].label
            found[key] = f"{label} is outside what a template may say."
            if key == "min_length" and high == SHORT_LIMIT:
                found[key] += (
                    f" It goes to {SHORT_LIMIT}; switch on "
                    f"“{EXTENDED_BY_KEY['relaxed_limit'].label}” to go beyond."
                )
    low_age, high_age = template.get("min_age"), template.get("max_age")
    if low_age is not None and high_age is not None and low_age >= high_age:
        found.setdefault("max_age", "Maximum age must be longer than the minimum age.")
    window, duration = template.get("lockout_window"), template.get("lockout_duration")
    if window is not None and duration is not None and window > duration:
        found.setdefault(
            "lockout_window", "The observation window cannot exceed the lockout duration."
        )
    return found
