"""Passwords one had before (domain rules §5)."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from hornfels.core.passwords.rules.rule import (
    Judgement,
    Occasion,
    Question,
    Subject,
    ordinal,
    plural,
)


@dataclass(frozen=True, slots=True)
class History:
    """Not one of the latest passwords; only the directory knows them unless the trial supplies
    some.
    """

    depth: int
    key: str = "history"
    label: str = "History"

    def ask(self, _subject: Subject, moment: Occasion) -> Judgement | Question[int]:
        if moment.operation == "reset":
            return Judgement(self.key, "not asked", "a reset ignores it")
        if self.depth <= 0:
            return Judgement(self.key, "not asked", "none remembered")
        previous = moment.previous
        if previous is None:
            return self._doubt
        back: dict[str, int] = {}
        for number, earlier in enumerate(previous, 1):
            if earlier is not None:
                back.setdefault(earlier, number)
        return Question(
            lambda candidate: back.get(candidate.text, 0),
            lambda measured: self._say(measured, previous),
        )

    @property
    def _remembered(self) -> str:
        return (
            "your present one"
            if self.depth == 1
            else f"any of your last {self.depth:,} passwords, the present one included"
        )

    @property
    def _doubt(self) -> Judgement:
        plain = f"It must not be {self._remembered}; only the directory can check that."
        return Judgement(self.key, "not checkable", "only the directory knows", plain=plain)

    def _say(self, measured: int, previous: Sequence[str | None]) -> Judgement:
        if 0 < measured <= self.depth:
            others = plural(self.depth - measured + 1, "other password")
            plain = (
                "It is the password you have now."
                if measured == 1
                else f"You had it {plural(measured - 1, 'password')} ago."
            )
            return Judgement(
                self.key,
                "failed",
                f"{ordinal(measured)} of {self.depth} remembered",
                f"choose another; free again after {others}",
                f"{plain} Choose one that is not {self._remembered}.",
            )
        known = sum(earlier is not None for earlier in previous[: self.depth])
        if previous and not known and not measured:
            return self._doubt
        if measured:
            return Judgement(
                self.key, "passed", f"{ordinal(measured)} back, beyond the {self.depth} remembered"
            )
        return Judgement(self.key, "passed", f"not among the {known} given of {self.depth}")
