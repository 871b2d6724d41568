"""Which characters, and where: at the ends, and none of some (domain rules §9)."""

from __future__ import annotations

from dataclasses import dataclass

from hornfels.core.passwords.characters import Candidate
from hornfels.core.passwords.rules.counts import numbers_of
from hornfels.core.passwords.rules.rule import Judgement, Occasion, Question, Subject
from hornfels.core.policy.addition import Edge, Forbid, Kind
from hornfels.core.policy.addition_words import MANY


@dataclass(frozen=True, slots=True)
class EdgeRule:
    """Neither end is of a kind that is not to stand there."""

    asked: Edge
    key: str = "edge"
    label: str = "First and last character"

    def ask(self, _subject: Subject, _moment: Occasion) -> Question[tuple[Kind | None, ...]]:
        # Of each end the kind that must not stand there, by the number that a candidate has for it.
        first, last = (
            {number: kind for kind in reversed(kinds) for number in numbers_of(kind)}
            for kinds in (self.asked.first, self.asked.last)
        )

        def wrong(candidate: Candidate) -> tuple[Kind | None, ...]:
            kinds = candidate.kinds
            return (first.get(kinds[0]), last.get(kinds[-1])) if kinds else (None, None)

        return Question(wrong, self._say)

    def _say(self, wrong: tuple[Kind | None, ...]) -> Judgement:
        told = [
            (where, MANY[kind]) for where, kind in zip(("begin", "end"), wrong, strict=True) if kind
        ]
        if not told:
            return Judgement(self.key, "passed", "as asked")
        detail = ", ".join(f"{where}s with one of the {kind}" for where, kind in told)
        repair = " and ".join(f"{where} with something else" for where, _ in told)
        plain = f"It {detail}; it has to {repair}."
        return Judgement(self.key, "failed", detail, repair, plain)


@dataclass(frozen=True, slots=True)
class ForbidRule:
    """None of the characters that are listed."""

    asked: Forbid
    key: str = "forbid"
    label: str = "Forbidden characters"

    def ask(self, _subject: Subject, _moment: Occasion) -> Question[str]:
        forbidden = dict.fromkeys(self.asked.characters)

        def inside(candidate: Candidate) -> str:
            return "".join(c for c in forbidden if c in candidate.text)

        return Question(inside, self._say)

    def _say(self, inside: str) -> Judgement:
        if not inside:
            return Judgement(self.key, "passed", "none")
        listed = " ".join(inside)
        plain = f"It contains what is not allowed: {listed}. Leave that out."
        return Judgement(self.key, "failed", f"contains {listed}", f"leave out {listed}", plain)
