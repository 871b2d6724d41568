"""One's own name inside (domain rules §5)."""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import Literal, NamedTuple

from hornfels.core.passwords.characters import Candidate, length
from hornfels.core.passwords.rules.rule import Judgement, Occasion, Question, Subject
from hornfels.core.values.dn import fold

SHORTEST_NAME = 3
"""Characters; shorter names and parts of names are allowed inside a password."""

_NAME_SEPARATORS = re.compile(r"[,.\-_ #\t]+")


def name_parts(display_name: str) -> list[str]:
    """A display name split where the specification splits it; short and empty parts are still
    there.
    """
    return _NAME_SEPARATORS.split(display_name)


class Name(NamedTuple):
    """A name that must not stand inside: the account's, or a part of its display name."""

    text: str
    kind: Literal["account", "part"]

    @property
    def what(self) -> str:
        """What it is, in words."""
        return "the account's name" if self.kind == "account" else "part of the display name"


_INSIDE = {"account": "account name inside", "part": "part of display name inside"}


@dataclass(frozen=True, slots=True)
class OwnName:
    """Neither the account's name nor a part of its display name inside."""

    on: bool
    key: str = "own_name"
    label: str = "Own name inside"

    def names(self, subject: Subject) -> list[Name]:
        """What must not stand inside. A part that only repeats another is left out."""
        found: dict[str, Name] = {}
        if length(subject.name) >= SHORTEST_NAME:
            found[fold(subject.name)] = Name(subject.name, "account")
        for part in name_parts(subject.display_name):
            if length(part) >= SHORTEST_NAME:
                found.setdefault(fold(part), Name(part, "part"))
        return list(found.values()) if self.on else []

    def folded(self, subject: Subject) -> list[str]:
        """The names in the form in which `Candidate.folded` is searched for them."""
        return [fold(name) for name, _ in self.names(subject)]

    def ask(self, subject: Subject, _moment: Occasion) -> Judgement | Question[tuple[int, ...]]:
        if not self.on:
            return Judgement(self.key, "not asked", "not required")
        names, folded = self.names(subject), self.folded(subject)
        if not names:
            return Judgement(self.key, "passed", "none")

        def inside(candidate: Candidate) -> tuple[int, ...]:
            return tuple([n for n, name in enumerate(folded) if name in candidate.folded])

        return Question(inside, lambda found: self._say([names[n] for n in found]))

    def _say(self, inside: list[Name]) -> Judgement:
        if not inside:
            return Judgement(self.key, "passed", "none")
        repair = "drop " + " and ".join(f"'{name.text}', {name.what}" for name in inside)
        detail = _INSIDE[inside[0].kind]
        plain = (
            f"It contains {' and '.join(f'“{name}”' for name, _ in inside)}, from your own name. "
            "Leave that out."
        )
        return Judgement(self.key, "failed", detail, repair, plain)
