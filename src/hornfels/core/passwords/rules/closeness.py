"""How close a candidate is to the present password (domain rules §9)."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import NamedTuple

from hornfels.core.passwords.characters import Candidate
from hornfels.core.passwords.rules.rule import Judgement, Occasion, Question, Subject, plural
from hornfels.core.policy.addition import Closeness

_DIGITS = "0123456789"


class Near(NamedTuple):
    """How many characters are otherwise, how long the longest common stretch is, and whether one
    number at most is all that differs.
    """

    changed: int
    shared: int
    only_counted: bool


@dataclass(frozen=True, slots=True)
class ClosenessRule:
    """Far enough from the password that one has now."""

    asked: Closeness
    key: str = "closeness"
    label: str = "Unlike the present one"

    def ask(self, _subject: Subject, moment: Occasion) -> Judgement | Question[Near]:
        present = moment.previous[0] if moment.previous else None
        if moment.operation == "reset" or present is None:
            why = (
                "a reset does not know the present password"
                if moment.operation == "reset"
                else "the present password is not given"
            )
            told = "It must not be close to the password that you have now."
            return Judgement(self.key, "not checkable", why, plain=told)
        return Question(self._measuring(present), self._say)

    def _measuring(self, present: str) -> Callable[[Candidate], Near]:
        """Quick looks first: most candidates are far from the present password."""
        asked, size, characters = self.asked, len(present), frozenset(present)
        folded = present.casefold()
        longest = len(folded) if asked.shared is None else asked.shared + 1
        parts = [folded[n : n + longest] for n in range(len(folded) - longest + 1)]
        # Where only a number differs, both begin alike, or one of them with a digit.
        begins = (folded[:1], *_DIGITS) if folded[:1] not in _DIGITS else ("",)
        far = Near(asked.changed, 0, only_counted=False)

        def measure(candidate: Candidate) -> Near:
            text = candidate.text
            now = text.casefold()
            # Every character more or fewer is a change by itself, and every one that the present
            # password does not have at all.
            changed = asked.changed
            if (
                changed
                and abs(len(text) - size) < changed
                and len(set(text).difference(characters)) < changed
            ):
                changed = min(distance(present, text), changed)
            kept = 0
            if asked.shared is not None and _one_in(parts, now):
                kept = shared(present, text)
            counted = False
            if asked.no_counting and now.startswith(begins):
                counted = only_counted(present, text)
            near = changed == asked.changed and not kept and not counted
            return far if near else Near(changed, kept, counted)

        return measure

    def _say(self, near: Near) -> Judgement:
        asked = self.asked
        details, repairs, plains = [], [], []
        if near.changed < asked.changed:
            missing = asked.changed - near.changed
            details.append(f"{near.changed} of {plural(asked.changed, 'character')} changed")
            repairs.append(f"change {plural(missing, 'more character')}")
            plains.append(
                f"It is too close to the password that you have now. Change "
                f"{plural(missing, 'more character')}."
            )
        if asked.shared is not None and near.shared > asked.shared:
            details.append(f"shares {near.shared}, at most {asked.shared}")
            repairs.append(f"keep at most {plural(asked.shared, 'character')} in a row")
            plains.append(
                f"It keeps {plural(near.shared, 'character')} in a row of the password that you "
                f"have now; at most {asked.shared:,} may stay."
            )
        if near.only_counted:
            details.append("only counted on")
            repairs.append("change more than a number")
            plains.append("Only a number or the case is otherwise than in your present password.")
        if not details:
            return Judgement(self.key, "passed", "far enough")
        return Judgement(
            self.key, "failed", "; ".join(details), " and ".join(repairs), " ".join(plains)
        )


def _one_in(parts: list[str], text: str) -> bool:
    # Several times as quick as any() over so few.
    for part in parts:  # noqa: SIM110
        if part in text:
            return True
    return False


def distance(one: str, other: str) -> int:
    """The fewest characters to put in, take out or replace (Levenshtein), by whole columns of the
    table at once, each a number with a bit a row (Myers, Hyyrö).
    """
    if not one or not other:
        return len(one) + len(other)
    at: dict[str, int] = {}
    for place, character in enumerate(one):
        at[character] = at.get(character, 0) | 1 << place
    every, last = (1 << len(one)) - 1, 1 << len(one) - 1
    # Where a row is one more, and one less, than the row above it.
    more, less, found = every, 0, len(one)
    for character in other:
        same = at.get(character, 0)
        level = (((same & more) + more) ^ more) | same | less
        up, down = less | ~(level | more), more & level
        found += bool(up & last) - bool(down & last)
        up, down = up << 1 | 1, down << 1
        more, less = (down | ~(level | up)) & every, up & level & every
    return found


def shared(one: str, other: str) -> int:
    """How long the longest stretch is that stands in both, whatever the case."""
    one, other = one.casefold(), other.casefold()
    if len(one) > len(other):
        one, other = other, one
    longest = 0
    # A stretch that is in both has every shorter part of it in both too.
    for start in range(len(one)):
        while start + longest < len(one) and one[start : start + longest + 1] in other:
            longest += 1
    return longest


def only_counted(one: str, other: str) -> bool:
    """Whether all is equal but one number at most, which is another or only in one of them,
    whatever the case.
    """
    one, other = one.casefold(), other.casefold()
    start = _same(one, other)
    one, other = one[start:], other[start:]
    end = _same(one[::-1], other[::-1])
    rest = one[: len(one) - end] + other[: len(other) - end]
    return not rest.strip(_DIGITS)


def _same(one: str, other: str) -> int:
    """How many characters both begin with."""
    pairs = enumerate(zip(one, other, strict=False))
    return next((n for n, (a, b) in pairs if a != b), min(len(one), len(other)))
