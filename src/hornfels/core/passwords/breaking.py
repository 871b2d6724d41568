"""Texts that break one rule of an addition and, with luck, nothing else: whoever draws them looks
at what the other rules say, and draws again.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field, replace
from random import Random

from hornfels.core.passwords.additions import OnPath
from hornfels.core.passwords.drawing import (
    POOLS,
    Needs,
    characters,
    matching,
    needs_of,
    phrase,
    placed,
    text,
)
from hornfels.core.passwords.judge import Verdict
from hornfels.core.passwords.layouts import LAYOUTS
from hornfels.core.passwords.rules.blocked import BlockedRule, own_names
from hornfels.core.passwords.rules.counts import is_of
from hornfels.core.passwords.rules.rule import Subject
from hornfels.core.passwords.terms import Terms
from hornfels.core.passwords.typical import typical
from hornfels.core.policy.addition import (
    Asked,
    Blocked,
    Closeness,
    Edge,
    Exposed,
    Forbid,
    GroupCount,
    Kind,
    KindCount,
    LengthRange,
    OwnNames,
    PathName,
    Pattern,
    Repeat,
    Run,
    Walk,
    Words,
)
from hornfels.core.policy.model import Settings

_ALPHABET, _DIGITS = "abcdefghijklmnopqrstuvwxyz", "0123456789"


@dataclass(frozen=True, slots=True)
class Drawn:
    """A text, and the present password that it is a change of; None where that does not matter."""

    text: str = field(repr=False)
    present: str | None = field(default=None, repr=False)


Draw = Callable[[Random], Drawn | None]


def breaking(
    settings: Settings, asked: Sequence[Asked], number: int, rule: OnPath, subject: Subject
) -> list[Draw]:
    """Ways to draw texts that the rule of this number on a path refuses; none where nothing can.

    `rule` is the same rule compiled. What is drawn keeps what the others ask as far as drawing can
    be led by that.
    """
    one = asked[number]
    needs = needs_of(settings, [*asked[:number], *asked[number + 1 :]])
    return list(_ways(one, needs, rule, subject))


def refused_alone(verdict: Verdict, path: PathName, number: int) -> bool:
    """Whether the rule of this number is the only one of its path that failed, and the directory's
    own rules are kept.
    """
    on_path = [f.status == "failed" for f in verdict.judgements if f.path == path]
    natives = all(f.status != "failed" for f in verdict.by_directory)
    return natives and on_path[number] and sum(on_path) == 1


def _ways(one: Asked, needs: Needs, rule: OnPath, subject: Subject) -> Iterator[Draw]:
    match one:
        case LengthRange(low, high):
            if low > 0:
                yield _just(replace(needs, shortest=0), low - 1)
            if high is not None:
                yield _just(needs, high + 1)
        case GroupCount(least):
            yield lambda random: _drawn(
                characters(replace(needs, groups=0), random, only=max(1, least - 1))
            )
        case KindCount(kind, low, high):
            if low > 0:
                most = {**needs.most, kind: low - 1}
                yield _from(replace(needs, most=most, least={**needs.least, kind: low - 1}))
            if high is not None:
                yield _from(replace(needs, least={**needs.least, kind: high + 1}))
        case Edge(first, last):
            for kinds, before in ((first, True), (last, False)):
                ends = _of_kinds(kinds)
                if ends:
                    yield _beside(needs, ends, before=before)
        case Forbid(forbidden):
            yield _inside(needs, lambda random: random.choice(forbidden))
        case Repeat(most_often):
            yield _inside(needs, lambda random: random.choice(POOLS["lower"]) * (most_often + 1))
        case Run(longest):
            yield _inside(needs, lambda random: _stretch(random, (_ALPHABET, _DIGITS), longest + 1))
        case Walk(longest, layouts):
            rows = [row for name in layouts for both in LAYOUTS[name] for row in both]
            yield _inside(needs, lambda random: _stretch(random, rows, longest + 1))
        case Blocked(_, whole):
            compiled = rule.rule
            terms = compiled.terms if isinstance(compiled, BlockedRule) else None
            if terms and whole:
                yield lambda random: Drawn(terms.drawn(random).text)
            elif terms:
                yield _inside(needs, lambda random: terms.drawn(random).text)
        case OwnNames(backwards):
            names = own_names(subject)
            if names:
                yield _inside(needs, lambda random: random.choice(names))
            if names and backwards:
                yield _inside(needs, lambda random: random.choice(names)[::-1])
        case Closeness(changed, shared, no_counting):
            if changed > 1:
                yield lambda random: _near(text(needs, random), random, changed - 1)
            if shared is not None:
                yield lambda random: _sharing(text(needs, random), random, shared + 1)
            if no_counting:
                yield lambda random: _counted(text(needs, random), random)
        case Pattern(expression, must):
            if must:
                yield _from(needs)
            else:
                yield lambda random: _with_match(expression, needs, random)
        case Exposed():
            # Nobody can read a corpus backwards: some of what people choose is in it.
            yield lambda random: _drawn(
                next((one for one in typical(20, random) if len(one) >= needs.shortest), None)
            )
        case Words(least, _, distinct):
            if least > 1:
                yield lambda random: _drawn(phrase(needs, random, least - 1))
            yield _from(needs)
            if distinct:
                yield lambda random: _again(phrase(replace(needs, words=least), random))


def _of_kinds(kinds: Sequence[Kind]) -> list[str]:
    return [c for pool in POOLS.values() for c in pool if any(is_of(c, kind) for kind in kinds)]


def _terms_of(rule: OnPath) -> Terms | None:
    """The terms of a rule, None where there are none."""
    compiled = rule.rule
    return compiled.terms or None if isinstance(compiled, BlockedRule) else None


def _drawn(found: str | None) -> Drawn | None:
    return None if found is None else Drawn(found)


def _from(needs: Needs) -> Draw:
    return lambda random: _drawn(text(needs, random))


def _just(needs: Needs, length: int) -> Draw:
    """So many characters, as words where those are needed."""

    def draw(random: Random) -> Drawn | None:
        if not needs.words:
            return _drawn(characters(needs, random, length))
        found = phrase(replace(needs, shortest=length), random)
        return _drawn(found[:length] if found else None)

    return draw


def _beside(needs: Needs, ends: Sequence[str], *, before: bool) -> Draw:
    def draw(random: Random) -> Drawn | None:
        found = text(needs, random)
        end = random.choice(ends)
        return None if found is None else Drawn(end + found if before else found + end)

    return draw


def _inside(needs: Needs, part: Callable[[Random], str | None]) -> Draw:
    """A text with something in it, as short as it may be with it."""

    def draw(random: Random) -> Drawn | None:
        inside = part(random)
        if inside is None:
            return None
        rest = replace(needs, shortest=max(0, needs.shortest - len(inside)))
        found = text(rest, random)
        return None if found is None else Drawn(placed(found, inside, random))

    return draw


def _stretch(random: Random, rows: Sequence[str], length: int) -> str | None:
    """A part of some row."""
    long = [row for row in rows if len(row) >= length]
    if not long:
        return None
    row = random.choice(long)
    start = random.randrange(len(row) - length + 1)
    return row[start : start + length]


def _with_match(expression: str, needs: Needs, random: Random) -> Drawn | None:
    sample, found = matching(expression, random), text(needs, random)
    return None if sample is None or found is None else Drawn(placed(found, sample, random))


def _near(found: str | None, random: Random, changed: int) -> Drawn | None:
    """A change of so many characters."""
    if found is None or len(found) < changed:
        return None
    present = list(found)
    for at in random.sample(range(len(present)), changed):
        present[at] = random.choice([c for c in POOLS["lower"] if c != present[at].lower()])
    return Drawn(found, "".join(present))


def _sharing(found: str | None, random: Random, length: int) -> Drawn | None:
    if found is None or len(found) < length:
        return None
    other = "".join(random.choices(POOLS["lower"] + POOLS["upper"], k=len(found)))
    return Drawn(found, other + found[:length] + other)


def _counted(found: str | None, random: Random) -> Drawn | None:
    if not found:
        return None
    number = str(random.randint(10, 98))
    kept = found[: len(found) - 2] if len(found) > 4 else found
    return Drawn(kept + str(int(number) + 1), kept + number)


def _again(found: str | None) -> Drawn | None:
    """A phrase with one of its words once more."""
    if not found:
        return None
    separator = next((c for c in found if not c.isalnum()), " ")
    return Drawn(found + separator + found.split(separator)[0].lower())
