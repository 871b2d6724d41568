"""Findings about the group policy objects."""

from __future__ import annotations

from collections.abc import Iterator

from hornfels.core.domain.estate import Estate
from hornfels.core.domain.sources import Origin, origins
from hornfels.core.drafts.sentences import said_text
from hornfels.core.findings.finding import Finding
from hornfels.core.policy.catalogue import TEMPLATE_SETTINGS
from hornfels.core.resolution.engine import DOMAIN_POLICY
from hornfels.core.values.dn import dn_key


def group_policy_objects(estate: Estate) -> Iterator[Finding]:
    root = dn_key(estate.domain.dn)
    live = [
        g
        for g in estate.domain.gpo_links
        if g.security_settings and not g.disabled and not g.computer_part_disabled
    ]
    at_root = sorted(
        (g for g in live if dn_key(g.container) == root), key=lambda g: (not g.enforced, g.order)
    )
    apart = [o for o in origins(estate.domain) if any(i.value != o.value for i in o.ignored)]
    for o in apart[:1]:
        first, second = o.link, next(i for i in o.ignored if i.value != o.value)
        told = [said_text(o.key, (value,)) for value in (o.value, second.value)]
        yield Finding(
            "root-objects",
            "root-objects",
            "low",
            f"Sources of the domain policy disagree about {_listed(apart)}",
            f"{first.name if first else 'Nobody'} says {told[0]} and {second.link.name} "
            f"{told[1]}; the first one heard wins, "
            "setting by setting. Whoever edits the later one changes nothing and may not notice.",
            DOMAIN_POLICY,
            0,
        )
    if len(at_root) > 1 and not estate.domain.templates:
        yield Finding(
            "root-objects",
            "root-objects",
            "low",
            f"{len(at_root)} group policy objects at the domain root hold security settings",
            "Setting by setting, the first that says something wins: "
            f"{', then '.join(g.name for g in at_root)}. "
            "What the later ones say may be overruled without anybody noticing.",
            DOMAIN_POLICY,
            0,
        )
    for g in live:
        if dn_key(g.container) != root:
            yield Finding(
                f"ou-object:{dn_key(g.gpo)}:{dn_key(g.container)}",
                "ou-object",
                "low",
                f"{g.name} is linked to {g.container.split(',')[0]} and holds security settings",
                "Account settings in it govern only the local accounts of computers there. "
                "They never change what a domain account gets.",
                DOMAIN_POLICY,
                0,
            )


def _listed(apart: list[Origin]) -> str:
    labels = [TEMPLATE_SETTINGS[o.key].label.lower() for o in apart]
    return labels[0] if len(labels) == 1 else f"{', '.join(labels[:-1])} and {labels[-1]}"
