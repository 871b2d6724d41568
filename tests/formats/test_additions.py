"""Additions in a policy file: what is wrong in one is told where it stands."""

from __future__ import annotations

import jsonschema_rs
import pytest

from hornfels.core.policy.addition import ASKED, Band, Blocked, Edge, LengthRange, Words
from hornfels.formats.policy_file.model import schema
from hornfels.formats.policy_file.reading import read_policy_file
from hornfels.formats.yaml_tree import YamlError

HEAD = "hornfels: 1\ndomain: sky.example\ndomain_policy:\n  addition:\n"
LISTS = "blocked_terms: {house: [orbit]}\n"


@pytest.mark.parametrize(
    ("wrong", "told"),
    [
        ("{lenght: {min: 3}}", "is “length” meant"),
        ("{length: {min: 3}, run: {max: 3}}", "has to be one of length, groups"),
        ("{}", "has to be one of length, groups"),
        ("{count: {of: vowels, min: 3}}", "has to be upper, lower"),
        ("{run: {}}", "“max” is missing"),
        ("{run: {max: many}}", "has to be a whole number"),
        ("{run: 3}", "has to be keys with values"),
        ("{words: {min: 3, extra: 1}}", "“extra” is no key here"),
        ("{words: {min: 3, distinct: perhaps}}", "has to be on or off"),
        ("{blocked: {lists: [none]}}", "there is no list “none”"),
    ],
)
def test_what_is_wrong_with_a_rule_is_told_in_its_line(wrong: str, told: str) -> None:
    with pytest.raises(YamlError) as error:
        read_policy_file(
            f"{HEAD}    phrase:\n      - words: {{min: 3}}\n      - {wrong}\n{LISTS}".encode()
        )
    (problem,) = error.value.problems
    assert problem.line == 7
    assert told in problem.reason


def test_an_addition_is_what_the_file_says() -> None:
    text = (
        f"{HEAD}    password: [length: {{min: 8, max: 64}}, edge: {{last: [digit]}},"
        " blocked: {lists: [house], whole: on}]\n    phrase: [words: {min: 4}]\n"
        "    lifetime: [{from: 8, lives: 60 d}]\nblocked_terms: {house: [orbit]}\n"
    )
    part = read_policy_file(text.encode()).content.domain_policy
    assert part is not None
    addition = part.adds(None)
    assert addition is not None
    assert addition.password == (
        LengthRange(8, 64),
        Edge(last=("digit",)),
        Blocked(("house",), whole=True),
    )
    assert addition.phrase == (Words(4),)
    assert addition.bands == (Band(8, 60 * 86_400 * 10**7),)


def test_the_schema_knows_every_rule() -> None:
    found = schema()
    jsonschema_rs.validator_for(found)
    assert set(found["$defs"]["RulePart"]["properties"]) == {one.key for one in ASKED}
