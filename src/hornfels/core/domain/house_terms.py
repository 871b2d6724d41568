"""Words of the house: what everybody there thinks of first, from the names in its directory."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterator

from hornfels.core.domain.estate import Estate
from hornfels.core.values.dn import first_value, parent_of

SHORTEST = 4
"""Characters of a word that is worth blocking."""
MOST = 200
_COMMON = frozenset(
    """
    accounts admin admins administrators build builtin computers controllers domain enterprise
    global group groups guests holders local microsoft operators policy public read remote schema
    server servers service services system test universal user users windows
    """.split()  # noqa: SIM905 - a word a line would say no more
)
"""Words that stand in every directory."""
_WORDS = re.compile(r"[^\W\d_]+")


def house_terms(estate: Estate) -> list[str]:
    """Terms to block, proposed from the names of the domain, its groups, the departments and places
    of its accounts, and the units that all of these lie in: the most frequent first.
    """
    counts: Counter[str] = Counter()
    for text, weight in _names(estate):
        for word in set(map(str.casefold, _WORDS.findall(text))):
            if len(word) >= SHORTEST and word not in _COMMON:
                counts[word] += weight
    return [word for word, _ in counts.most_common(MOST)]


def _names(estate: Estate) -> Iterator[tuple[str, int]]:
    yield estate.domain.dns_name, 1_000_000
    for name in estate.groups.name:
        yield name, 1
    for name in estate.domain.places:
        yield name, 2
    # Each unit once, and those it lies in: accounts are many, units are few.
    units: set[str] = set()
    for dn in (*estate.groups.dn, *estate.accounts.dn):
        unit = parent_of(dn)
        while unit and unit not in units and unit.upper().startswith("OU="):
            units.add(unit)
            unit = parent_of(unit)
    for unit in units:
        yield first_value(unit), 2
