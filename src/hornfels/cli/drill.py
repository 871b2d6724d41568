"""`hornfels drill`: a stream of tries and unlocks at one account of a dump, under its policy."""

from __future__ import annotations

import json
import sys
from decimal import Decimal
from functools import lru_cache
from io import BufferedIOBase
from pathlib import Path
from typing import Any, NoReturn, cast

from hornfels.cli.errors import fail, json_line, say
from hornfels.cli.lines import blocks
from hornfels.cli.resolve import account_row, read_estate
from hornfels.core.domain.account_state import settings_of
from hornfels.core.domain.estate import LinkedGroups
from hornfels.core.lockout.machine import KINDS, EventKind, Outcome
from hornfels.core.lockout.story import Drill, reads
from hornfels.core.policy.lockout import lock_sentence
from hornfels.core.resolution.engine import winners
from hornfels.core.values.time import TICKS_PER_SECOND, describe_span

LATEST = 10**12
"""Seconds from the beginning, far beyond any calendar."""


def _no_number(word: str) -> NoReturn:
    raise ValueError(word)


# Decimal, so that a tenth of a second is exact to the tick.
_DECODER = json.JSONDecoder(parse_float=Decimal, parse_constant=_no_number)


def print_drill(file: Path, name: str, linked_groups: LinkedGroups, *, as_json: bool) -> None:
    estate = read_estate(file, linked_groups)
    row = account_row(estate, name, file)
    settings = settings_of(estate, int(winners(estate)[row]))
    if not as_json:
        say(f"{estate.accounts.name[row]}: {lock_sentence(settings)}")
    drill = Drill(settings)
    latest: int = -LATEST * TICKS_PER_SECOND
    for first, lines in blocks(cast(BufferedIOBase, sys.stdin.buffer)):
        answers: list[str] = []
        try:
            for number, line in enumerate(lines, first):
                if not line.strip():
                    continue
                at, kind = _event(line, number)
                if at < latest:
                    _wrong(number, "before the event above it; put the events in order of time")
                latest = at
                answer = drill.happen(kind, at)
                answers.append(_json(*answer) if as_json else _line(at, kind, *answer))
        finally:
            # What stood before an unreadable line is answered all the same.
            sys.stdout.write("".join(answers))
            sys.stdout.flush()


@lru_cache(maxsize=1024)  # a few answers come again and again
def _json(outcome: Outcome, count: int, locked: bool) -> str:
    return json_line({"outcome": outcome, "bad_count": count, "locked": locked}) + "\n"


def _line(at: int, kind: EventKind, outcome: Outcome, count: int, locked: bool) -> str:
    after = f"{count:,} bad, locked" if locked else f"{count:,} bad"
    return f"{describe_span(at, up=False):>12}  {kind:<6}  {reads(kind, outcome)} ({after})\n"


def _event(line: str, number: int) -> tuple[int, EventKind]:
    """The moment in ticks and the kind that a line stands for."""
    try:
        event: Any = _DECODER.decode(line)
    except (ValueError, RecursionError):
        event = None
    if not isinstance(event, dict):
        _wrong(number, 'not an event; write it as {"at": 60, "event": "bad"}')
    at, kind = event.get("at"), event.get("event")
    if isinstance(at, bool) or not isinstance(at, int | Decimal) or not -LATEST <= at <= LATEST:
        _wrong(number, '"at" has to be the seconds since the beginning, such as 90 or 0.5')
    if kind not in KINDS:
        _wrong(number, '"event" has to be "bad", "good", "old" or "unlock"')
    ticks = at * TICKS_PER_SECOND
    return ticks if isinstance(ticks, int) else int(ticks.to_integral_value()), cast(
        EventKind, kind
    )


def _wrong(number: int, problem: str) -> NoReturn:
    fail(f"standard input, line {number}: {problem}")
