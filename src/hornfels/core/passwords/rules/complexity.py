"""Characters of several groups (domain rules §5)."""

from __future__ import annotations

from dataclasses import dataclass

from hornfels.core.passwords.characters import GROUP_LABELS, Candidate, CharacterGroup, Variety
from hornfels.core.passwords.rules.rule import Judgement, Occasion, Question, Subject

GROUPS_WANTED = 3


def _variety(candidate: Candidate) -> Variety:
    return candidate.variety


PLAIN_GROUPS: dict[CharacterGroup, str] = {
    "upper": "capital letters",
    "lower": "small letters",
    "digit": "digits",
    "symbol": "signs such as ! or -",
    "caseless": "letters of scripts without capitals",
}
EVERYDAY: tuple[CharacterGroup, ...] = ("upper", "lower", "digit", "symbol")


@dataclass(frozen=True, slots=True)
class Complexity:
    """Characters from at least three of the five groups."""

    on: bool
    key: str = "complexity"
    label: str = "Character groups"

    def ask(self, _subject: Subject, _moment: Occasion) -> Judgement | Question[Variety]:
        if not self.on:
            return Judgement(self.key, "not asked", "not required")
        return Question(_variety, self._say)

    def _say(self, measured: Variety) -> Judgement:
        present = measured.groups
        if len(present) >= GROUPS_WANTED:
            return Judgement(self.key, "passed", f"{len(present)} ≥ {GROUPS_WANTED}")
        detail = f"{len(present)} of {GROUPS_WANTED}"
        absent = [g for g in EVERYDAY if g not in present]
        missing = GROUPS_WANTED - len(present)
        repair = (
            f"add {'one' if missing == 1 else missing} of: "
            f"{', '.join(GROUP_LABELS[g] for g in absent)}"
        )
        if measured.lenient and len(present) + 1 >= GROUPS_WANTED:
            detail += " (some servers are more lenient and count its other characters as a group)"
        words = [PLAIN_GROUPS[g] for g in absent]
        kinds = "one of these" if missing == 1 else f"{missing} of these"
        plain = f"It mixes too few kinds of characters. Add {kinds}: {', '.join(words)}."
        return Judgement(self.key, "failed", detail, repair, plain)
