"""A policy file read and checked: what it says, and all that is wrong with it by itself."""

from __future__ import annotations

import difflib
import re
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Any

from pydantic import BaseModel, ValidationError

from hornfels.core.lockout.notation import NotationError, read_story
from hornfels.core.policy.term_lists import list_name_problem, term_problems
from hornfels.formats.policy_file.additions import TAGS, TermsPart, keys_below, wrong
from hornfels.formats.policy_file.model import (
    VERSION,
    PolicyFile,
    PolicyPart,
    SettingsPart,
    TrialPart,
)
from hornfels.formats.yaml_tree import Path, Problem, Tree, YamlError, read_tree

_PARTS: dict[str, type[BaseModel]] = {
    "domain_policy": SettingsPart,
    "policies": PolicyPart,
    "trials": TrialPart,
}


@dataclass(frozen=True, slots=True)
class Read:
    """A file's content, and where each of its values stands."""

    content: PolicyFile
    tree: Tree


def read_policy_file(data: bytes) -> Read:
    """The file in these bytes. Raises `YamlError` with all that is wrong with it."""
    tree = read_tree(data)
    version = tree.value.get("hornfels") if isinstance(tree.value, dict) else None
    if version is None:
        raise YamlError(
            [tree.problem((), f"this is no policy file: it has to say “hornfels: {VERSION}”")]
        )
    if version != VERSION or not _WHOLE.match(_written(data, tree, ("hornfels",))):
        raise YamlError(
            [tree.problem(("hornfels",), f"this form is another one than {VERSION}, the one known")]
        )
    given = tree.value.get("policies")
    if isinstance(given, list) and len(given) > MOST_POLICIES:
        many = f"the file has {len(given):,} policies; at most {MOST_POLICIES:,} are taken"
        raise YamlError([tree.problem(("policies",), many)])
    empty = [key for key, value in tree.value.items() if value is None and key in _KNOWN]
    if empty:
        raise YamlError(sorted(tree.problem((key,), _EMPTY.format(key)) for key in empty))
    try:
        content = PolicyFile.model_validate(tree.value)
    except ValidationError as error:
        told = error.errors(include_url=False, include_input=False)
        raise YamlError(sorted(_problem(tree, one) for one in told)) from None
    found = [*_stories(content, tree), *_additions(content, tree)]
    if found:
        raise YamlError(sorted(found))
    return Read(content, tree)


MOST_POLICIES = 5_000
_WHOLE = re.compile(rf"{VERSION}(?=[\s,}}#]|$)")
"""The version as it has to be written: neither true nor 0x1 nor 1.0."""
_KNOWN = PolicyFile.model_fields
_EMPTY = "{} is empty; give its content, or leave the key out"


def _written(data: bytes, tree: Tree, path: Path) -> str:
    """Return the text of a file from the place of a value on, to the end of its line."""
    line, column = tree.at(path)
    return data.decode("utf-8-sig").split("\n")[line - 1][column - 1 :]


def _stories(content: PolicyFile, tree: Tree) -> list[Problem]:
    found = []
    for number, trial in enumerate(content.trials):
        if trial.story is None:
            continue
        try:
            wrong = "" if read_story(trial.story) else "nothing happens in this story"
        except NotationError as error:
            wrong = str(error)
        if wrong:
            found.append(tree.problem(("trials", number, "story"), wrong))
    return found


def _additions(content: PolicyFile, tree: Tree) -> Iterator[Problem]:
    parts: list[tuple[Path, SettingsPart]] = [
        (("policies", number), part) for number, part in enumerate(content.policies or ())
    ]
    if content.domain_policy:
        parts.append((("domain_policy",), content.domain_policy))
    for place, part in parts:
        addition = part.adds(None)
        if addition:
            for below, told in wrong(addition, content.blocked_terms):
                yield tree.problem((*place, "addition", *below), as_reason(told))
    for name, terms in (content.blocked_terms or {}).items():
        if told := list_name_problem(name):
            yield tree.problem(("blocked_terms", name), as_reason(told))
        if isinstance(terms, tuple):
            for number, told in term_problems(terms):
                place = ("blocked_terms", name, min(number, len(terms) - 1))
                yield tree.problem(place, as_reason(told))


def as_reason(told: str) -> str:
    """A sentence as a reason after a place."""
    return f"{told[0].lower()}{told[1:]}".removesuffix(".")


def _problem(tree: Tree, told: Any) -> Problem:
    path: Path = tuple(part for part in told["loc"] if part not in TAGS)
    field = path[-1] if path and isinstance(path[-1], str) else "this"
    kind = told["type"]
    if kind in ("extra_forbidden", "unexpected_keyword_argument"):
        known = _known(path)
        near = difflib.get_close_matches(field, known, 1)
        repair = f"is “{near[0]}” meant?" if near else f"known here are {', '.join(known)}"
        return tree.problem(path, f"“{field[:40]}” is no key here; {repair}", key=True)
    if kind == "missing":
        return tree.problem(path[:-1], f"“{field}” is missing; add it")
    if kind == "value_error":
        return tree.problem(path, f"{field} {told['ctx']['error']}")
    return tree.problem(path, f"{field} {_WORDS.get(kind, _plain)(told)}")


def _known(path: Path) -> list[str]:
    """The keys that are known beside one."""
    if path[0] == "blocked_terms" and len(path) > 2:
        return list(TermsPart.model_fields)
    if "addition" in path[:-1]:
        return keys_below(path[path.index("addition") + 1 :])
    part = _PARTS.get(str(path[0]), PolicyFile) if len(path) > 1 else PolicyFile
    return list(part.model_fields)


def _plain(told: Any) -> str:
    return f"cannot be so: {told['msg'][0].lower()}{told['msg'][1:]}"


_WORDS: dict[str, Callable[[Any], str]] = {
    "tuple_type": lambda _: "has to be a list, each on a line of its own after “- ”",
    "model_type": lambda _: "has to be keys with values, such as “min_length: 12”",
    "model_attributes_type": lambda _: "has to be keys with values, such as “min_length: 12”",
    "literal_error": lambda told: f"has to be {told['ctx']['expected'].replace(chr(39), '')}",
    "string_too_short": lambda _: "is empty; give it",
    "string_too_long": lambda told: f"is longer than {told['ctx']['max_length']:,} characters",
    **dict.fromkeys(
        ("int_parsing", "int_type", "int_from_float"), lambda _: "has to be a whole number"
    ),
    "bool_parsing": lambda _: "has to be on or off",
    "bool_type": lambda _: "has to be on or off",
    "dataclass_type": lambda _: "has to be keys with values, such as “{min: 3}”",
    "uuid_parsing": lambda _: "is no GUID",
    "uuid_type": lambda _: "is no GUID; put it in quotes",
}
