"""An edit weighed before it is saved comes to what the draft comes to after it."""

from __future__ import annotations

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hornfels.core.drafts.applying import apply
from hornfels.core.drafts.impact import Besides, Impact, impact
from hornfels.core.drafts.operations import Change, EditSettings, Operation, SetPrecedence
from hornfels.core.drafts.weighing import in_short, weigh_edit
from hornfels.core.resolution.engine import resolve
from hornfels.core.values.time import DAY, moment_from_datetime
from hornfels.formats.dump import Dump

from conftest import DEMO_NOW  # isort: skip

NOW = moment_from_datetime(DEMO_NOW)
NOTHING = Impact(0, 0, 0, 0, (), (), 0, (), (), 0, 0, Besides(0, 0, 0), ())


@given(
    st.integers(-1, 7),
    st.integers(0, 30),
    st.sampled_from([None, 10 * DAY, 400 * DAY]),
    st.sampled_from([None, 1, 29, 90]),
)
def test_it_comes_to_what_the_draft_comes_to(
    demo: Dump, policy: int, length: int, max_age: int | None, precedence: int | None
) -> None:
    estate, resolution = demo.estate, resolve(demo.estate)
    held = estate.policies[policy] if policy >= 0 else None
    before = held.settings if held else estate.domain.settings
    settings = replace(before, min_length=length, max_age=max_age)
    weighed = weigh_edit(estate, resolution, policy, settings, precedence, NOW)
    changes = {
        key: Change(before=getattr(before, key), after=getattr(settings, key))
        for key in ("min_length", "max_age")
        if getattr(before, key) != getattr(settings, key)
    }
    operations: list[Operation] = (
        [EditSettings(policy=held.guid if held else "domain", changes=changes)] if changes else []
    )
    if held and precedence is not None and precedence != held.precedence:
        operations.append(SetPrecedence(policy=held.guid, before=held.precedence, after=precedence))
    drafted = apply(estate, tuple(operations)).estate
    assert weighed == impact(estate, resolution, drafted, resolve(drafted), NOW)


@pytest.mark.parametrize(
    ("told", "said"),
    [
        (NOTHING, "Hits nobody today."),
        (
            replace(NOTHING, hit=1, stronger=1, expire_at_once=1),
            "Hits 1 account: stronger for 1; 1 password expires at once.",
        ),
        (
            replace(
                NOTHING,
                hit=1200,
                accounts=6,
                weaker=1200,
                weaker_privileged=(1, 2),
                expire_at_once=2,
            ),
            (
                "Hits 1,200 accounts: 6 change policy; weaker for 1,200, 2 of them "
                "administrators; 2 passwords expire at once."
            ),
        ),
    ],
)
def test_whom_it_hits_is_said(told: Impact, said: str) -> None:
    assert in_short(told) == said
