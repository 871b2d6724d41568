"""How often people choose the same passwords: a Zipf-shaped choice (domain rules §10).

The password of rank r among N is chosen by a share of people that goes with r^−s. Whoever tries
the g most popular ones first hits with the sum of their shares.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike, NDArray

Floats = NDArray[np.float64]

_EXACT = 1024
"""Ranks that are added one by one; the rest goes by the Euler–Maclaurin formula, whose error is
below one in 10^14 from there on.
"""


def chance(guesses: ArrayLike, size: float, skew: float) -> Floats:
    """The chance to hit with so many guesses, the most popular ones first, among `size` passwords:
    elementwise, 0 for none and 1 for all of them. ``skew`` is the s of the shape, 0 for "all the
    same".
    """
    tried = np.clip(np.asarray(guesses, dtype=np.float64), 0, size)
    return np.minimum(1.0, _harmonic(tried, skew) / _harmonic(np.float64(size), skew))


def guesses_for(wanted: float, size: float, skew: float) -> float:
    """How many guesses have at least the chance `wanted`, the inverse of `chance` in whole
    numbers; `size` where it takes all of them.
    """
    low, high = 0, int(size)
    while low < high:
        middle = (low + high) // 2
        if chance(middle, size, skew) >= wanted:
            high = middle
        else:
            low = middle + 1
    return float(low)


def _harmonic(n: ArrayLike, skew: float) -> Floats:
    """1^−s + 2^−s + … + n^−s, elementwise; n is taken to be whole."""
    number = np.floor(np.asarray(n, dtype=np.float64))
    first = np.concatenate([[0.0], np.cumsum(np.arange(1, _EXACT + 1, dtype=np.float64) ** -skew)])
    few = first[np.minimum(number, _EXACT).astype(np.int64)]
    many = np.maximum(number, _EXACT)
    with_log = abs(skew - 1) < 1e-9
    area = (
        np.log(many / _EXACT)
        if with_log
        else (many ** (1 - skew) - float(_EXACT) ** (1 - skew)) / (1 - skew)
    )
    ends = (many**-skew - float(_EXACT) ** -skew) / 2
    slopes = skew * (float(_EXACT) ** (-skew - 1) - many ** (-skew - 1)) / 12
    total: Floats = few + np.where(number > _EXACT, area + ends + slopes, 0.0)
    return total
