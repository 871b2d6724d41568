"""The audit length (domain rules §5)."""

from __future__ import annotations

from collections.abc import Hashable
from dataclasses import dataclass

from hornfels.core.passwords.rules.rule import Judgement, Measure, Occasion, Subject, plural, units


@dataclass(frozen=True, slots=True)
class AuditLength:
    """Shorter passwords are accepted but logged."""

    wanted: int
    key: str = "audit_length"
    label: str = "Audit length"

    def measuring(self, subject: Subject, moment: Occasion) -> Measure:
        return units

    def say(self, measured: Hashable, subject: Subject, moment: Occasion) -> Judgement:
        assert isinstance(measured, int)  # noqa: S101
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
