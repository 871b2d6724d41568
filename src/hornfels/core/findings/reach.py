"""Findings about whom policies reach."""

from __future__ import annotations

from collections.abc import Iterator

from hornfels.core.domain.estate import EVERYONE_RID, Estate
from hornfels.core.domain.wording import name_in_sentence, ref_of
from hornfels.core.findings.finding import Finding
from hornfels.core.resolution.engine import Resolution
from hornfels.core.resolution.reach import link_name, reach_of


def idle(estate: Estate, resolution: Resolution) -> Iterator[Finding]:
    for policy in resolution.order:
        idle = reach_of(estate, resolution, policy).idle
        if idle:
            yield Finding(
                f"idle:{ref_of(estate, policy)}",
                "idle",
                "medium",
                f"{name_in_sentence(estate, policy)} governs nobody",
                f"{idle} Whoever relies on it is mistaken about what holds.",
                policy,
                0,
            )


def everyone(estate: Estate, resolution: Resolution) -> Iterator[Finding]:
    for link in estate.links:
        if link.kind == "group" and int(estate.groups.rid[link.target]) == EVERYONE_RID:
            yield Finding(
                f"everyone:{ref_of(estate, link.policy)}",
                "everyone",
                "medium",
                f"{name_in_sentence(estate, link.policy)} is linked to {link_name(estate, link)}",
                "Every ordinary account is in that group, so the domain policy is out of "
                "reach for them. "
                "Changes to the domain policy will seem to do nothing.",
                link.policy,
                resolution.governed(link.policy),
            )
