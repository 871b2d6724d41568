"""A shorter maximum age brought in over weeks: who is told when, against one account at a time."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from hornfels.core.domain.account_state import expiry, settings_of
from hornfels.core.domain.estate import Int64
from hornfels.core.domain.must_change import may_be_told
from hornfels.core.domain.privileged import privileged
from hornfels.core.drafts.spread import RISKS, WEEK, levelled, spread
from hornfels.core.resolution.engine import DOMAIN_POLICY, resolve
from hornfels.core.resolution.roster import Roster
from hornfels.core.values.time import DAY, moment_from_datetime
from hornfels.formats.dump import Dump

from conftest import DEMO_NOW  # isort: skip

NOW = moment_from_datetime(DEMO_NOW)


@given(st.lists(st.integers(0, 40), min_size=1, max_size=12), st.integers(0, 300))
def test_weeks_are_levelled_as_far_as_what_comes_can(there: list[int], more: int) -> None:
    before = np.array(there)
    added = levelled(before, more)
    after = before + added
    assert added.min() >= 0
    assert added.sum() == more
    raised = after[added > 0]
    if len(raised):
        assert raised.max() - after.min() <= 1, "nothing is put on a week while another is lower"


@pytest.fixture(scope="module")
def live(demo: Dump) -> Roster:
    return Roster(demo.estate, resolve(demo.estate))


def shorter(live: Roster, days: int) -> Roster:
    """Everybody's maximum age at most so many days."""
    estate = live.estate

    def cut(max_age: int | None) -> int | None:
        return min(max_age, days * DAY) if max_age else max_age

    policies = tuple(
        replace(p, settings=replace(p.settings, max_age=cut(p.settings.max_age)))
        for p in estate.policies
    )
    own = settings_of(estate, DOMAIN_POLICY)
    domain = replace(estate.domain, settings=replace(own, max_age=cut(own.max_age)))
    there = replace(estate, policies=policies, domain=domain)
    return Roster(there, resolve(there))


@given(st.integers(1, 400), st.integers(1, 12), st.integers(0, 20), st.data())
def test_everybody_concerned_is_told_once_or_left_for_a_reason(
    live: Roster, days: int, weeks: int, ahead: int, data: st.DataObject
) -> None:
    draft = shorter(live, days)
    some = st.lists(st.integers(0, len(live.estate.accounts) - 1), max_size=60, unique=True)
    exposed: Int64 = np.array(data.draw(some), np.int64)
    shared: Int64 = np.array(data.draw(some), np.int64)
    begins = NOW // DAY * DAY + ahead * DAY
    found = spread(live, draft, NOW, begins, weeks, exposed, shared, ["ilse.varga"])
    until = begins + weeks * WEEK
    accounts, admins = live.estate.accounts, privileged(live.estate)
    told, alone, spared, at_once = {}, 0, 0, 0
    for row in np.flatnonzero(live.people).tolist():
        control, set_at = int(accounts.control[row]), int(accounts.password_set[row])
        by = [
            expiry(control, set_at, settings_of(one.estate, int(policy)).max_age)
            for one in (live, draft)
            for policy in [one.resolution.winner_of_account[row]]
        ]
        before, after = by
        if before.kind not in ("at", "never") or (before.kind == "at" and before.at <= NOW):
            continue
        ends_alone = before.kind == "at" and before.at <= until
        sooner = after.kind == "at" and (before.kind == "never" or after.at < before.at)
        at_once += sooner and after.at <= NOW
        if not (sooner and after.at <= until):
            alone += ends_alone
            continue
        risk = (
            "exposed"
            if row in exposed
            else "shared"
            if row in shared
            else "privileged"
            if admins[row]
            else "none"
        )
        may = may_be_told(live.estate, np.array([row]), ["ilse.varga"])[0]
        if may and not (risk == "none" and ends_alone):
            told[row] = (RISKS.index(risk), set_at, row)
        elif ends_alone:
            alone += 1
        else:
            spared += 1
    assert found.rows.tolist() == [row for *_, row in sorted(told.values())]
    assert (found.by_themselves.sum(), found.spared, found.at_once) == (alone, spared, at_once)
    assert (np.diff(found.wave) >= 0).all(), "the gravest first"
    by_wave = np.bincount(found.wave, minlength=weeks)
    assert (by_wave == levelled(found.by_themselves, len(told))).all()
    for wave in range(weeks):
        assert sum(found.counts(wave).values()) == by_wave[wave]


def test_once_all_are_told_nothing_is_left_that_ends_at_once(live: Roster) -> None:
    none, draft = np.empty(0, np.int64), shorter(live, 30)
    found = spread(live, draft, NOW, NOW, 4, none, none)
    assert len(found.rows) > 300
    assert found.shortest == 30 * DAY
    accounts, until = live.estate.accounts, NOW + 4 * WEEK
    set_at = accounts.password_set.copy()
    # Everybody changes on the day of the wave, or when the password ends.
    set_at[found.rows] = NOW + found.wave * WEEK
    ends = live.people & (live.expires > NOW) & (live.expires <= until)
    alone = np.setdiff1d(np.flatnonzero(ends), found.rows)
    set_at[alone] = live.expires[alone]
    estate = replace(live.estate, accounts=replace(accounts, password_set=set_at))
    later = Roster(estate, resolve(estate))
    after = spread(later, shorter(later, 30), until, until, 1, none, none)
    assert found.at_once > 300
    assert after.at_once <= found.spared
