"""Additions in words: what each rule asks, as it ends the sentence “A password has …” or stands by
itself (domain rules §9).
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import assert_never

from hornfels.core.policy.addition import (
    Addition,
    Asked,
    Band,
    Blocked,
    Closeness,
    Edge,
    Exposed,
    Forbid,
    GroupCount,
    Kind,
    KindCount,
    LengthRange,
    OwnNames,
    PathName,
    Pattern,
    Repeat,
    Run,
    Walk,
    Words,
)
from hornfels.core.values.time import describe_span

ONE: dict[Kind, str] = {
    "upper": "uppercase letter",
    "lower": "lowercase letter",
    "digit": "digit",
    "symbol": "symbol",
    "caseless": "letter without case",
    "letter": "letter",
    "other": "character that is no letter",
}
MANY: dict[Kind, str] = {
    **{kind: f"{noun}s" for kind, noun in ONE.items()},
    "caseless": "letters without case",
    "other": "characters that are no letters",
}
PATH_LABELS: dict[PathName, str] = {"password": "As a password", "phrase": "As a phrase"}


def said(one: Asked) -> str:
    """What a rule asks."""
    match one:
        case LengthRange(low, high):
            return f"{_range(low, high, 'character', 'characters')} long"
        case GroupCount(least):
            return f"{least:,} of the five character groups or more"
        case KindCount(kind, low, high):
            return _range(low, high, ONE[kind], MANY[kind])
        case Edge(first, last):
            ends = [
                f"{where} with a {_or([ONE[kind] for kind in kinds])}"
                for where, kinds in (("beginning", first), ("ending", last))
                if kinds
            ]
            return f"not {' or '.join(ends)}"
        case Forbid(characters):
            return f"none of these characters: {' '.join(map(_shown, characters))}"
        case Repeat(most):
            return f"no character more than {_times(most)} in a row"
        case Run(most):
            return f"no more than {most:,} in a row up or down the alphabet or the digits"
        case Walk(most, layouts):
            return f"no more than {most:,} neighbouring keys in a row ({', '.join(layouts)})"
        case Blocked(lists, whole):
            what = "none of the terms as a whole from" if whole else "no term inside from"
            return f"{what} {_or(list(lists))}"
        case OwnNames(backwards):
            return f"none of the account's own names{', nor backwards' if backwards else ''}"
        case Closeness(changed, shared, no_counting):
            parts = []
            if changed:
                parts.append(f"at least {counted(changed, 'character', 'characters')} changed")
            if shared is not None:
                parts.append(f"at most {shared:,} in a row kept")
            if no_counting:
                parts.append("more than a number or the case changed")
            return f"on a change {', '.join(parts)}"
        case Pattern(expression, must):
            return f"{'matching' if must else 'not matching'} {expression}"
        case Exposed(lists, most):
            often = f"more than {_times(most)} " if most else ""
            return f"not seen {often}among the exposed passwords of {_or(list(lists))}"
        case Words(least, letters, distinct):
            long = "" if letters == 1 else f" of {letters:,} letters or more"
            words = counted(least, "word", "words") + long
            return f"{words}{', none of them twice' if distinct else ''}"
        case _:
            assert_never(one)


def band_said(band: Band) -> str:
    """How long a password lives that reaches a band."""
    return f"{describe_span(band.lifetime)} from {band.length:,} characters on"


def lines(addition: Addition | None) -> Iterator[tuple[str, str]]:
    """An addition as lines: where a line belongs, and what it says."""
    if addition is None:
        return
    for name, asked in addition.paths():
        yield from ((PATH_LABELS[name], said(one)) for one in asked)
    yield from (("Lives", band_said(band)) for band in addition.bands)


def counted(count: int, noun: str, nouns: str) -> str:
    """A number of things."""
    return f"{count:,} {noun if count == 1 else nouns}"


def _range(low: int, high: int | None, noun: str, nouns: str) -> str:
    if high is None:
        return f"at least {counted(low, noun, nouns)}"
    if high == 0:
        return f"no {nouns}"
    if low == 0:
        return f"at most {counted(high, noun, nouns)}"
    if low == high:
        return f"exactly {counted(low, noun, nouns)}"
    return f"{low:,} to {high:,} {nouns}"


def _times(count: int) -> str:
    return {1: "once", 2: "twice"}.get(count, f"{count:,} times")


def _or(words: Sequence[str]) -> str:
    return words[0] if len(words) == 1 else f"{', '.join(words[:-1])} or {words[-1]}"


def _shown(character: str) -> str:
    return "space" if character == " " else character
