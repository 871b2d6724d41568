"""Findings about precedence numbers."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import pairwise

from hornfels.core.domain.estate import Estate
from hornfels.core.domain.wording import name_in_sentence, ref_of
from hornfels.core.findings.finding import Finding, Mend
from hornfels.core.resolution.engine import Resolution, evaluation_order
from hornfels.core.resolution.reach import reach_of
from hornfels.core.resolution.what_if import precedence_for_place


def ties(estate: Estate, resolution: Resolution) -> Iterator[Finding]:
    for place, policy in enumerate(resolution.order):
        for tie in reach_of(estate, resolution, policy).ties:
            if tie.wins:
                continue
            number = precedence_for_place(estate, policy, place)
            loser, winner = name_in_sentence(estate, policy), name_in_sentence(estate, tie.other)
            mend = (
                None
                if number is None
                else Mend(policy, f"Give {loser} the number {number}", precedence=number)
            )
            yield Finding(
                f"tie:{ref_of(estate, tie.other)}:{ref_of(estate, policy)}",
                "tie",
                "medium" if tie.contested else "low",
                f"{winner} and {loser} share precedence {estate.policies[policy].precedence}",
                f"Where both reach an account, the smaller object GUID decides, and {winner} wins. "
                "Nobody chose that; it would turn over if one of them were made anew.",
                policy,
                tie.contested,
                "precedence",
                mend=mend,
            )


def crowded(estate: Estate) -> Iterator[Finding]:
    numbers = [estate.policies[p].precedence for p in evaluation_order(estate)]
    crowded = [(a, b) for a, b in pairwise(numbers) if b == a + 1]
    if crowded:
        listed = ", ".join(f"{a} and {b}" for a, b in crowded[:4])
        yield Finding(
            "crowded",
            "crowded",
            "low",
            "No number is free between some policies",
            (
                f"Between {listed} nothing fits any more. The next policy that belongs there "
                "will need its neighbours renumbered."
            ),
            None,
            0,
            "precedence",
        )
