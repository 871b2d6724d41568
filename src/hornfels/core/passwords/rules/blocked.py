"""Terms that everybody thinks of, and one's own names (domain rules §9)."""

from __future__ import annotations

from dataclasses import dataclass

from hornfels.core.passwords.characters import Candidate
from hornfels.core.passwords.folding import folded
from hornfels.core.passwords.rules.own_name import name_parts
from hornfels.core.passwords.rules.rule import Judgement, Occasion, Question, Subject
from hornfels.core.passwords.terms import Terms
from hornfels.core.policy.addition import Blocked, OwnNames

MOST_NAMED = 3
"""Terms that are told of one candidate."""
SHORTEST_NAME = 3


@dataclass(frozen=True, slots=True)
class BlockedRule:
    """No blocked term inside, or none as a whole."""

    asked: Blocked
    terms: Terms | None
    key: str = "blocked"
    label: str = "Blocked terms"

    def ask(self, _subject: Subject, _moment: Occasion) -> Judgement | Question[tuple[int, ...]]:
        terms = self.terms
        if terms is None:
            why = f"there is no list {' or '.join(self.asked.lists)}"
            return Judgement(self.key, "not checkable", why, plain="It may hold a blocked word.")
        measure = terms.found_whole if self.asked.whole else terms.found
        return Question(measure, lambda found: self._say(terms, found[:MOST_NAMED]))

    def _say(self, terms: Terms, found: tuple[int, ...]) -> Judgement:
        if not found:
            return Judgement(self.key, "passed", f"none of {len(terms):,}")
        named = [terms.term(number) for number in found]
        listed = " and ".join(f"'{one.text}'" for one in named)
        lists = ", ".join(dict.fromkeys(one.list for one in named))
        if self.asked.whole:
            return Judgement(
                self.key, "failed", f"on the list {lists}", "choose another", "It is too common."
            )
        quoted = " and ".join(f"“{one.text}”" for one in named)
        plain = f"It contains {quoted}, which everybody thinks of. Leave that out."
        return Judgement(self.key, "failed", f"from the list {lists}", f"drop {listed}", plain)


@dataclass(frozen=True, slots=True)
class NamesRule:
    """None of the account's own names inside, as they look at a glance."""

    asked: OwnNames
    key: str = "names"
    label: str = "Own names"

    def ask(self, subject: Subject, _moment: Occasion) -> Judgement | Question[tuple[int, ...]]:
        names = own_names(subject)
        forms = [folded(name) for name in names]
        if not names:
            return Judgement(self.key, "passed", "none")
        backwards = [form[::-1] for form in forms] if self.asked.reversed else []

        every = (*forms, *backwards)

        def inside(candidate: Candidate) -> tuple[int, ...]:
            look = candidate.look
            for form in every:
                if form in look:
                    break
            else:
                return ()
            ahead = [n for n, form in enumerate(forms) if form in look]
            back = [n for n, form in enumerate(backwards) if form in look and n not in ahead]
            return (*ahead, *(-1 - n for n in back))

        return Question(inside, lambda found: self._say(names, found))

    def _say(self, names: list[str], found: tuple[int, ...]) -> Judgement:
        if not found:
            return Judgement(self.key, "passed", "none")
        named = [names[n] if n >= 0 else f"{names[-1 - n]} backwards" for n in found]
        plain = f"It contains {' and '.join(f'“{one}”' for one in named)}, from your own names."
        return Judgement(
            self.key,
            "failed",
            "own name inside",
            f"drop {' and '.join(named)}",
            f"{plain} Leave that out.",
        )


def own_names(subject: Subject) -> list[str]:
    """The names of an account that must not stand inside, each once."""
    every = (subject.name, *name_parts(subject.display_name), *subject.other_names)
    found: dict[str, str] = {}
    for name in every:
        if len(name) >= SHORTEST_NAME and folded(name):
            found.setdefault(folded(name), name)
    return list(found.values())
