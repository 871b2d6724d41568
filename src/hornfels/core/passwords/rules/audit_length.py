"""The audit length (domain rules §5)."""

from __future__ import annotations

from dataclasses import dataclass

from hornfels.core.passwords.rules.rule import Judgement, Occasion, Question, Subject, plural, units


@dataclass(frozen=True, slots=True)
class AuditLength:
    """Shorter passwords are accepted but logged."""

    wanted: int
    key: str = "audit_length"
    label: str = "Audit length"

    def ask(self, _subject: Subject, _moment: Occasion) -> Question[int]:
        return Question(units, self._say)

    def _say(self, measured: int) -> Judgement:
        if measured >= self.wanted:
            return Judgement(self.key, "passed", f"{measured} ≥ {self.wanted}")
        plain = (
            "It is let through but noted, because it is shorter than "
            f"{plural(self.wanted, 'character')}."
        )
        return Judgement(
            self.key,
            "passed",
            f"{measured} of {self.wanted}, accepted but logged",
            plain=plain,
            noted=True,
        )
