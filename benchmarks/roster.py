"""Filtering, ordering and finding among everyone, warm and from nothing."""

from __future__ import annotations

import time
from collections.abc import Callable
from itertools import count

from hornfels.core.domain.estate import Estate
from hornfels.core.resolution.engine import Resolution
from hornfels.core.resolution.roster import REMEMBERED, Filter, Roster

NOW = 134_000_000_000_000_000


def finding_people(
    estate: Estate, resolution: Resolution, row: Callable[..., None], median: Callable[..., float]
) -> None:
    roster = Roster(estate, resolution)
    moments = count(NOW, REMEMBERED)
    begun = time.perf_counter()
    roster.prime()
    row("everyone made ready to be asked for", time.perf_counter() - begun)
    asked: dict[str, Filter] = {
        "everyone": Filter(),
        "one letter": Filter(words="e"),
        "a word": Filter(words="person 77"),
        "through a group, not by a tie, never expires": Filter(
            way="group", tie=False, expiry="never"
        ),
        "in an OU, enabled": Filter(container="DC=big,DC=example", enabled=True),
    }
    for name, wanted in asked.items():
        row(f"accounts: {name}", median(lambda w=wanted: roster.rows(w, next(moments))))
    for order in ("display_name", "policy", "why", "expires"):
        row(
            f"accounts: everyone, by {order}",
            median(lambda o=order: roster.rows(Filter(), next(moments), o)),
        )
    for needle in ("p", "person 9", "nobody"):
        row(
            f"search: the best for “{needle}”",
            median(lambda n=needle: estate.accounts.display_name.best(n, 7)),
        )
