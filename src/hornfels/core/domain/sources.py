"""Where the domain policy comes from (domain rules §4): group policy objects, setting by setting,
the first that says something.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

from hornfels.core.domain.estate import Domain, GpoLink
from hornfels.core.policy.catalogue import (
    CATALOGUE,
    TEMPLATE_SETTINGS,
    SettingKey,
    Template,
    TemplateKey,
    Value,
)
from hornfels.core.values.dn import loose_key

SHORT_LIMIT = 14
"""The longest minimum length a template may ask for without the relaxed limit."""


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

    key: TemplateKey
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
    return [_origin(domain, key) for key in TEMPLATE_SETTINGS]


def audit_length(domain: Domain) -> int | None:
    """Below how many characters the domain policy logs an accepted password; None if no source
    says.
    """
    value = _origin(domain, "audit_length").value
    return value if isinstance(value, int) else None


def _origin(domain: Domain, key: TemplateKey) -> Origin:
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


Answers = Mapping[SettingKey, tuple[Value, ...]]
"""What the sources together say of each setting on the domain object: nothing (empty), or one
value.
"""


def answers(domain: Domain) -> Answers:
    """The value each setting of the domain policy is given by its sources."""
    found = {setting.key: _origin(domain, setting.key) for setting in CATALOGUE}
    return {key: () if o.link is None else (o.value,) for key, o in found.items()}


def rewritten(domain: Domain, before: Answers) -> Domain:
    """The domain policy once the directory has written what its sources say other than `before`.

    Only settings whose answer changes are written; where no source says anything any more the value
    on the domain object stays.
    """
    changes = {
        key: said[0] for key, said in answers(domain).items() if said and said != before[key]
    }
    return replace(domain, settings=domain.settings.changed(changes)) if changes else domain


def template_problems(template: Template) -> dict[TemplateKey, str]:
    """What a template may not say, by setting (domain rules §2)."""
    found: dict[TemplateKey, str] = {}
    for key, value in template.items():
        setting = TEMPLATE_SETTINGS[key]
        low, high = setting.template_range or (setting.low, setting.high)
        if key == "min_length" and not template.get("relaxed_limit"):
            high = SHORT_LIMIT
        if value is not None and not low <= value <= high:
            found[key] = f"{setting.label} is outside what a template may say."
            if key == "min_length" and high == SHORT_LIMIT:
                found[key] += (
                    f" It goes to {SHORT_LIMIT}; switch on "
                    f"“{TEMPLATE_SETTINGS['relaxed_limit'].label}” to go beyond."
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
