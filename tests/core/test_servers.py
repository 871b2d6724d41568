"""Templates that should agree: laws of who differs from what."""

from __future__ import annotations

from hypothesis import given
from hypothesis import strategies as st

from hornfels.core.policy.catalogue import Template, TemplateKey
from hornfels.core.servers.agreement import answer, compared, majority
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
