"""Baselines: three-valued conditions, whom they are for, and answers as a plain look at each
account gives them.
"""

from __future__ import annotations

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hornfels.core.baselines.assessing import STATES, assess
from hornfels.core.baselines.baseline import Baseline, Known, Recommendation, Who, members
from hornfels.core.baselines.beside import Relation, beside, implies
from hornfels.core.baselines.conditions import (
    ENDLESS,
    All,
    Answer,
    AnyOf,
    Condition,
    Has,
    Limit,
    measure,
)
from hornfels.core.domain.account_state import effective_settings, settings_of
from hornfels.core.policy.model import DEFAULTS, Settings
from hornfels.core.resolution.engine import resolve
from hornfels.core.values.time import DAY, MINUTE
from hornfels.formats.dump import Dump
from worlds import World, read, worlds

YES, NO, OPEN = Limit("min_length", 7), Limit("min_length", 8), Has("blocked list")
"""True, false and open under the settings of a new domain."""


@pytest.mark.parametrize(
    ("condition", "answer"),
    [
        (All((YES, YES)), True),
        (All((YES, NO)), False),
        (All((YES, OPEN)), None),
        (All((NO, OPEN)), False),
        (AnyOf((YES, OPEN)), True),
        (AnyOf((NO, OPEN)), None),
        (AnyOf((NO, NO)), False),
        (All((AnyOf((NO, YES)), OPEN)), None),
    ],
)
def test_what_cannot_be_told_counts_only_where_it_matters(
    condition: Condition, answer: Answer
) -> None:
    assert condition.holds(DEFAULTS) is answer


@pytest.mark.parametrize(
    ("changes", "limit", "answer"),
    [
        ({"max_age": None}, Limit("max_age", most=365 * DAY), False),
        ({"max_age": 0}, Limit("max_age", most=365 * DAY), False),
        ({"max_age": 0}, Limit("max_age", ENDLESS, ENDLESS), True),
        ({"max_age": 365 * DAY}, Limit("max_age", most=365 * DAY), True),
        ({"lockout_threshold": 0}, Limit("lockout_threshold", most=100), False),
        ({"lockout_threshold": 0}, Limit("lockout_threshold", 50), True),
        ({"lockout_duration": None}, Limit("lockout_duration", 30 * MINUTE), True),
        ({"lockout_duration": 0}, Limit("lockout_duration", 30 * MINUTE), True),
        ({"complexity": False}, Limit("complexity", 0, 0), True),
        ({"complexity": True}, Limit("complexity", 0, 0), False),
    ],
)
def test_what_has_no_end_is_more_than_any_number(
    changes: dict[str, object], limit: Limit, answer: bool
) -> None:
    assert limit.holds(replace(DEFAULTS, **changes)) is answer  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("limit", "text"),
    [
        (Limit("min_length", 15), "minimum length at least 15 characters"),
        (Limit("max_age", most=365 * DAY), "maximum age at most 365 d"),
        (Limit("max_age", ENDLESS, ENDLESS), "maximum age never expires"),
        (
            Limit("lockout_threshold", 3, 10),
            "lockout threshold at least 3 bad tries and at most 10 bad tries",
        ),
        (Limit("complexity", 0, 0), "complexity off"),
    ],
)
def test_conditions_in_words(limit: Limit, text: str) -> None:
    assert limit.text() == text


@pytest.mark.parametrize(
    ("limit", "short"),
    [
        (Limit("min_length", 15), "≥ 15"),
        (Limit("max_age", most=365 * DAY), "≤ 365 d"),
        (Limit("max_age", ENDLESS, ENDLESS), "never expires"),
        (Limit("lockout_threshold", 3, 10), "3–10"),
        (Limit("complexity", 0, 0), "off"),
        (Limit("lockout_duration", 30 * MINUTE), "≥ 30 min"),
    ],
)
def test_bounds_in_short(limit: Limit, short: str) -> None:
    assert limit.short() == short


limits = st.one_of(
    st.builds(Limit, st.just("min_length"), st.integers(0, 14)),
    st.builds(Limit, st.just("max_age"), st.just(-ENDLESS), st.sampled_from([42 * DAY, DAY])),
    st.just(Limit("max_age", ENDLESS, ENDLESS)),
    st.just(Limit("reversible_encryption", 0, 0)),
    st.builds(Has, st.sampled_from(["blocked list", "exposed passwords"])),
)
conditions = st.recursive(
    limits,
    lambda inner: (
        st.lists(inner, min_size=1, max_size=3)
        .map(tuple)
        .flatmap(lambda parts: st.sampled_from([All(parts), AnyOf(parts)]))
    ),
    max_leaves=5,
)
whos: st.SearchStrategy[Who] = st.sampled_from(
    ["everybody", "people", "privileged", "service", "kiosk"]
)
KNOWN: dict[Who, Known] = {
    "service": Known(("person0",), ("GROUP1",)),
    "kiosk": Known((), ("group[23]",)),
}


seen = st.builds(
    replace,
    st.just(DEFAULTS),
    min_length=st.integers(0, 16),
    max_age=st.sampled_from([None, 0, DAY, 42 * DAY, 43 * DAY]),
    reversible_encryption=st.booleans(),
)


@given(conditions, conditions, seen)
def test_whoever_meets_what_asks_more_meets_what_asks_less(
    first: Condition, second: Condition, settings: Settings
) -> None:
    assert implies(first, first)
    assert implies(All((first, second)), second)
    assert implies(first, AnyOf((first, second)))
    if implies(first, second) and first.holds(settings):
        assert second.holds(settings) is not False


@given(limits, limits, st.lists(seen, min_size=30, max_size=30))
def test_what_asks_less_has_somebody_who_meets_it_alone(
    first: Condition, second: Condition, many: list[Settings]
) -> None:
    """What some settings show cannot be implied."""
    if any(first.holds(one) and second.holds(one) is False for one in many):
        assert not implies(first, second)


@pytest.mark.parametrize(
    ("first", "second", "relation"),
    [
        (Limit("min_length", 15), Limit("min_length", 15), "the same"),
        (Limit("min_length", 20), Limit("min_length", 15), "the first asks more"),
        (Limit("max_age", most=DAY), Limit("max_age", most=42 * DAY), "the first asks more"),
        (Limit("max_age", most=DAY), Limit("max_age", ENDLESS, ENDLESS), "other things"),
        (
            Limit("lockout_threshold", most=100),
            Limit("lockout_threshold", 3, 10),
            "the second asks more",
        ),
        (Has("blocked list"), AnyOf((Has("blocked list"), YES)), "the first asks more"),
    ],
)
def test_of_two_baselines_one_asks_more(
    first: Condition, second: Condition, relation: Relation
) -> None:
    def baseline(wants: Condition, who: Who = "people") -> Baseline:
        return Baseline("one", "One", "", (Recommendation("a", "A", who, wants),))

    pairs = beside(baseline(first), baseline(second))
    assert pairs[0 if isinstance(first, Limit) else -1].relation == relation
    assert beside(baseline(first), baseline(second, "privileged")) != []
    others = beside(baseline(first, "service"), baseline(second))
    assert {pair.relation for pair in others} <= {"for others", "only the second"}
    alone = beside(baseline(first), Baseline("none", "", "", ()))
    assert {pair.relation for pair in alone} == {"only the first"}


@given(worlds(), whos, conditions, st.one_of(st.none(), conditions))
def test_each_account_is_answered_as_a_plain_look_at_it_says(
    world: World, who: Who, wants: Condition, when: Condition | None
) -> None:
    estate = read(world).estate
    resolution = resolve(estate)
    asked = Recommendation("k", "t", who, wants, when)
    (found,) = assess(Baseline("b", "B", "", (asked,), KNOWN), estate, resolution)
    meant = members(estate, KNOWN)[who]
    for row in range(len(estate.accounts)):
        policy = settings_of(estate, int(resolution.winner_of_account[row]))
        settings = effective_settings(policy, int(estate.accounts.control[row]))
        applies = when.holds(settings) if when else True
        if not meant[row] or applies is False:
            state = "not applicable"
        elif applies is None or wants.holds(settings) is None:
            state = "cannot tell"
        else:
            state = "met" if wants.holds(settings) else "not met"
        assert STATES[found.of_account[row]] == state
    counts = found.accounts
    assert sum(counts.values()) == len(estate.accounts)
    worst = next((state for state in STATES[:3] if counts[state]), "not applicable")
    assert found.state == worst
    unmet = {
        int(resolution.winner_of_account[row])
        for row in range(len(estate.accounts))
        if STATES[found.of_account[row]] == "not met"
    }
    assert set(found.policies) == unmet


def test_computers_and_the_kerberos_service_are_nobody(demo: Dump) -> None:
    kinds = members(demo.estate, {})
    names = demo.estate.accounts.name
    someone = {names[row] for row in kinds["everybody"].nonzero()[0].tolist()}
    assert "krbtgt" not in someone
    assert not any(name.endswith("$") for name in someone)
    assert {names[row] for row in kinds["privileged"].nonzero()[0].tolist()} <= someone


def test_what_is_measured_is_what_matters(demo: Dump) -> None:
    estate = demo.estate
    long = Recommendation("k", "t", "everybody", Limit("min_length", 9))
    (found,) = assess(Baseline("b", "B", "", (long,)), estate, resolve(estate))
    assert found.state == "not met"
    assert found.measured == "minimum length 5 to 8 characters"
    assert measure("min_length", estate.domain.settings) == 8
