"""Days on which passwords end: whole columns against one account at a time."""

from __future__ import annotations

from collections import Counter
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from hornfels.core.domain.account_state import effective_settings, expiry, settings_of
from hornfels.core.domain.estate import TRUST_BITS, Control
from hornfels.core.resolution.engine import DOMAIN_POLICY, resolve
from hornfels.core.resolution.expiries import FEWEST_IN_BUNCH, OVER_USUAL, expiries
from hornfels.core.resolution.roster import Roster
from hornfels.core.values.time import DAY, HOUR, moment_from_datetime
from hornfels.formats.dump import Dump

from conftest import DEMO_NOW  # isort: skip

NOW = moment_from_datetime(DEMO_NOW)


@pytest.fixture(scope="module")
def roster(demo: Dump) -> Roster:
    return Roster(demo.estate, resolve(demo.estate))


@given(st.integers(-800, 800), st.integers(1, 200))
def test_every_password_is_on_one_day_or_counted_beside(
    roster: Roster, halves: int, days: int
) -> None:
    now = NOW + halves * 12 * HOUR
    found = expiries(roster, now, days)
    accounts = roster.estate.accounts
    on, beside = Counter[tuple[int, int]](), Counter[str]()
    for row in range(len(accounts)):
        control, set_at = int(accounts.control[row]), int(accounts.password_set[row])
        if control & (Control.DISABLED | TRUST_BITS):
            continue
        policy = int(roster.resolution.winner_of_account[row])
        settings = effective_settings(settings_of(roster.estate, policy), control)
        end = expiry(control, set_at, settings.max_age)
        if end.kind != "at":
            beside[end.kind] += 1
        elif end.at <= now:
            beside["ended"] += 1
        elif (day := end.at // DAY - now // DAY) < days:
            on[policy, day] += 1
    counted = {
        (policy, day): int(found.of_policy(policy)[day])
        for policy in (*range(len(roster.estate.policies)), DOMAIN_POLICY)
        for day in range(days)
    }
    assert {key: many for key, many in counted.items() if many} == dict(on)
    assert (found.ended, found.never, found.unknown, found.to_change) == (
        beside["ended"],
        beside["never"],
        beside["unknown"],
        beside["now"],
    )
    assert found.by_day.sum() == sum(on.values())


@given(st.integers(0, 60), st.integers(2, 300))
def test_a_day_on_which_many_end_stands_out_and_says_why(
    roster: Roster, day: int, many: int
) -> None:
    held = roster.estate.accounts
    plain = np.flatnonzero(
        roster.people & (roster.expires > 0) & (roster.expires < np.iinfo(np.int64).max)
    )
    winners = roster.resolution.winner_of_account
    policy = int(np.bincount(winners[plain] + 1).argmax()) - 1
    together = plain[winners[plain] == policy][:many]
    max_age = settings_of(roster.estate, policy).max_age or 0
    set_at = held.password_set.copy()
    set_at[together] = NOW // DAY * DAY + (day + 1) * DAY + 5 * HOUR - max_age
    changed = Roster(
        replace(roster.estate, accounts=replace(held, password_set=set_at)), roster.resolution
    )
    found = expiries(changed, NOW, 90)
    by_day = found.by_day
    usual = float(np.median(by_day[by_day > 0]))
    for one in found.bunches:
        assert one.many == by_day[one.day] >= max(FEWEST_IN_BUNCH, OVER_USUAL * usual)
    if len(together) >= 100:
        (bunch,) = (one for one in found.bunches if one.day == day + 1)
        assert (bunch.policy, bunch.set_on) == (policy, int(set_at[together[0]]) // DAY * DAY)
        assert bunch.set_together >= len(together)
