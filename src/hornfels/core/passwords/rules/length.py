"""Length (domain rules §5)."""

from __future__ import annotations

from dataclasses import dataclass

from hornfels.core.passwords.rules.rule import Judgement, Occasion, Question, Subject, plural, units


@dataclass(frozen=True, slots=True)
class Length:
    """At least so many UTF-16 code units."""

    wanted: int
    key: str = "length"
    label: str = "Length"

    def ask(self, _subject: Subject, _moment: Occasion) -> Question[int]:
        return Question(units, self._say)

    def _say(self, measured: int) -> Judgement:
        if measured >= self.wanted:
            return Judgement(self.key, "passed", f"{measured} ≥ {self.wanted}")
        detail = f"{measured} of {self.wanted}"
        missing = plural(self.wanted - measured, "more character")
        plain = (
            f"It is too short: it has {plural(measured, 'character')} and needs at least "
            f"{self.wanted}. Add {missing}."
        )
        return Judgement(self.key, "failed", detail, missing, plain)
