"""Rules beyond the directory's own, as data (domain rules §9): what a policy may ask besides, on a
path for passwords, one for phrases, or both.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import ClassVar, Literal, get_args

Kind = Literal["upper", "lower", "digit", "symbol", "caseless", "letter", "other"]
"""Kinds of characters: the groups of §5, all letters, and all that is no letter."""
KINDS: tuple[Kind, ...] = get_args(Kind)
PathName = Literal["password", "phrase"]
PATHS: tuple[PathName, ...] = get_args(PathName)


class _Asked:
    """A rule of an addition. ``key`` is what it is called in files and answers."""

    key: ClassVar[str]
    # For files and what is kept, which are validated when they are read.
    __pydantic_config__: ClassVar[dict[str, str]] = {"extra": "forbid"}
    __slots__ = ()


@dataclass(frozen=True, slots=True)
class LengthRange(_Asked):
    """UTF-16 code units within a range."""

    key = "length"
    min: int = 0
    max: int | None = None


@dataclass(frozen=True, slots=True)
class GroupCount(_Asked):
    """At least so many of the five groups."""

    key = "groups"
    min: int


@dataclass(frozen=True, slots=True)
class KindCount(_Asked):
    """So many characters of a kind."""

    key = "count"
    of: Kind
    min: int = 0
    max: int | None = None


@dataclass(frozen=True, slots=True)
class Edge(_Asked):
    """The first and the last character are not of these kinds."""

    key = "edge"
    first: tuple[Kind, ...] = ()
    last: tuple[Kind, ...] = ()


@dataclass(frozen=True, slots=True)
class Forbid(_Asked):
    """None of these characters, exactly."""

    key = "forbid"
    characters: str


@dataclass(frozen=True, slots=True)
class Repeat(_Asked):
    """No character more than so often in a row, whatever its case."""

    key = "repeat"
    max: int


@dataclass(frozen=True, slots=True)
class Run(_Asked):
    """No longer stretch up or down the alphabet or the digits."""

    key = "run"
    max: int


@dataclass(frozen=True, slots=True)
class Walk(_Asked):
    """No longer stretch over neighbouring keys of one row."""

    key = "walk"
    max: int
    layouts: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Blocked(_Asked):
    """No term of these lists inside; with ``whole``, only not a term as a whole."""

    key = "blocked"
    lists: tuple[str, ...]
    whole: bool = False


@dataclass(frozen=True, slots=True)
class OwnNames(_Asked):
    """None of the account's own names inside; with ``reversed``, not backwards either."""

    key = "names"
    reversed: bool = False


@dataclass(frozen=True, slots=True)
class Closeness(_Asked):
    """On a change: at least so many characters otherwise than in the present password, at most so
    long a stretch shared with it, and not only a number counted up or down.
    """

    key = "closeness"
    changed: int = 0
    shared: int | None = None
    no_counting: bool = False


@dataclass(frozen=True, slots=True)
class Pattern(_Asked):
    """An expression that has to be found, or must not be."""

    key = "pattern"
    expression: str
    must: bool = True


@dataclass(frozen=True, slots=True)
class Exposed(_Asked):
    """Seen no more often than this in these corpora of known-exposed passwords, in all."""

    key = "exposed"
    lists: tuple[str, ...]
    max: int = 0


@dataclass(frozen=True, slots=True)
class Words(_Asked):
    """So many words of so many letters each; with ``distinct``, none of them twice."""

    key = "words"
    min: int
    letters: int = 1
    distinct: bool = False


Asked = (
    LengthRange
    | GroupCount
    | KindCount
    | Edge
    | Forbid
    | Repeat
    | Run
    | Walk
    | Blocked
    | OwnNames
    | Closeness
    | Pattern
    | Exposed
    | Words
)
ASKED: tuple[type[Asked], ...] = get_args(Asked)


@dataclass(frozen=True, slots=True)
class Band:
    """From so many UTF-16 units on a password lives so long, in ticks."""

    length: int
    lifetime: int


@dataclass(frozen=True, slots=True)
class Addition:
    """What a policy asks besides the directory's own rules: all of one path at least. ``bands`` say
    how long what is accepted lives by its length, the shortest first; none if that is no matter.
    """

    password: tuple[Asked, ...] | None = None
    phrase: tuple[Asked, ...] | None = None
    bands: tuple[Band, ...] = ()

    def paths(self) -> Iterator[tuple[PathName, tuple[Asked, ...]]]:
        """The paths that there are."""
        for name in PATHS:
            asked: tuple[Asked, ...] | None = getattr(self, name)
            if asked is not None:
                yield name, asked

    @property
    def lists(self) -> frozenset[str]:
        """The lists of blocked terms that its rules name."""
        return self._named(Blocked)

    @property
    def corpora(self) -> frozenset[str]:
        """The corpora of known-exposed passwords that its rules name."""
        return self._named(Exposed)

    def _named(self, kind: type[Blocked | Exposed]) -> frozenset[str]:
        return frozenset(
            name
            for _, asked in self.paths()
            for one in asked
            if isinstance(one, kind)
            for name in one.lists
        )

    def lifetime(self, length: int) -> int | None:
        """How long an accepted password of so many units lives, in ticks; None without bands. What
        is shorter than every band falls to the first one.
        """
        if not self.bands:
            return None
        reached = [band for band in self.bands if band.length <= length]
        return (reached[-1] if reached else self.bands[0]).lifetime


def problems(addition: Addition) -> Iterator[tuple[str, str]]:
    """What in an addition contradicts itself, with its place: a path, and the number of the rule in
    it from 1, such as ``password 2``.
    """
    for name, asked in addition.paths():
        if not asked:
            yield name, "A path without rules lets everything pass. Give it one, or take it out."
        for number, one in enumerate(asked, 1):
            yield from ((f"{name} {number}", told) for told in _wrong(one))
    for before, after in zip(addition.bands, addition.bands[1:], strict=False):
        if after.length <= before.length:
            yield "lifetime", "Bands stand in the order of their lengths, each length once."
        if after.lifetime < before.lifetime:
            yield "lifetime", "A longer password cannot live shorter than one that is not as long."


def _wrong(one: Asked) -> Iterator[str]:
    low, high = getattr(one, "min", 0), getattr(one, "max", None)
    if low < 0 or (high is not None and high < 0):
        yield "A number cannot be negative."
    if high is not None and low > high:
        yield f"At least {low} and at most {high} cannot both be."
    match one:
        case Repeat(most) | Run(most) | Walk(most, _) if most < 1:
            yield "One character by itself is a stretch of 1: it has to be 1 at least."
        case GroupCount(least) if least > 5:
            yield "There are five groups."
        case Words(least, letters) if least < 1 or letters < 1:
            yield "Words and their letters are counted from 1."
        case Edge((), ()):
            yield "Name a kind for the first or the last character."
        case Forbid(""):
            yield "Name a character."
        case Blocked(()) | Exposed(()):
            yield "Name a list."
        case Closeness(0, None, False):
            yield "Say how many characters change, how many may be shared, or that it is no count."
    if isinstance(one, Walk) and not one.layouts:
        yield "Name a layout."
    if isinstance(one, Edge) and any({"letter", "other"} <= {*ks} for ks in (one.first, one.last)):
        yield "No character is left that could stand there."
