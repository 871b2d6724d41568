"""Verdicts on a stream of candidates, each written once for all that measure the same.

Most candidates measure what one before them measured, so that whole answers are kept. Those that
differ do so in few rules: what each rule says is kept too, already written, and only put together.
"""

from __future__ import annotations

from collections.abc import Callable, Hashable, Sequence
from dataclasses import dataclass, field
from typing import NamedTuple

from hornfels.core.passwords.characters import Candidate
from hornfels.core.passwords.judge import MOST_KEPT
from hornfels.core.passwords.rules.rule import Asked, Judgement, Measure, Occasion, Rule, Subject
from hornfels.core.policy.addition import PATHS, PathName

_NATIVE = 1
_OF_PATH = {path: 2 << number for number, path in enumerate(PATHS)}


class _Answer(NamedTuple):
    """What some rules say, written, and on which sides one of them failed, a bit each."""

    failed: int
    written: str


@dataclass(slots=True)
class _Part:
    """Rules one after another that are asked together, and what they said. ``measure`` is of all of
    them.
    """

    measure: Measure
    asked: tuple[Judgement | Asked, ...]
    kept: dict[Hashable, _Answer] = field(default_factory=dict)


class Stream:
    """A compiled policy for one account at one moment, for very many candidates.

    `write` makes text of what one rule says; the texts come back joined by `between`.
    """

    def __init__(
        self,
        rules: Sequence[Rule],
        subject: Subject,
        moment: Occasion,
        write: Callable[[Judgement], str],
        between: str,
    ) -> None:
        self._write, self._between = write, between
        asked = [rule.ask(subject, moment) for rule in rules]
        natives = [one for one, rule in zip(asked, rules, strict=True) if not _path(rule)]
        beyond = [one for one, rule in zip(asked, rules, strict=True) if _path(rule)]
        paths: set[PathName] = {path for rule in rules if (path := _path(rule))}
        # What the directory asks measures few things, so that it is kept as a whole.
        self._parts = [_Part(_together(natives), tuple(natives))] if natives else []
        for one in beyond:
            self._join(one)
        # Each thing is measured once, however many rules hang on it.
        self._measures = list(dict.fromkeys(part.measure for part in self._parts))
        self._numbered = [(self._measures.index(part.measure), part) for part in self._parts]
        every = sum(_OF_PATH[path] for path in paths)
        self._accepted = [
            not failed & _NATIVE and (every == 0 or failed & every != every)
            for failed in range(2 << len(PATHS))
        ]
        self._whole: dict[tuple[Hashable, ...], tuple[bool, str]] = {}

    def _join(self, one: Judgement | Asked) -> None:
        """Rules that measure the very same, one after another, are asked at once."""
        last = self._parts[-1] if self._parts else None
        measure = _constant if isinstance(one, Judgement) else one.measure
        if last and (last.measure == measure or measure is _constant):
            last.asked = (*last.asked, one)
        else:
            self._parts.append(_Part(measure, (one,)))

    def __call__(self, candidate: Candidate) -> tuple[bool, str]:
        """Whether a candidate is accepted, and what all rules say, written."""
        keys = tuple([measure(candidate) for measure in self._measures])
        try:
            return self._whole[keys]
        except KeyError:
            pass
        if len(self._whole) >= MOST_KEPT:
            self._whole.clear()
        whole = self._whole[keys] = self._put_together(keys, candidate)
        return whole

    def _put_together(self, keys: tuple[Hashable, ...], candidate: Candidate) -> tuple[bool, str]:
        answers = [
            part.kept.get(keys[number]) or self._answer(part, keys[number], candidate)
            for number, part in self._numbered
        ]
        failed = 0
        for answer in answers:
            failed |= answer.failed
        return self._accepted[failed], self._between.join([answer.written for answer in answers])

    def _answer(self, part: _Part, key: Hashable, candidate: Candidate) -> _Answer:
        found = [one if isinstance(one, Judgement) else one.judge(candidate) for one in part.asked]
        failed = 0
        for judgement in found:
            if judgement.status == "failed":
                failed |= _OF_PATH[judgement.path] if judgement.path else _NATIVE
        if len(part.kept) >= MOST_KEPT:
            part.kept.clear()
        answer = _Answer(failed, self._between.join(map(self._write, found)))
        part.kept[key] = answer
        return answer


def _path(rule: Rule) -> PathName | None:
    return getattr(rule, "path", None)


def _constant(_candidate: Candidate) -> None:
    """The measure of what no candidate changes."""


def _together(asked: Sequence[Judgement | Asked]) -> Measure:
    measures = tuple(one.measure for one in asked if not isinstance(one, Judgement))
    return lambda candidate: tuple([measure(candidate) for measure in measures])
