"""What the gate lets know of how long present passwords are (domain rules §9).

It keeps no length, only the day on which a password ends by the bands of its policy. From that day
follows the band, and from the band that the password is so long at least and shorter than the next.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np

from hornfels.core.domain.account_state import addition_of
from hornfels.core.domain.estate import Bools, Estate, Int64
from hornfels.core.gate.lifetimes import Passed, day_of, of_present
from hornfels.core.policy.addition import Band
from hornfels.core.resolution.engine import Resolution

ENDLESS = 1 << 31
"""Longer than any password."""


@dataclass(frozen=True, slots=True)
class LengthsKnown:
    """Accounts by their present password against a minimum length: surely shorter, surely long
    enough, in a band that has both, and not seen by the gate or by bands that are others now.
    """

    shorter: int
    enough: int
    either: int
    unseen: int


def lengths_known(
    estate: Estate,
    resolution: Resolution,
    passed: Iterable[Passed],
    needed: Int64,
    among: Bools,
) -> LengthsKnown:
    """How many of the accounts `among` have a password of the length that is `needed` of each, in
    UTF-16 units; both have a value for each account. The bands are those of the policies that hold.
    """
    rows = np.flatnonzero(among)
    low, high = np.zeros(len(rows), np.int64), np.full(len(rows), ENDLESS)
    seen = np.zeros(len(rows), np.bool_)
    winners = resolution.winner_of_account
    bands: dict[int, Sequence[Band]] = {}
    for number, one in of_present(estate, rows, passed):
        policy = int(winners[rows[number]])
        if policy not in bands:
            addition = addition_of(estate, policy)
            bands[policy] = addition.bands if addition else ()
        found = span_of(bands[policy], one)
        seen[number] = found is not None
        if found is not None:
            low[number], high[number] = found
    wanted = needed[rows]
    enough, shorter = seen & (low >= wanted), seen & (high < wanted)
    return LengthsKnown(
        int(shorter.sum()),
        int(enough.sum()),
        int((seen & ~enough & ~shorter).sum()),
        int((~seen).sum()),
    )


def span_of(bands: Sequence[Band], one: Passed) -> tuple[int, int] | None:
    """The least and the greatest length of a password that passed the gate, by the day on which it
    ends; None if none of these bands ends it then.
    """
    here = [n for n, band in enumerate(bands) if day_of(one.at + band.lifetime) == one.ends]
    if not here:
        return None
    # What is shorter than every band falls to the first.
    low = bands[here[0]].length if here[0] else 0
    high = bands[here[-1] + 1].length - 1 if here[-1] + 1 < len(bands) else ENDLESS
    return low, high
