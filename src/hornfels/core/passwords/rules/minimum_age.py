"""The minimum age (domain rules §5)."""

from __future__ import annotations

from dataclasses import dataclass

from hornfels.core.domain.estate import UNKNOWN_TIME
from hornfels.core.passwords.rules.rule import Judgement, Occasion, Subject
from hornfels.core.values.time import describe_span


@dataclass(frozen=True, slots=True)
class MinimumAge:
    """The present password is old enough to be changed by its owner."""

    wanted: int
    key: str = "minimum_age"
    label: str = "Minimum age"

    def ask(self, _subject: Subject, moment: Occasion) -> Judgement:
        if moment.operation == "reset":
            return Judgement(self.key, "not asked", "a reset ignores it")
        if moment.password_set == 0:
            return Judgement(self.key, "passed", "must change now")
        if self.wanted <= 0:
            return Judgement(self.key, "passed", "none wanted")
        if moment.password_set == UNKNOWN_TIME:
            doubt = (
                f"It can be changed {describe_span(self.wanted)} after the last change; when "
                "that was is not known here."
            )
            return Judgement(self.key, "not checkable", "time set was not read", plain=doubt)
        age = moment.now - moment.password_set
        if age >= self.wanted:
            return Judgement(self.key, "passed", f"set {describe_span(age, parts=1, up=False)} ago")
        ago = f"set {describe_span(age, up=False)} ago" if age >= 0 else "set in the future"
        wait = describe_span(self.wanted - age)
        plain = f"Your present password is too new: it was {ago}. You can change it in {wait}."
        return Judgement(
            self.key,
            "failed",
            f"{ago} of {describe_span(self.wanted)}" if age >= 0 else ago,
            f"wait {wait}",
            plain,
        )
