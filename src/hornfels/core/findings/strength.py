"""Findings about weaker policies in the place of stricter ones."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from hornfels.core.domain.estate import Bools, Estate
from hornfels.core.domain.wording import name_in_sentence, ref_of
from hornfels.core.findings.finding import Finding
from hornfels.core.policy.catalogue import BY_KEY
from hornfels.core.policy.strength import compare
from hornfels.core.resolution.engine import Resolution, policies_in


def direct_beats_stricter(estate: Estate, resolution: Resolution) -> Iterator[Finding]:
    position = {policy: place for place, policy in enumerate(resolution.order)}
    told: dict[tuple[int, int], tuple[int, str, list[str]]] = {}
    for number, stack in enumerate(resolution.stacks):
        if stack.exempt or not stack.direct or not stack.group:
            continue
        wins = int(resolution.winners[number])
        loses = min(policies_in(stack.group), key=position.__getitem__)
        differs = compare(estate.policies[loses].settings, estate.policies[wins].settings)
        weaker = [BY_KEY[key].label.lower() for key, how in differs.items() if how == "weaker"]
        if loses != wins and weaker:
            count, sample, _ = told.get((wins, loses), (0, "", []))
            sample = sample or estate.accounts.name[int(resolution.samples[number])]
            told[wins, loses] = (count + int(resolution.counts[number]), sample, weaker)
    for (wins, loses), (count, sample, weaker) in told.items():
        yield Finding(
            f"direct:{ref_of(estate, wins)}:{ref_of(estate, loses)}",
            "direct",
            "high",
            (
                f"{name_in_sentence(estate, wins)}, linked to accounts directly, beats the "
                f"stricter {name_in_sentence(estate, loses)}"
            ),
            f"A direct link wins whatever its number. It is weaker in {', '.join(weaker)}.",
            wins,
            count,
            account=sample,
        )


def weaker_than_domain(
    estate: Estate, resolution: Resolution, privileged: Bools
) -> Iterator[Finding]:
    bedrock = estate.domain.settings
    for policy in resolution.order:
        governed = resolution.governed(policy)
        differs = compare(bedrock, estate.policies[policy].settings)
        weaker = [BY_KEY[key].label.lower() for key, how in differs.items() if how == "weaker"]
        if not governed or not weaker:
            continue
        admins = int(np.count_nonzero(privileged & (resolution.winner_of_account == policy)))
        whom = f" {admins:,} of its accounts are administrators'." if admins else ""
        yield Finding(
            f"weaker:{ref_of(estate, policy)}",
            "weaker",
            "high" if admins else "medium",
            f"{name_in_sentence(estate, policy)} is weaker than the domain policy",
            (
                f"It is weaker in {', '.join(weaker)}. A fine-grained policy takes the domain "
                f"policy's place whole.{whom}"
            ),
            policy,
            governed,
        )
