"""What an edit of a policy's settings would do, before it is saved."""

from __future__ import annotations

from dataclasses import replace

from hornfels.core.domain.estate import Estate
from hornfels.core.drafts.impact import Impact, impact
from hornfels.core.policy.model import Settings
from hornfels.core.resolution.engine import Resolution, resolve


def weigh_edit(
    estate: Estate,
    resolution: Resolution,
    policy: int,
    settings: Settings,
    precedence: int | None,
    now: int,
) -> Impact:
    """The impact of giving a policy (by number, negative for the domain policy) these settings.
    ``now`` in ticks.
    """
    if policy < 0:
        edited = replace(estate, domain=replace(estate.domain, settings=settings))
        return impact(estate, resolution, edited, resolution, now)
    held = estate.policies[policy]
    number = held.precedence if precedence is None else precedence
    policies = list(estate.policies)
    policies[policy] = replace(held, settings=settings, precedence=number)
    edited = estate.with_policies(tuple(policies), estate.links)
    return impact(
        estate,
        resolution,
        edited,
        resolution if number == held.precedence else resolve(edited),
        now,
    )


def in_short(told: Impact) -> str:
    """Whom it hits, in a sentence."""
    if not told.hit:
        return "Hits nobody today."
    parts = []
    if told.accounts:
        parts.append(f"{told.accounts:,} change policy")
    if told.stronger:
        parts.append(f"stronger for {told.stronger:,}")
    if told.weaker:
        admins = len(told.weaker_privileged)
        parts.append(
            f"weaker for {told.weaker:,}"
            + (f", {admins:,} of them administrators" if admins else "")
        )
    if told.expire_at_once:
        one = told.expire_at_once == 1
        parts.append(
            "1 password expires at once"
            if one
            else f"{told.expire_at_once:,} passwords expire at once"
        )
    who = f"{told.hit:,} account{'s' * (told.hit != 1)}"
    return f"Hits {who}: {'; '.join(parts)}."
