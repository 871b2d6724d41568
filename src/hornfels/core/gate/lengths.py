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
from hornfels.core.gate.lifetimes import Passed, Present, of_present
from hornfels.core.policy.addition import Band
from hornfels.core.resolution.engine import Resolution
from hornfels.core.values.time import DAY

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
    present = of_present(estate, rows, passed)
    winners = resolution.winner_of_account[rows[present.places]]
    for policy in np.unique(winners).tolist():
        addition = addition_of(estate, policy)
        here = winners == policy
        one = Present(present.places[here], present.at[here], present.ends[here])
        bands = addition.bands if addition else ()
        seen[one.places], low[one.places], high[one.places] = spans_of(bands, one)
    wanted = needed[rows]
    enough, shorter = seen & (low >= wanted), seen & (high < wanted)
    return LengthsKnown(
        int(shorter.sum()),
        int(enough.sum()),
        int((seen & ~enough & ~shorter).sum()),
        int((~seen).sum()),
    )


def spans_of(bands: Sequence[Band], present: Present) -> tuple[Bools, Int64, Int64]:
    """Of each password whether one of these bands ends it on its day, and the least and the
    greatest length that it then has.
    """
    count = len(present.places)
    seen = np.zeros(count, np.bool_)
    low, high = np.zeros((2, count), np.int64)
    # Not the end of the lifetime itself, which may be beyond all the time that there is.
    lived = present.ends - present.at
    for number, band in enumerate(bands):
        here = (lived <= band.lifetime) & (band.lifetime < lived + DAY)
        # What is shorter than every band falls to the first.
        low[here & ~seen] = band.length if number else 0
        high[here] = bands[number + 1].length - 1 if number + 1 < len(bands) else ENDLESS
        seen |= here
    return seen, low, high
