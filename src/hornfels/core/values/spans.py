"""Spans as people write them: "42 d", "1 h 30 min", "0.5 s"."""

from __future__ import annotations

import re
from decimal import Decimal

from hornfels.core.values.time import DAY, HOUR, MINUTE, TICKS_PER_SECOND

_UNITS = {
    unit: size
    for size, units in {
        7 * DAY: "w week weeks",
        DAY: "d day days",
        HOUR: "h hour hours",
        MINUTE: "min mins m minute minutes",
        TICKS_PER_SECOND: "s sec second seconds",
    }.items()
    for unit in units.split()
}
_WORD = re.compile(r"\d{1,15}(?:\.\d{1,7})?|[a-z]+")


def taken(words: list[str]) -> int | None:
    """The span at the beginning of `words`, in ticks to the nearest; its words are taken off. None
    if none stands there.
    """
    total, found = Decimal(0), False
    while len(words) >= 2 and words[0][0].isdecimal() and words[1] in _UNITS:
        total += Decimal(words.pop(0)) * _UNITS[words.pop(0)]
        found = True
    return int(total.to_integral_value()) if found else None


def read_span(text: str) -> int:
    """The span that a text stands for, in ticks, with a minus sign before it also one below 0.
    Raises ValueError with what is wrong.
    """
    rest = text.strip().lower().replace(",", "")
    sign = -1 if rest[:1] in ("-", "−") else 1
    rest = rest[1:] if sign < 0 else rest
    words = _WORD.findall(rest)
    span = taken(words) if not _WORD.sub("", rest).strip() else None
    if span is None or words:
        raise ValueError("write a number with its unit, s, min, h, d or w, as in “1 h 30 min”")
    return sign * span
