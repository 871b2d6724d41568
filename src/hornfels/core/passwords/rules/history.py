"""Passwords one had before (domain rules §5)."""

from __future__ import annotations

from collections.abc import Hashable
from dataclasses import dataclass

from hornfels.core.passwords.rules.rule import (
    Judgement,
    Measure,
    Occasion,
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

    def measuring(self, subject: Subject, moment: Occasion) -> Measure | None:
        if moment.operation == "reset" or self.depth <= 0 or moment.previous is None:
            return None
        back: dict[str, int] = {}
        for number, earlier in enumerate(moment.previous, 1):
            if earlier is not None:
                back.setdefault(earlier, number)
        return lambda candidate: back.get(candidate.text, 0)

    def say(self, measured: Hashable, subject: Subject, moment: Occasion) -> Judgement:
        if moment.operation == "reset":
            return Judgement(self.key, "not asked", "a reset ignores it")
        if self.depth <= 0:
            return Judgement(self.key, "not asked", "none remembered")
        remembered = (
            "your present one"
            if self.depth == 1
            else f"any of your last {self.depth:,} passwords, the present one included"
        )
        doubt = f"It must not be {remembered}; only the directory can check that."
        if not isinstance(measured, int) or moment.previous is None:
            return Judgement(self.key, "not checkable", "only the directory knows", plain=doubt)
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
                f"{plain} Choose one that is not {remembered}.",
            )
        known = sum(earlier is not None for earlier in moment.previous[: self.depth])
        if moment.previous and not known and not measured:
            return Judgement(self.key, "not checkable", "only the directory knows", plain=doubt)
        if measured:
            return Judgement(
                self.key, "passed", f"{ordinal(measured)} back, beyond the {self.depth} remembered"
            )
        return Judgement(self.key, "passed", f"not among the {known} given of {self.depth}")
