"""Passwords that others already know (domain rules §9)."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import NamedTuple

from hornfels.core.passwords.characters import Candidate
from hornfels.core.passwords.rules.rule import Judgement, Occasion, Question, Subject, plural
from hornfels.core.policy.addition import Exposed


class Seen(NamedTuple):
    """How often a text was seen in which corpora, and which of them could not be read."""

    times: tuple[tuple[str, int], ...]
    unread: tuple[str, ...] = ()


ExposedOf = Callable[[tuple[str, ...]], Callable[[str], Seen] | None]
"""Gives, for corpora by their names, what tells how often a text was seen in them; None if one of
them is not at hand.
"""


@dataclass(frozen=True, slots=True)
class ExposedRule:
    """Seen in corpora no more often than so many times in all."""

    asked: Exposed
    exposed: ExposedOf
    key: str = "exposed"
    label: str = "Known exposed"

    def ask(self, _subject: Subject, _moment: Occasion) -> Judgement | Question[Seen]:
        # Looked for each time: corpora come and grow while rules stay as they are.
        seen = self.exposed(self.asked.lists)
        if seen is None:
            return self._unknown(f"the corpus {' or '.join(self.asked.lists)} is not at hand")
        return Question(lambda candidate: self._measure(seen, candidate), self._say)

    def _measure(self, seen: Callable[[str], Seen], candidate: Candidate) -> Seen:
        return seen(candidate.text)

    def _unknown(self, why: str) -> Judgement:
        return Judgement(self.key, "not checkable", why, plain="Others may already know it.")

    def _say(self, seen: Seen) -> Judgement:
        count = sum(times for _, times in seen.times)
        where = " and ".join(f"{plural(times, 'time')} in {name}" for name, times in seen.times)
        most = self.asked.max
        if count > most:
            return Judgement(
                self.key,
                "failed",
                f"seen {where}{f', at most {most:,}' if most else ''}",
                "choose another",
                f"Others already know it: it was seen {plural(count, 'time')} among exposed "
                "passwords. Choose another.",
            )
        if seen.unread:
            return self._unknown(f"{' and '.join(seen.unread)} cannot be read")
        if count:
            return Judgement(self.key, "passed", f"seen {where}, at most {most:,}")
        return Judgement(self.key, "passed", "not seen")
