"""YAML text as plain values, each with its place (YAML 1.2.2, the core schema of its chapter 10.3;
JSON is a part of it).

Only what files of ours need: one document without anchors, aliases and tags, no key twice. The
parser reads a little less than the standard allows; what it cannot read it says.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Any, NamedTuple

import yaml

Path = tuple[str | int, ...]
"""Keys and positions that lead to a value."""

MOST_BYTES = 4_000_000
MOST_VALUES = 120_000
"""Lines and commas of a file: about as many values, which take the parser 7 µs each."""
_DEEPEST = 20
_LONGEST_NUMBER = 40


class Problem(NamedTuple):
    """Something wrong, where (lines and columns from 1), and what to do about it."""

    line: int
    column: int
    reason: str

    def __str__(self) -> str:
        return f"line {self.line}, column {self.column}: {self.reason}"


class YamlError(ValueError):
    """A file that cannot be taken: all that is wrong with it, from the top."""

    def __init__(self, problems: list[Problem]) -> None:
        super().__init__("\n".join(map(str, problems)))
        self.problems = problems


@dataclass(slots=True)
class Tree:
    """A document: its plain value, and the line and column of each value in it and of each key,
    from 1.
    """

    value: Any
    places: dict[Path, tuple[int, int]] = field(default_factory=dict)
    keys: dict[Path, tuple[int, int]] = field(default_factory=dict)

    def at(self, path: Path) -> tuple[int, int]:
        """Where a value stands, or what it would stand in."""
        while path and path not in self.places:
            path = path[:-1]
        return self.places.get(path, (1, 1))

    def problem(self, path: Path, reason: str, *, key: bool = False) -> Problem:
        """A problem with the value at a path, or with its key."""
        return Problem(*(self.keys.get(path) if key else None) or self.at(path), reason)


def read_tree(data: bytes) -> Tree:
    """The document in a file. Raises `YamlError`."""
    if len(data) > MOST_BYTES:
        _fail(1, 1, f"the file has {len(data):,} bytes; at most {MOST_BYTES:,} are taken. Split it")
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        line = data.count(b"\n", 0, error.start) + 1
        _fail(line, 1, "this is not UTF-8 text; save the file as UTF-8")
    values = text.count("\n") + text.count(",")
    if values > MOST_VALUES:
        _fail(
            1,
            1,
            f"the file has about {values:,} values; at most {MOST_VALUES:,} are taken. Split it",
        )
    return _Builder(_taken_for_json(text)).tree()


def _taken_for_json(text: str) -> str:
    """JSON in the part of it that the parser reads: no tabs between values, no characters in
    halves.
    """
    if not text.lstrip().startswith("{"):
        return text
    return _HALVES.sub(_whole, text.replace("\t", " "))


_HALVES = re.compile(r"\\u([dD][89abAB][0-9a-fA-F]{2})\\u([dD][c-fC-F][0-9a-fA-F]{2})")


def _whole(match: re.Match[str]) -> str:
    halves = bytes.fromhex(match[1] + match[2])
    return f"\\U{ord(halves.decode('utf-16-be')):08x}"


def _fail(line: int, column: int, reason: str) -> Any:
    raise YamlError([Problem(line, column, reason)])


@dataclass(slots=True)
class _Open:
    """A list or mapping that is not closed yet."""

    held: dict[str, Any] | list[Any]
    path: Path
    key: str | None = None


class _Builder:
    def __init__(self, text: str) -> None:
        self.text = text
        self.result = Tree(None)
        self.open: list[_Open] = []
        self.problems: list[Problem] = []
        self.documents = 0

    def tree(self) -> Tree:
        try:
            for event in self._events():
                self._take(event)
        except yaml.MarkedYAMLError as error:
            self.problems.append(_unreadable(error))
        except yaml.reader.ReaderError as error:
            before = self.text[: error.position]
            line, column = before.count("\n") + 1, len(before) - before.rfind("\n")
            self._wrong(line, column, "a character that no text holds stands here; take it out")
        if not self.documents and not self.problems:
            self._wrong(1, 1, "the file is empty")
        if self.problems:
            raise YamlError(sorted(self.problems))
        return self.result

    def _events(self) -> Iterator[Any]:
        return iter(yaml.parse(self.text, Loader=yaml.CSafeLoader))

    def _wrong(self, line: int, column: int, reason: str) -> None:
        self.problems.append(Problem(line, column, reason))

    def _take(self, event: Any) -> None:
        line, column = event.start_mark.line + 1, event.start_mark.column + 1
        match event:
            case yaml.AliasEvent():
                _fail(line, column, "references (*name) are not taken; write out what is meant")
            case yaml.DocumentStartEvent():
                self.documents += 1
                if self.documents > 1:
                    _fail(line, column, "a second document begins here; the file has one")
            case yaml.MappingEndEvent() | yaml.SequenceEndEvent():
                self.open.pop()
            case yaml.ScalarEvent() | yaml.MappingStartEvent() | yaml.SequenceStartEvent():
                if event.anchor is not None or (event.tag is not None and event.tag != "!"):
                    what = "anchors (&name)" if event.anchor is not None else "tags (!name)"
                    self._wrong(line, column, f"{what} are not taken; write out what is meant")
                self._value(event, (line, column))

    def _value(self, event: Any, place: tuple[int, int]) -> None:
        above = self.open[-1] if self.open else None
        value: Any
        if isinstance(event, yaml.ScalarEvent):
            value = self._scalar(event, place)
            if above and isinstance(above.held, dict) and above.key is None:
                self._key(above, event.value, place)
                return
        else:
            value = {} if isinstance(event, yaml.MappingStartEvent) else []
            if len(self.open) >= _DEEPEST:
                _fail(*place, f"more than {_DEEPEST} lists in one another; nothing is so deep")
            if above and isinstance(above.held, dict) and above.key is None:
                _fail(*place, "a list cannot be a key; put the key in quotes if it is text")
        path: Path = ()
        if above is None:
            self.result.value = value
        elif isinstance(above.held, list):
            path = (*above.path, len(above.held))
            above.held.append(value)
        else:
            assert above.key is not None  # noqa: S101 - told apart above
            path = (*above.path, above.key)
            above.held[above.key] = value
            above.key = None
        self.result.places[path] = place
        if isinstance(value, dict | list):
            self.open.append(_Open(value, path))

    def _key(self, above: _Open, key: str, place: tuple[int, int]) -> None:
        path = (*above.path, key)
        if key in above.held:
            first = self.result.keys[path][0]
            self._wrong(*place, f"{_short(key)} stands in line {first} already; keep one of them")
        above.key = key
        self.result.keys[path] = place

    def _scalar(self, event: Any, place: tuple[int, int]) -> Any:
        text: str = event.value
        if not event.implicit[0]:
            return text
        if text in ("", "~", "null", "Null", "NULL"):
            return None
        if text in ("true", "True", "TRUE", "false", "False", "FALSE"):
            return text[0] in "tT"
        if _NUMBER.fullmatch(text):
            if len(text) > _LONGEST_NUMBER:
                self._wrong(*place, "this number is longer than any that is meant here")
                return 0
            return int(text, 0) if text[:2] in ("0x", "0o") else int(text)
        return float(text.replace(".inf", "inf").replace(".nan", "nan")) if _FLOAT(text) else text


_NUMBER = re.compile(r"[-+]?[0-9]+|0o[0-7]+|0x[0-9a-fA-F]+")
_FLOAT = re.compile(
    r"[-+]?(\.[0-9]+|[0-9]+(\.[0-9]*)?)([eE][-+]?[0-9]+)?|[-+]?\.inf|\.nan"
).fullmatch


def _unreadable(error: yaml.MarkedYAMLError) -> Problem:
    mark = error.problem_mark or error.context_mark
    words = ", ".join(part for part in (error.context, error.problem) if part)
    line, column = (mark.line + 1, mark.column + 1) if mark else (1, 1)
    return Problem(line, column, f"this cannot be read: {words}")


def _short(text: str) -> str:
    return f"“{text[:40]}{'…' * (len(text) > 40)}”"
