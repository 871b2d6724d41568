"""The fewest invented candidates that pin a policy down: one that just passes, and for each rule
one that it alone refuses.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from functools import partial
from random import Random
from typing import Literal

from hornfels.core.passwords.additions import OnPath
from hornfels.core.passwords.breaking import Draw, Drawn, breaking, refused_alone
from hornfels.core.passwords.characters import length
from hornfels.core.passwords.drawing import Needs, characters, needs_of, phrase, text
from hornfels.core.passwords.judge import Verdict, compile_policy, judge
from hornfels.core.passwords.rules.complexity import GROUPS_WANTED
from hornfels.core.passwords.rules.own_name import OwnName
from hornfels.core.passwords.rules.rule import Occasion, Operation, Rule, Subject, ordinal, plural
from hornfels.core.policy.addition import Addition, PathName
from hornfels.core.policy.addition_words import said
from hornfels.core.policy.model import Settings
from hornfels.core.values.time import TICKS_PER_SECOND, describe_span

MOST_DRAWS = 200
LONGEST_DRAWN = 1024
"""Characters of the longest candidate, and passwords of the longest history, that are drawn;
directories allow 255 and 1,024.
"""


@dataclass(frozen=True, slots=True)
class Boundary:
    """An invented candidate and the circumstances that put it just on one side of a rule.

    ``refused_by`` is the only rule that refuses it, None if it passes; where that is one of an
    addition, the only one on its ``path``. Under a change, the present password was set ``set_ago``
    ticks before now, and the candidate was in use ``back`` passwords ago (1 is the present one, 0
    never); ``present`` is the present password where that is another one and matters.
    """

    about: str
    refused_by: str | None
    text: str = field(repr=False)
    set_ago: int
    back: int
    path: PathName | Literal[""] = ""
    present: str | None = field(default=None, repr=False)

    def moment(self, operation: Operation, now: int) -> Occasion:
        """The circumstances of the trial."""
        previous = [None] * (self.back - 1) + [self.text] if self.back else []
        if self.present is not None and self.back != 1:
            previous = [self.present, *previous[1:]]
        return Occasion(operation, now, now - self.set_ago, previous)


@dataclass(frozen=True, slots=True)
class Boundaries:
    """The candidates, and the rules that none can be made for with the reason."""

    candidates: tuple[Boundary, ...]
    without: tuple[str, ...]


def boundaries(
    settings: Settings,
    subject: Subject,
    operation: Operation,
    random: Random,
    addition: Addition | None = None,
    beyond: Sequence[Rule] = (),
) -> Boundaries:
    """Candidates on both sides of every rule that the policy asks of this account (domain rules
    §5). `beyond` are the rules of its addition, compiled.
    """
    return _Maker(settings, subject, operation, random, addition, beyond).make()


class _Maker:
    def __init__(
        self,
        settings: Settings,
        subject: Subject,
        operation: Operation,
        random: Random,
        addition: Addition | None,
        beyond: Sequence[Rule],
    ) -> None:
        self.settings, self.subject, self.operation, self.random = (
            settings,
            subject,
            operation,
            random,
        )
        self.rules = (*compile_policy(settings), *beyond)
        self.beyond = [rule for rule in beyond if isinstance(rule, OnPath)]
        self.paths = dict(addition.paths()) if addition else {}
        # What a candidate is drawn for: one path or the other, whichever comes.
        self.needs = [needs_of(settings, asked) for asked in self.paths.values()] or [
            needs_of(settings)
        ]
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
        if not self.paths:
            self.add(
                None,
                f"Just passes: {plural(self.shortest, 'character')}{kinds}{with_history}{with_age}",
                self.shortest,
                back=beyond,
            )
        for path, asked in self.paths.items():
            self.try_for(
                f"Just passes as a {path}{with_history}{with_age}",
                None,
                [partial(_as_drawn, needs_of(s, asked))],
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
        self.additions()
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
        characters_wanted: int,
        *,
        groups: int | None = None,
        inside: str = "",
        back: int = 0,
        set_ago: int | None = None,
    ) -> None:
        """So many random characters, of the first groups alone where that matters."""

        def drawn(random: Random) -> Drawn | None:
            needs = random.choice(self.needs)
            shortest = max(characters_wanted, needs.shortest - len(inside))
            exact = refused_by == "length"
            if needs.words:
                few = 1 if groups == GROUPS_WANTED - 1 else needs.groups
                found = phrase(replace(needs, shortest=shortest, groups=few), random)
                found = found[:characters_wanted] if found and exact else found
            elif self.paths and not exact:
                found = characters(replace(needs, shortest=shortest), random, only=groups)
            else:
                only = min(self.groups if groups is None else groups, characters_wanted)
                found = characters(needs, random, characters_wanted, only=only)
            return None if found is None else Drawn(inside + found)

        self.try_for(about, refused_by, [drawn], back=back, set_ago=set_ago)

    def additions(self) -> None:
        """For each rule of the addition one that it alone refuses on its path."""
        rules = iter(self.beyond)
        for path, asked in self.paths.items():
            for number, (one, rule) in enumerate(zip(asked, rules, strict=False)):
                if one.key == "closeness" and self.operation == "reset":
                    self.without.append(f"As a {path}: a reset does not know the present password.")
                    continue
                ways = breaking(self.settings, asked, number, rule, self.subject)
                self.try_for(f"Not: {said(one)}", one.key, ways, path, number)

    def try_for(
        self,
        about: str,
        refused_by: str | None,
        ways: Sequence[Draw],
        path: PathName | Literal[""] = "",
        number: int = 0,
        *,
        back: int = 0,
        set_ago: int | None = None,
    ) -> None:
        """Draw until no other rule says anything: a random candidate may hold a name, or have been
        refused by chance.
        """
        for turn in range(MOST_DRAWS if ways else 0):
            drawn = ways[turn % len(ways)](self.random)
            if drawn is None:
                continue
            found = Boundary(
                about,
                refused_by,
                drawn.text,
                max(0, self.settings.min_age) if set_ago is None else set_ago,
                back,
                path,
                self._present(drawn),
            )
            moment = found.moment(self.operation, found.set_ago + 1)
            verdict = judge(self.rules, drawn.text, self.subject, moment)
            if self._is_wanted(verdict, refused_by, path, number):
                self.made.append(found)
                return
        self.without.append(f"No candidate was found for: {about}.")

    def _present(self, drawn: Drawn) -> str | None:
        """The present password, where a rule compares with it: one that is far enough."""
        compared = self.operation == "change" and any(r.key == "closeness" for r in self.beyond)
        if drawn.present is not None or not compared:
            return drawn.present
        return "".join(self.random.choices("αβγδεζηθικλμ", k=12))

    @staticmethod
    def _is_wanted(
        verdict: Verdict, refused_by: str | None, path: PathName | Literal[""], number: int
    ) -> bool:
        if not path:
            return verdict.refused_by == ((refused_by,) if refused_by else ())
        return refused_alone(verdict, path, number) and not verdict.accepted


def _as_drawn(needs: Needs, random: Random) -> Drawn | None:
    found = text(needs, random)
    return None if found is None else Drawn(found)
