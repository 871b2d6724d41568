"""The fewest invented candidates that pin a policy down: one that just passes, and for each rule
one that it alone refuses.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from random import Random

from hornfels.core.passwords.characters import length
from hornfels.core.passwords.judge import compile_policy, judge
from hornfels.core.passwords.rules.complexity import GROUPS_WANTED
from hornfels.core.passwords.rules.own_name import OwnName
from hornfels.core.passwords.rules.rule import Occasion, Operation, Subject, ordinal, plural
from hornfels.core.policy.model import Settings
from hornfels.core.values.time import TICKS_PER_SECOND, describe_span

_GROUPS = ("bcdfghjkmnpqrstvwxz", "23456789", "BCDFGHJKLMNPQRSTVWXZ", "-+!?#=")
"""Small and capital consonants, digits and symbols: nothing that reads as a word."""

MOST_DRAWS = 200
LONGEST_DRAWN = 1024
"""Characters of the longest candidate, and passwords of the longest history, that are drawn;
directories allow 255 and 1,024.
"""


@dataclass(frozen=True, slots=True)
class Boundary:
    """An invented candidate and the circumstances that put it just on one side of a rule.

    ``refused_by`` is the only rule that refuses it, None if it passes. Under a change, the present
    password was set ``set_ago`` ticks before now, and the candidate was in use ``back`` passwords
    ago (1 is the present one, 0 never).
    """

    about: str
    refused_by: str | None
    text: str = field(repr=False)
    set_ago: int
    back: int

    def moment(self, operation: Operation, now: int) -> Occasion:
        """The circumstances of the trial."""
        previous = [None] * (self.back - 1) + [self.text] if self.back else []
        return Occasion(operation, now, now - self.set_ago, previous)


@dataclass(frozen=True, slots=True)
class Boundaries:
    """The candidates, and the rules that none can be made for with the reason."""

    candidates: tuple[Boundary, ...]
    without: tuple[str, ...]


def boundaries(
    settings: Settings, subject: Subject, operation: Operation, random: Random
) -> Boundaries:
    """Candidates on both sides of every rule that the policy asks of this account (domain rules
    §5).
    """
    return _Maker(settings, subject, operation, random).make()


class _Maker:
    def __init__(
        self, settings: Settings, subject: Subject, operation: Operation, random: Random
    ) -> None:
        self.settings, self.subject, self.operation, self.random = (
            settings,
            subject,
            operation,
            random,
        )
        self.rules = compile_policy(settings)
        self.groups = GROUPS_WANTED if settings.complexity else 1
        self.shortest = max(settings.min_length, self.groups if settings.complexity else 0)
        self.made: list[Boundary] = []
        self.without: list[str] = []

    def make(self) -> Boundaries:
        s = self.settings
        if self.shortest > LONGEST_DRAWN:
            words = (
                f"A minimum of {plural(self.shortest, 'character')} is more than any password "
                "has: nothing can be drawn."
            )
            return Boundaries((), (words,))
        beyond = min(s.history_length, LONGEST_DRAWN) + 1 if self.operation == "change" else 0
        kinds = f", {GROUPS_WANTED} groups" if s.complexity else ""
        with_history = f", last used {beyond} back" if beyond > 1 else ""
        with_age = (
            f", set {describe_span(s.min_age)} ago"
            if self.operation == "change" and s.min_age > 0
            else ""
        )
        self.add(
            None,
            f"Just passes: {plural(self.shortest, 'character')}{kinds}{with_history}{with_age}",
            self.shortest,
            back=beyond,
        )
        self.too_short()
        if s.complexity:
            self.add(
                "complexity",
                f"{GROUPS_WANTED - 1} groups instead of {GROUPS_WANTED}",
                max(self.shortest, 2),
                groups=2,
            )
            self.own_name()
        else:
            self.without.append("Character groups and own name are not asked.")
        if self.operation == "change":
            self.change_only()
        else:
            self.without.append("A reset asks neither history nor minimum age.")
        return Boundaries(tuple(self.made), tuple(self.without))

    def too_short(self) -> None:
        short = self.settings.min_length - 1
        if short < 0:
            self.without.append("Length refuses nothing: no minimum is set.")
        elif self.settings.complexity and short < GROUPS_WANTED:
            self.without.append(
                f"Nothing of {plural(short, 'character')} has {GROUPS_WANTED} groups: length "
                "never refuses alone."
            )
        else:
            self.add("length", f"{plural(short, 'character')}, one too few", short)

    def own_name(self) -> None:
        names = OwnName(on=True).names(self.subject)
        if not names:
            self.without.append("No name of 3 or more characters is known to put inside.")
            return
        shortest = min(names, key=lambda name: length(name.text))
        name = shortest.text
        self.add(
            "own_name",
            f"“{name}” inside, {shortest.what}",
            max(self.shortest - length(name), 4),
            groups=4,
            inside=name,
        )

    def change_only(self) -> None:
        s = self.settings
        if s.history_length > LONGEST_DRAWN:
            self.without.append(
                f"No directory remembers {s.history_length:,} passwords: nothing can be "
                "drawn for that."
            )
        elif s.history_length > 0:
            depth = s.history_length
            about = (
                f"The {ordinal(depth)} of {depth} remembered"
                if depth > 1
                else "The present password again"
            )
            self.add("history", about, self.shortest, back=depth)
        else:
            self.without.append("History refuses nothing: none is remembered.")
        if s.min_age > 0:
            about = f"Set 1 s less than {describe_span(s.min_age)} ago"
            self.add(
                "minimum_age", about, self.shortest, set_ago=max(0, s.min_age - TICKS_PER_SECOND)
            )
        else:
            self.without.append("Minimum age refuses nothing: none is set.")

    def add(
        self,
        refused_by: str | None,
        about: str,
        characters: int,
        *,
        groups: int | None = None,
        inside: str = "",
        back: int = 0,
        set_ago: int | None = None,
    ) -> None:
        """Draw until no other rule says anything: a random candidate may hold a name, or have been
        refused by chance.
        """
        wanted = (refused_by,) if refused_by else ()
        for _ in range(MOST_DRAWS):
            text = inside + self.drawn(characters, self.groups if groups is None else groups)
            found = Boundary(
                about,
                refused_by,
                text,
                max(0, self.settings.min_age) if set_ago is None else set_ago,
                back,
            )
            if (
                judge(
                    self.rules, text, self.subject, found.moment(self.operation, found.set_ago + 1)
                ).refused_by
                == wanted
            ):
                self.made.append(found)
                return
        self.without.append(f"No candidate was found for: {about}.")

    def drawn(self, characters: int, groups: int) -> str:
        """So many random characters, with at least one of each of the first groups."""
        chosen = _GROUPS[:groups]
        drawn = [self.random.choice(group) for group in chosen][:characters]
        drawn += self.random.choices("".join(chosen), k=characters - len(drawn))
        self.random.shuffle(drawn)
        return "".join(drawn)
