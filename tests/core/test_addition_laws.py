"""Laws of additions: quick looks change no verdict, answers kept by rule are the same answers, what
is drawn for a policy keeps or breaks what it says.
"""

from __future__ import annotations

import re
from dataclasses import replace
from itertools import product
from random import Random

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from hornfels.core.passwords.additions import Lists, OnPath, compile_addition, terms_in
from hornfels.core.passwords.boundaries import boundaries
from hornfels.core.passwords.characters import Candidate
from hornfels.core.passwords.drawing import needs_of
from hornfels.core.passwords.judge import compile_policy, judge
from hornfels.core.passwords.layouts import LAYOUTS, keys_of
from hornfels.core.passwords.rule_effects import EXAMPLE, effects
from hornfels.core.passwords.rules.closeness import distance, only_counted, shared
from hornfels.core.passwords.rules.counts import is_of
from hornfels.core.passwords.rules.rule import ANYBODY, Occasion, Operation, Subject
from hornfels.core.passwords.rules.stretches import longest_repeat, longest_run, longest_walk
from hornfels.core.passwords.space_left import space_left, texts_of
from hornfels.core.passwords.stream import Stream
from hornfels.core.passwords.suggestions import Kind, NoSuggestionError, suggest
from hornfels.core.passwords.typical import typical
from hornfels.core.policy.addition import (
    KINDS,
    Addition,
    Asked,
    Blocked,
    Closeness,
    Edge,
    Forbid,
    GroupCount,
    KindCount,
    LengthRange,
    OwnNames,
    Pattern,
    Repeat,
    Run,
    Walk,
    Words,
)
from hornfels.core.policy.model import DEFAULTS

LISTS = Lists(terms_in({"house": ["orbit", "dome"], "none": []}))
ILSE = Subject("ilse.varga", "Varga, Ilse", ("Ilse", "stargazer"))
SMALL = st.integers(1, 4)
KIND = st.sampled_from(KINDS)
RULES: st.SearchStrategy[Asked] = st.one_of(
    st.builds(LengthRange, st.integers(0, 20), st.sampled_from([None, 30, 64])),
    st.builds(GroupCount, st.integers(1, 4)),
    st.builds(KindCount, KIND, st.integers(0, 3), st.sampled_from([None, 0, 3, 8])),
    st.builds(Edge, st.just(("digit",)), st.sampled_from([(), ("symbol", "digit")])),
    st.builds(Forbid, st.sampled_from(["-", "äö ", "a"])),
    st.builds(Repeat, SMALL),
    st.builds(Run, SMALL),
    st.builds(Walk, st.integers(2, 4), st.sampled_from([("us",), ("de", "fr")])),
    st.builds(Blocked, st.sampled_from([("house",), ("none",), ("gone",)]), st.booleans()),
    st.builds(OwnNames, st.booleans()),
    st.builds(Closeness, SMALL, st.sampled_from([None, 3]), st.booleans()),
    st.builds(Pattern, st.sampled_from(["[0-9]{3}", "^[a-z]", "x"]), st.booleans()),
    st.builds(Words, SMALL, SMALL, st.booleans()),
)
PATH = st.none() | st.lists(RULES, min_size=1, max_size=4).map(tuple)
ADDITIONS = st.builds(Addition, PATH, PATH)
KEYS = st.text(
    st.sampled_from("".join(sorted({c for rows in LAYOUTS.values() for r in rows for c in r[0]})))
    | st.sampled_from('QWERTzASD!"§$3aA'),
    max_size=12,
)
POLICIES = st.builds(
    lambda length, complexity: replace(DEFAULTS, min_length=length, complexity=complexity),
    st.integers(0, 16),
    st.booleans(),
)


def status(asked: Asked, text: str, present: str = "Orbit-Keeper-19") -> str:
    rules = compile_addition(Addition(password=(asked,)), LISTS)
    moment = Occasion("change", 0, 0, (present,))
    return judge(rules, text, ILSE, moment).judgements[0].status


@given(KEYS, SMALL, st.sampled_from([("us",), ("de", "us"), ("fr",)]))
def test_quick_looks_at_stretches_change_no_verdict(
    text: str, most: int, layouts: tuple[str, ...]
) -> None:
    walk = longest_walk(text, keys_of(layouts))
    assert (status(Walk(most, layouts), text) == "passed") is (walk <= most)
    assert (status(Run(most), text) == "passed") is (longest_run(text) <= most)
    assert (status(Repeat(most), text) == "passed") is (longest_repeat(text) <= most)


@given(st.text(st.sampled_from("aAbß1２é -Ⅷ漢"), max_size=8), KIND, st.integers(0, 4))
def test_characters_of_a_kind_are_counted_one_by_one(text: str, kind: str, least: int) -> None:
    count = sum(is_of(c, kind) for c in text)  # type: ignore[arg-type]
    found = status(KindCount(kind, least), text)  # type: ignore[arg-type]
    assert (found == "passed") is (count >= least)
    edge = status(Edge((kind,), (kind,)), text)  # type: ignore[arg-type]
    ends = any(is_of(c, kind) for c in (text[:1], text[-1:]) if c)  # type: ignore[arg-type]
    assert (edge == "failed") is ends


@given(
    st.text(st.sampled_from("abAB01ßé"), max_size=7),
    st.text(st.sampled_from("abAB01ßé"), max_size=7),
    st.builds(Closeness, st.integers(0, 4), st.sampled_from([None, 0, 2]), st.booleans()),
)
def test_quick_looks_at_closeness_change_no_verdict(
    text: str, present: str, asked: Closeness
) -> None:
    near = (
        distance(present, text) < asked.changed
        or (asked.shared is not None and shared(present, text) > asked.shared)
        or (asked.no_counting and only_counted(present, text))
    )
    assert (status(asked, text, present) == "failed") is near


@given(POLICIES, ADDITIONS, st.lists(st.text(max_size=14) | KEYS, max_size=6), st.integers())
def test_answers_kept_rule_by_rule_are_those_of_a_judge(
    policy: object, addition: Addition, texts: list[str], seed: int
) -> None:
    rules = (*compile_policy(policy), *compile_addition(addition, LISTS))  # type: ignore[arg-type]
    moment = Occasion("change", 1 << 60, 0, ("Orbit-Keeper-19",))
    stream = Stream(rules, ILSE, moment, lambda f: f"{f.path}{f.rule}{f.status}{f.detail}", "\n")
    for text in [*texts, *typical(3, Random(seed)), *texts]:
        verdict = judge(rules, text, ILSE, moment)
        said = "\n".join(f"{f.path}{f.rule}{f.status}{f.detail}" for f in verdict.judgements)
        assert stream(Candidate(text)) == (verdict.accepted, said)


@pytest.mark.thorough
@given(POLICIES, ADDITIONS, st.sampled_from(["phrase", "blocks"]), st.integers())
def test_what_is_suggested_keeps_every_rule(
    policy: object, addition: Addition, kind: Kind, seed: int
) -> None:
    beyond = compile_addition(addition, LISTS)
    rules = (*compile_policy(policy), *beyond)  # type: ignore[arg-type]
    try:
        found = suggest(policy, ILSE, ("old",), kind, Random(seed), addition, beyond)  # type: ignore[arg-type]
    except NoSuggestionError:
        return
    verdict = judge(rules, found.text, ILSE, Occasion("change", 1 << 60, 0, ("old",)))
    assert not verdict.refusals
    assert found.text not in repr(found)


@pytest.mark.parametrize("kind", ["phrase", "blocks"])
def test_something_is_suggested_for_what_people_ask(kind: Kind) -> None:
    addition = Addition(
        password=(LengthRange(14, 64), Run(3), Blocked(("house",)), KindCount("digit", 2)),
        phrase=(Words(4, 4, distinct=True), Edge(first=("upper",)), Pattern("-[0-9]", must=True)),
    )
    beyond = compile_addition(addition, LISTS)
    found = suggest(DEFAULTS, ILSE, (), kind, Random(2), addition, beyond)
    assert found.bits >= 35


@pytest.mark.thorough
@given(POLICIES, ADDITIONS, st.sampled_from(["change", "reset"]), st.integers())
def test_a_boundary_is_refused_by_its_rule_alone_on_its_path(
    policy: object, addition: Addition, operation: Operation, seed: int
) -> None:
    beyond = compile_addition(addition, LISTS)
    rules = (*compile_policy(policy), *beyond)  # type: ignore[arg-type]
    drawn = boundaries(policy, ILSE, operation, Random(seed), addition, beyond)  # type: ignore[arg-type]
    for one in drawn.candidates:
        verdict = judge(rules, one.text, ILSE, one.moment(operation, 1 << 60))
        failed = [f.rule for f in verdict.judgements if f.path == one.path and f.status == "failed"]
        if one.path:
            assert not verdict.accepted
            assert not any(f.status == "failed" for f in verdict.by_directory)
        assert failed == ([one.refused_by] if one.refused_by else [])


@given(POLICIES, ADDITIONS, st.integers())
def test_effects_are_counted_one_by_one_and_an_example_breaks_its_rule_alone(
    policy: object, addition: Addition, seed: int
) -> None:
    beyond = compile_addition(addition, LISTS)
    rules = (*compile_policy(policy), *beyond)  # type: ignore[arg-type]
    sample = typical(20, Random(seed))
    found = effects(policy, addition, beyond, sample, Random(seed))  # type: ignore[arg-type]
    verdicts = [judge(rules, text, ANYBODY, Occasion("reset", 0, 0)) for text in sample]
    assert found.altogether == sum(not v.accepted for v in verdicts)
    places = [(p, n) for p, asked in addition.paths() for n in range(len(asked))]
    assert [(one.path, one.number) for one in found.rules] == places
    for one in found.rules:
        said = [[f for f in v.judgements if f.path == one.path][one.number] for v in verdicts]
        assert one.refused == sum(f.status == "failed" for f in said)
        assert one.alone <= one.refused
        if one.example is not None:
            previous = (one.present,) if one.present is not None else None
            operation: Operation = "reset" if previous is None else "change"
            moment = Occasion(operation, 1 << 60, 0, previous)
            verdict = judge(rules, one.example, EXAMPLE, moment)
            on_path = [f.status == "failed" for f in verdict.judgements if f.path == one.path]
            assert [n for n, failed in enumerate(on_path) if failed] == [one.number]


COUNTED: st.SearchStrategy[Asked] = st.one_of(
    st.builds(GroupCount, st.integers(1, 2)),
    st.builds(KindCount, KIND, st.integers(0, 2), st.sampled_from([None, 0, 1])),
    st.builds(Edge, st.just(("digit", "lower")), st.sampled_from([(), ("other",)])),
    st.builds(Forbid, st.sampled_from(["aZ 5", "-"])),
)
PAIRS = ["".join(pair) for pair in product(map(chr, range(32, 127)), repeat=2)]


@pytest.mark.thorough
@settings(max_examples=12)
@given(st.lists(COUNTED, max_size=3).map(tuple))
def test_the_space_left_is_counted_as_by_trying_every_text(asked: tuple[Asked, ...]) -> None:
    rules = compile_addition(Addition(password=asked), LISTS)
    count = sum(judge(rules, text, ANYBODY, Occasion("reset", 0, 0)).accepted for text in PAIRS)
    assert texts_of(2, needs_of(None, asked)) == count


FEW = "aB-5"
ALL_BUT_FEW = Forbid("".join(c for c in map(chr, range(32, 127)) if c not in FEW))


@settings(max_examples=25)
@given(
    st.lists(COUNTED, max_size=2).map(tuple),
    st.builds(Words, st.integers(1, 3), st.integers(1, 3), st.booleans()),
    st.integers(1, 6),
)
def test_words_are_counted_as_by_trying_every_text_of_few_letters(
    others: tuple[Asked, ...], words: Words, length: int
) -> None:
    asked = (*others, words, ALL_BUT_FEW)
    rules = compile_addition(Addition(phrase=asked), LISTS)
    counting = compile_addition(Addition(phrase=(*others, replace(words, distinct=False))), LISTS)
    every = ["".join(text) for text in product(FEW, repeat=length)]
    moment = Occasion("reset", 0, 0)
    counted = [text for text in every if judge(counting, text, ANYBODY, moment).accepted]
    needs = needs_of(None, asked)
    assert texts_of(length, needs) == len(counted)
    if length == max(needs.shortest, needs.fewest_in_words, 1) and counted:
        plain = replace(DEFAULTS, complexity=False, min_length=0)
        on_path = [rule for rule in rules if isinstance(rule, OnPath)]
        left = space_left(plain, asked, on_path, Random(3))
        assert left
        kept = sum(judge(rules, text, ANYBODY, moment).accepted for text in counted)
        assert left.counted is not words.distinct
        assert abs(2**left.left - max(kept, 0.1)) < 0.1 * len(counted) + 0.6


def test_rules_that_cannot_be_counted_shrink_the_space_by_what_they_refuse() -> None:
    asked = (LengthRange(8), Pattern("[a-z]", must=True))
    rules = compile_addition(Addition(password=asked), LISTS)
    on_path = [rule for rule in rules if isinstance(rule, OnPath)]
    left = space_left(replace(DEFAULTS, complexity=False), asked, on_path, Random(1))
    assert left is not None
    assert not left.counted
    # All but those without a small letter.
    share = 1 - (69 / 95) ** 8
    assert abs(2 ** (left.left - left.natively) - share) < 0.03
    assert (
        space_left(DEFAULTS, (KindCount("letter", 0, 0), KindCount("upper", 1)), [], Random(1))
        is None
    )


@given(ADDITIONS, POLICIES)
def test_what_contradicts_itself_accepts_nothing_that_is_typical(
    addition: Addition, policy: object
) -> None:
    paths = dict(addition.paths())
    contradicted = [needs_of(policy, asked).contradiction() for asked in paths.values()]  # type: ignore[arg-type]
    if paths and all(contradicted):
        rules = (*compile_policy(policy), *compile_addition(addition, LISTS))  # type: ignore[arg-type]
        for text in typical(40, Random(1)):
            assert not judge(rules, text, ANYBODY, Occasion("reset", 0, 0)).accepted


@given(
    st.text(st.sampled_from("aB3-é"), max_size=9),
    st.sampled_from(["digit", "upper", "lower", "symbol", "letter", "other"]),
    st.integers(1, 6),
)
def test_a_repair_followed_to_the_letter_passes_the_rule(text: str, kind: str, least: int) -> None:
    sign = {"digit": "7", "upper": "Q", "lower": "q", "symbol": "-", "letter": "q", "other": "7"}
    for asked, more in ((KindCount(kind, least), sign[kind]), (LengthRange(least + 3), "q")):  # type: ignore[arg-type]
        rules = compile_addition(Addition(password=(asked,)), LISTS)
        (found,) = judge(rules, text, ANYBODY, Occasion("reset", 0, 0)).judgements
        if found.status == "failed":
            count = re.fullmatch(r"add (\d+) .*", found.repair)
            assert count
            assert status(asked, text + more * int(count[1])) == "passed"
    dropped = compile_addition(Addition(password=(Blocked(("house",)),)), LISTS)
    (told,) = judge(dropped, f"{text}orbit", ANYBODY, Occasion("reset", 0, 0)).judgements
    assert "drop 'orbit'" in told.repair
    assert status(Blocked(("house",)), text) == "passed"
