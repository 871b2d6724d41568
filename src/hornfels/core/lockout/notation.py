"""Our notation for stories: "3 bad in 10 min, good after 2 h, unlock".

A story is parts between commas. A part is a kind of event, how many of them before it (one if left
out), and when, after it:

- ``after 2 h``: so long after the part before; ``at 2 h``: so long after the beginning; neither:
  ten seconds after the part before, or at the beginning;
- ``every 5 min``: so far from one to the next; ``in 10 min``: spread evenly over so much;
  neither: ten seconds from one to the next;
- ``every 5 min for 2 h``: as many as begin within so much.

Spans are numbers with s, min, h, d or w, also several: ``1 h 30 min``, ``0.5 s``.
"""

from __future__ import annotations

import re
from collections.abc import Iterator

from hornfels.core.lockout.machine import KINDS
from hornfels.core.lockout.story import Event, Story, in_order
from hornfels.core.values.spans import taken
from hornfels.core.values.time import DAY, TICKS_PER_SECOND, exact_span

PAUSE = 10 * TICKS_PER_SECOND
"""Between two events of which nothing else is said."""
MOST_EVENTS = 2_000
LONGEST = 1_000 * DAY
"""The latest moment of a story, in ticks from its beginning."""

_CLAUSES = ("after", "at", "every", "in", "for")
Spans = dict[str, int]
"""By the word before it, each span of a part in ticks."""
_FILLERS = {"try", "tries", "password", "passwords", "then", "and"}
_WORD = re.compile(r"\d{1,9}(?:\.\d{1,7})?|[^\W\d_]+")


class NotationError(ValueError):
    """A story that cannot be read: which part, what is wrong with it and what to write instead."""


class _PartError(ValueError):
    """What is wrong with the part at hand."""


def read_story(text: str) -> Story:
    """The events that a text in our notation stands for. Raises `NotationError`."""
    events: list[Event] = []
    last: int | None = None
    for number, part in enumerate(re.split(r"[,;\n]", text), 1):
        if not part.strip():
            continue
        try:
            found = list(_part(_words(part), last))
            last = found[-1].at
            if last > LONGEST:
                raise _PartError("A story lasts 1,000 days at most.")
            if len(events) + len(found) > MOST_EVENTS:
                raise _PartError(f"A story has at most {MOST_EVENTS:,} events. Write fewer.")
        except _PartError as error:
            shown = part.strip() if len(part.strip()) <= 60 else part.strip()[:59] + "…"
            raise NotationError(f"Part {number}, “{shown}”: {error}") from None
        events += found
    return in_order(events)


def _words(part: str) -> list[str]:
    between = _WORD.sub("", part).strip()
    if between:
        raise _PartError(f"“{between[0]}” has no meaning here. Write as in “3 bad in 10 min”.")
    return [word for word in _WORD.findall(part.lower()) if word not in _FILLERS]


def _part(words: list[str], last: int | None) -> Iterator[Event]:
    count: int | None = None
    if words and words[0][0].isdecimal():
        many = words.pop(0)
        if not many.isdecimal() or not 1 <= int(many) <= MOST_EVENTS:
            raise _PartError(f"It can happen 1 to {MOST_EVENTS:,} times.")
        count = int(many)
    kind = next((kind for kind in KINDS if words and words[0] == kind), None)
    if kind is None:
        raise _PartError("Say what happens: bad, good, old or unlock, as in “3 bad in 10 min”.")
    spans = _spans(words[1:])
    first = _first(spans, last)
    for offset in _offsets(count, spans):
        yield Event(first + offset, kind)


def _spans(words: list[str]) -> Spans:
    spans: Spans = {}
    while words:
        clause = words.pop(0)
        if clause not in _CLAUSES:
            raise _PartError(
                f"“{clause[:20]}” has no meaning here. Write after, at, every, in or for, and "
                "how long."
            )
        if clause in spans:
            raise _PartError(f"“{clause}” stands there twice. Leave one out.")
        spans[clause] = _span(clause, words)
    return spans


def _span(clause: str, words: list[str]) -> int:
    """The span at the beginning of `words`, which is taken off."""
    total = taken(words)
    if total is None:
        raise _PartError(
            f"Say how long after “{clause}”: a number with s, min, h, d or w, as in "
            f"“{clause} 10 min”."
        )
    if total > LONGEST:
        raise _PartError("A story lasts 1,000 days at most.")
    return total


def _first(spans: Spans, last: int | None) -> int:
    if "at" in spans and "after" in spans:
        raise _PartError("“at” counts from the beginning, “after” from the part before. Keep one.")
    if "at" in spans:
        return spans["at"]
    if "after" in spans:
        return (last or 0) + spans["after"]
    return 0 if last is None else last + PAUSE


def _offsets(count: int | None, spans: Spans) -> list[int]:
    """How long after the first one each of a part comes."""
    if "in" in spans:
        if "every" in spans or "for" in spans:
            raise _PartError("“in” says how far apart they are already. Keep one.")
        if count is None or count < 2:
            raise _PartError("Say how many, at least 2, as in “3 bad in 10 min”.")
        return [spans["in"] * n // (count - 1) for n in range(count)]
    if "for" in spans:
        if "every" not in spans or spans["every"] <= 0 or count is not None:
            raise _PartError(
                "“for” goes with “every” and no number, as in “bad every 5 min for 2 h”."
            )
        count = min(spans["for"] // spans["every"] + 1, MOST_EVENTS + 1)
    elif "every" in spans and count is None:
        raise _PartError("Say how many or for how long, as in “bad every 5 min for 2 h”.")
    return [n * spans.get("every", PAUSE) for n in range(count or 1)]


def write_story(story: Story) -> str:
    """A story in our notation, as shortly as equal distances allow; reading it gives the same
    events.
    """
    parts, at, last = [], 0, None
    while at < len(story):
        run = _run(story, at)
        parts.append(_written(story, at, run, last))
        at += run
        last = story[at - 1].at
    return ", ".join(parts)


def _run(story: Story, at: int) -> int:
    """How many events from here on are one part: of one kind and equally far apart."""
    if at + 1 >= len(story) or story[at + 1].kind != story[at].kind:
        return 1
    gap = story[at + 1].at - story[at].at
    end = at + 1
    while (
        end < len(story)
        and story[end].kind == story[at].kind
        and story[end].at - story[end - 1].at == gap
    ):
        end += 1
    return end - at


def _written(story: Story, at: int, run: int, last: int | None) -> str:
    first = story[at]
    words = [str(run), first.kind] if run > 1 else [first.kind]
    gap = story[at + 1].at - first.at if run > 1 else PAUSE
    if gap != PAUSE:
        words += ["every", exact_span(gap)]
    if last is None:
        if first.at:
            words += ["at", exact_span(first.at)]
    elif first.at - last != PAUSE:
        words += ["after", exact_span(first.at - last)]
    return " ".join(words)
