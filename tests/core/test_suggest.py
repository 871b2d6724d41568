"""Suggested passwords and boundary candidates: laws over every policy."""

from __future__ import annotations

from dataclasses import replace
from math import log2
from random import Random
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hornfels.core.passwords.boundaries import boundaries
from hornfels.core.passwords.judge import compile_policy, judge
from hornfels.core.passwords.rules.rule import ANYBODY, Occasion, Operation, Subject
from hornfels.core.passwords.suggestions import Kind, suggest
from hornfels.core.passwords.words import WORDS
from hornfels.core.policy.model import DEFAULTS, Settings
from hornfels.core.values.time import DAY

NOW = 134_000_000_000_000_000
NAMES = st.sampled_from(
    [
        "",
        "ash",
        "i.varga",
        "svc-spectro3",
        "Quillon-Ash, Ilse #2",
        "all ing ter",
        "abc.-+=x",
        "Ünal Örs",
        "汉字汉字",
    ]
)
SUBJECTS = st.builds(Subject, NAMES, NAMES)
POLICIES = st.builds(
    lambda length, complexity, history, age: replace(
        DEFAULTS, min_length=length, complexity=complexity, history_length=history, min_age=age
    ),
    st.integers(0, 255) | st.integers(0, 6),
    st.booleans(),
    st.integers(0, 30) | st.just(1024),
    st.sampled_from([0, 1, DAY, 998 * DAY]),
)


@given(POLICIES, SUBJECTS, st.sampled_from(["phrase", "blocks"]), st.integers())
def test_what_is_suggested_is_always_accepted(
    policy: Settings, subject: Subject, kind: Kind, seed: int
) -> None:
    random = Random(seed)
    first = suggest(policy, subject, (), kind, random)
    second = suggest(policy, subject, (None, first.text), kind, random)
    for found, previous in ((first, []), (second, [None, first.text])):
        assert judge(
            compile_policy(policy), found.text, subject, Occasion("change", NOW, 0, previous)
        ).accepted
        assert found.bits >= 50
    assert first.text != second.text


def test_strength_counts_what_could_have_come_out() -> None:
    phrase = suggest(DEFAULTS, ANYBODY, (), "phrase", Random(1))
    assert (len(phrase.text.split("-")), phrase.bits) == (5, 49 + 1)
    assert {word.lower() for word in phrase.text.split("-")} <= set(WORDS)
    blocks = suggest(replace(DEFAULTS, min_length=16), ANYBODY, (), "blocks", Random(1))
    assert ([len(b) for b in blocks.text.split("-")], blocks.bits) == (
        [4, 4, 4, 1],
        int(13 * log2(57)),
    )
    # Fewer words are left to somebody whose name stands in many: the phrase is worth as much all
    # the same.
    without = suggest(DEFAULTS, Subject("ter", "all ing"), (), "phrase", Random(1))
    assert without.bits in {50, 59}
    assert "ter" not in without.text.lower()


def test_the_words_are_worth_ten_bits_each() -> None:
    assert len(set(WORDS)) == len(WORDS) == 1024
    assert all(
        word.isascii() and word.isalpha() and word.islower() and 4 <= len(word) <= 8
        for word in WORDS
    )


def test_nothing_shows_what_was_suggested() -> None:
    found = suggest(DEFAULTS, ANYBODY, (), "phrase", Random(1))
    assert found.text not in repr(found)


@given(POLICIES, SUBJECTS, st.sampled_from(["change", "reset"]), st.integers())
def test_every_boundary_candidate_is_refused_by_its_rule_alone(
    policy: Settings, subject: Subject, operation: Operation, seed: int
) -> None:
    found = boundaries(policy, subject, operation, Random(seed))
    rules = compile_policy(policy)
    assert found.candidates[0].refused_by is None
    assert len({c.refused_by for c in found.candidates}) == len(found.candidates)
    for candidate in found.candidates:
        verdict = judge(rules, candidate.text, subject, candidate.moment(operation, NOW))
        assert verdict.refused_by == ((candidate.refused_by,) if candidate.refused_by else ())
        assert verdict.certain


@given(POLICIES, SUBJECTS, st.integers())
def test_the_passing_candidate_passes_only_just(
    policy: Settings, subject: Subject, seed: int
) -> None:
    best = boundaries(policy, subject, "change", Random(seed)).candidates[0]
    rules, moment = compile_policy(policy), best.moment("change", NOW)
    if policy.min_length > 3:
        assert judge(rules, best.text[:-1], subject, moment).refused_by[:1] == ("length",)
    if policy.min_age > 0:
        assert judge(rules, best.text, subject, replace(moment, now=NOW - 1)).refused_by == (
            "minimum_age",
        )
    if policy.history_length > 0 and moment.previous is not None:
        assert judge(
            rules, best.text, subject, replace(moment, previous=moment.previous[1:])
        ).refused_by == ("history",)


@pytest.mark.parametrize(
    ("changes", "operation", "rules", "words"),
    [
        ({}, "change", [None, "length", "complexity", "own_name", "history", "minimum_age"], ""),
        (
            {},
            "reset",
            [None, "length", "complexity", "own_name"],
            "neither history nor minimum age",
        ),
        ({"complexity": False}, "reset", [None, "length"], "are not asked"),
        ({"min_length": 3}, "reset", [None, "complexity", "own_name"], "never refuses alone"),
        ({"min_length": 0, "complexity": False}, "reset", [None], "no minimum is set"),
        (
            {"history_length": 0, "min_age": 0},
            "change",
            [None, "length", "complexity", "own_name"],
            "none is remembered",
        ),
    ],
)
def test_rules_without_a_boundary_are_named(
    changes: dict[str, Any], operation: Operation, rules: list[str], words: str
) -> None:
    found = boundaries(
        replace(DEFAULTS, **changes), Subject("ilse.varga", ""), operation, Random(3)
    )
    assert [c.refused_by for c in found.candidates] == rules
    assert words in " ".join(found.without)


def test_without_a_name_the_own_name_rule_has_no_boundary() -> None:
    found = boundaries(DEFAULTS, ANYBODY, "reset", Random(3))
    assert "own_name" not in [c.refused_by for c in found.candidates]
    assert any("No name" in reason for reason in found.without)
