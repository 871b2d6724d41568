"""One's own name inside (domain rules §5)."""

from __future__ import annotations

import re
from collections.abc import Hashable
from dataclasses import dataclass

from hornfels.core.passwords.characters import Candidate, length
from hornfels.core.passwords.rules.rule import Judgement, Measure, Occasion, Subject
from hornfels.core.values.dn import fold

SHORTEST_NAME = 3
"""Characters; shorter names and parts of names are allowed inside a password."""

_NAME_SEPARATORS = re.compile(r"[,.\-_ #\t]+")


def name_parts(display_name: str) -> list[str]:
    """A display name split where the specification splits it; short and empty parts are still
    there.
    """
    return _NAME_SEPARATORS.split(display_name)


def _no_name(_candidate: Candidate) -> Hashable:
    return ()


@dataclass(frozen=True, slots=True)
class OwnName:
    """Neither the account's name nor a part of its display name inside."""

    on: bool
    key: str = "own_name"
    label: str = "Own name inside"

    def names(self, subject: Subject) -> list[tuple[str, str]]:
        """What must not stand inside, and what each is. A part that only repeats another is left
        out.
        """
        found: dict[str, tuple[str, str]] = {}
        if length(subject.name) >= SHORTEST_NAME:
            found[fold(subject.name)] = (subject.name, "the account's name")
        for part in name_parts(subject.display_name):
            if length(part) >= SHORTEST_NAME:
                found.setdefault(fold(part), (part, "part of the display name"))
        return list(found.values()) if self.on else []

    def folded(self, subject: Subject) -> list[str]:
        """The names in the form in which `Candidate.folded` is searched for them."""
        return [fold(name) for name, _ in self.names(subject)]

    def measuring(self, subject: Subject, moment: Occasion) -> Measure | None:
        if not self.on:
            return None
        names = self.folded(subject)
        if not names:
            return _no_name
        return lambda candidate: tuple(
            [n for n, name in enumerate(names) if name in candidate.folded]
        )

    def say(self, measured: Hashable, subject: Subject, moment: Occasion) -> Judgement:
        if not isinstance(measured, tuple):
            return Judgement(self.key, "not asked", "not required")
        if not measured:
            return Judgement(self.key, "passed", "none")
        names = self.names(subject)
        inside = [names[n] for n in measured]
        repair = "drop " + " and ".join(f"'{name}', {what}" for name, what in inside)
        detail = (
            "account name inside"
            if inside[0][1] == "the account's name"
            else "part of display name inside"
        )
        plain = (
            f"It contains {' and '.join(f'“{name}”' for name, _ in inside)}, from your own name. "
            "Leave that out."
        )
        return Judgement(self.key, "failed", detail, repair, plain)
