"""What the invented domain asks beyond the directory's own rules, and the words it blocks."""

from __future__ import annotations

from collections.abc import Mapping

from hornfels.core.policy.addition import (
    Addition,
    Band,
    Blocked,
    Closeness,
    Exposed,
    LengthRange,
    OwnNames,
    Repeat,
    Run,
    Walk,
    Words,
)
from hornfels.core.values.time import DAY
from hornfels.demo.exposed import CORPUS

TERMS: Mapping[str, tuple[str, ...]] = {
    "common": (
        "password",
        "welcome",
        "letmein",
        "secret",
        "qwerty",
        "admin",
        "spring",
        "summer",
        "autumn",
        "winter",
    ),
    "house": (
        "tarnholt",
        "orbit",
        "dome",
        "perigee",
        "spectro",
        "telescope",
        "kiosk",
        "observatory",
    ),
}
"""Blocked terms by list."""

ADDITIONS: Mapping[str, Addition] = {
    "Phrase pilot": Addition(
        password=(
            LengthRange(16),
            Run(3),
            Walk(3, ("us", "de")),
            Blocked(("common", "house")),
            OwnNames(reversed=True),
        ),
        phrase=(Words(4, 4, distinct=True), Blocked(("house",))),
        bands=(Band(8, 60 * DAY), Band(16, 365 * DAY), Band(24, 730 * DAY)),
    ),
    "Night operators": Addition(
        password=(
            Repeat(2),
            Closeness(changed=3, no_counting=True),
            Blocked(("house",)),
            Exposed((CORPUS,)),
        )
    ),
}
"""By the name of the policy."""
TITLE = "Words of the house, and phrases instead of symbols"
