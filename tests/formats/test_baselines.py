"""Baselines as files: those that come along hold, and what is wrong with one is told in its
place.
"""

from __future__ import annotations

import pytest

from hornfels.core.baselines.conditions import ENDLESS, All, AnyOf, Has, Limit
from hornfels.core.policy.model import DEFAULTS, problems
from hornfels.core.values.time import DAY
from hornfels.formats.baselines.reading import SHIPPED, read_baseline, shipped
from hornfels.formats.yaml_tree import YamlError

GOOD = """
baseline: 1
name: ours
title: Ours
about: For us
known: {service: {names: ["svc-*"]}}
recommendations:
  - key: length
    text: Long ones
    for: people
    when: {any of: [{min_length: {at least: 8}}, {has: blocked list}]}
    wants: {min_length: {at least: 15}, max_age: never, complexity: off}
    sets: {min_length: 15, max_age: never}
    rationale: Because
    effect: More to type
    source: Us
"""


@pytest.mark.parametrize("name", SHIPPED)
def test_what_comes_along_is_whole_and_its_repairs_hold(name: str) -> None:
    baseline = shipped(name)
    assert baseline.name == name
    for one in baseline.recommendations:
        assert all((one.text, one.rationale, one.effect, one.source))
        fixed = DEFAULTS.changed(one.sets)
        assert one.wants.holds(fixed) is not False, "what closes the gap closes it"
        assert not [p for p in problems(fixed, 10) if p.severity == "error"]


def test_a_file_of_ones_own() -> None:
    (one,) = read_baseline(GOOD.encode()).recommendations
    assert one.when == AnyOf((Limit("min_length", 8), Has("blocked list")))
    assert one.wants == All(
        (
            Limit("min_length", 15),
            Limit("max_age", ENDLESS, ENDLESS),
            Limit("complexity", 0, 0),
        )
    )
    assert one.sets == {"min_length": 15, "max_age": None}
    age = GOOD.replace("max_age: never, complexity", "max_age: {at most: 90 d}, complexity")
    (one,) = read_baseline(age.replace(", max_age: never}", "}").encode()).recommendations
    assert Limit("max_age", most=90 * DAY) in one.wants.parts  # type: ignore[union-attr]


@pytest.mark.parametrize(
    ("before", "after", "told"),
    [
        ("baseline: 1", "baseline: 2", "line 2, column 11: baseline cannot be so"),
        ("    rationale: Because\n", "", "line 8, column 5: “rationale” is missing; add it"),
        ("for: people", "for: staff", "line 10, column 10: for cannot be so"),
        ("min_length: {at least: 15}", "min_lenght: 15", "“min_lenght” is no setting; known are"),
        ("{at least: 15}", "{over: 15}", "min_length has to be “at least”, “at most” or “is”"),
        ("{at least: 15}", "long", "min_length is a whole number"),
        ("max_age: never, complexity", "max_age: 42, complexity", "max_age is a span"),
        ("complexity: off", "complexity: 1", "complexity is on or off"),
        ("has: blocked list", "has: luck", "“has” takes blocked list or exposed passwords"),
        ("{any of: [", "{any of: 5, x: [", "“any of” has to be a list of conditions"),
        ("sets: {min_length: 15,", "sets: {min_age: 1 d,", "sets what it does not want: min_age"),
        ("    text: Long ones\n", "    text: Long ones\n    note: x\n", "“note” is no key here"),
        ("name: ours", "name: Our own", "name cannot be so"),
    ],
)
def test_what_is_wrong_is_told_in_its_place(before: str, after: str, told: str) -> None:
    assert before in GOOD
    with pytest.raises(YamlError) as caught:
        read_baseline(GOOD.replace(before, after, 1).encode())
    assert told in str(caught.value)


def test_a_key_is_used_once() -> None:
    second = GOOD[GOOD.index("  - key") :]
    with pytest.raises(YamlError, match="another recommendation has this key"):
        read_baseline((GOOD + second.lstrip("\n")).encode())
