"""Templates that should agree: laws of who differs from what."""

from __future__ import annotations

from datetime import UTC, date, datetime

from hypothesis import given
from hypothesis import strategies as st

from hornfels.core.policy.catalogue import Template, TemplateKey
from hornfels.core.servers.agreement import agreement, answer, compared, majority
from hornfels.core.servers.course import Held, Reading, course
from hornfels.core.values.time import DAY

KEYS: tuple[TemplateKey, ...] = ("min_length", "max_age", "lockout_threshold", "audit_length")
templates = st.dictionaries(st.sampled_from(KEYS), st.sampled_from([0, 1, 42 * DAY, None]))
fleets = st.lists(templates, min_size=1, max_size=7)


@given(fleets, st.one_of(st.none(), templates))
def test_rows_tell_what_each_says_and_how_many_say_what_is_wanted(
    fleet: list[Template], reference: Template | None
) -> None:
    rows = {row.key: row for row in compared(fleet, reference)}
    assert rows.keys() == {key for one in [*fleet, reference or {}] for key in one}
    for key, row in rows.items():
        assert row.answers == tuple(answer(one, key) for one in fleet)
        assert row.like == sum(said == row.wanted for said in row.answers)
        assert row.agree == all(said == row.wanted for said in row.answers)
        if reference is not None:
            assert row.wanted == answer(reference, key)
        else:
            assert all(row.like >= row.answers.count(said) for said in row.answers)


@given(fleets)
def test_what_most_say_is_agreed_on_by_most(fleet: list[Template]) -> None:
    wanted = majority(fleet)
    for row in compared(fleet, wanted):
        assert all(row.like >= row.answers.count(said) for said in row.answers)
    assert majority([wanted]) == wanted
    assert all(row.agree for row in compared([wanted] * 3, wanted))


def test_not_there_is_an_answer_and_no_zero() -> None:
    (row,) = compared([{"min_length": 0}, {}, {}])
    assert (row.wanted, row.like, row.agree) == ((), 2, False)


@given(fleets, st.one_of(st.none(), templates), st.sets(st.integers(0, 6)))
def test_every_server_agrees_differs_or_was_not_read(
    fleet: list[Template], reference: Template | None, unread: set[int]
) -> None:
    machines = {
        f"dome {number}": None if number in unread else one for number, one in enumerate(fleet)
    }
    found = agreement(machines, reference)
    assert found.coverage.machines == len(machines)
    assert set(found.unread) == {name for name, one in machines.items() if one is None}
    for name, odd in found.odd.items():
        template = machines[name]
        assert template is not None
        said = {row.key: answer(template, row.key) != row.wanted for row in found.rows}
        assert odd == tuple(key for key, differs in said.items() if differs)
    # Whoever is given what is wanted agrees.
    again = agreement(dict.fromkeys(machines, found.wanted), found.wanted)
    assert again.coverage == (len(machines), 0, 0)


@given(fleets)
def test_a_tie_is_no_majority(fleet: list[Template]) -> None:
    for row in compared(fleet):
        others = {said: row.answers.count(said) for said in row.answers if said != row.wanted}
        assert row.tied == (row.like in others.values())
    assert not any(row.tied for row in compared(fleet, {})), "a reference is no matter of votes"


def test_how_it_stood_at_the_end_of_each_day() -> None:
    def at(day: int, hour: int, machine: str, length: int | None) -> Reading:
        moment = datetime(2026, 11, day, hour, tzinfo=UTC)
        return Reading(moment, machine, None if length is None else {"min_length": length})

    readings = [
        *(at(1, 9, name, 14) for name in "abc"),
        at(3, 9, "a", 8),
        at(3, 18, "a", 14),
        at(3, 18, "b", None),
        at(5, 0, "d", 8),
        at(5, 1, "c", 8),
    ]
    assert list(course(readings, Held())) == [
        (date(2026, 11, 1), (3, 0, 0)),
        (date(2026, 11, 3), (2, 0, 1)),
        # By then most say 8.
        (date(2026, 11, 5), (2, 1, 1)),
    ]
    agreed = dict(course(readings, Held(agreed={"min_length": 14})))
    assert agreed[date(2026, 11, 5)] == (1, 2, 1)
    like = dict(course(readings, Held(like="d")))
    assert like[date(2026, 11, 1)] == (3, 0, 0), "it was not there yet: most counted"
    assert like[date(2026, 11, 5)] == (2, 1, 1)
