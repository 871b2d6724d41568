"""What is proposed while a policy is written: adjustments mend what they are for, starting points
are sound.
"""

from __future__ import annotations

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hornfels.core.policy.catalogue import SettingKey
from hornfels.core.policy.dependencies import adjustments
from hornfels.core.policy.model import DEFAULTS, Settings, problems
from hornfels.core.policy.starting_points import STARTING_POINTS, StartingPoint
from hornfels.core.values.time import DAY, MINUTE, NEVER

spans = st.integers(0, 200).map(lambda n: n * MINUTE)
TIED: list[SettingKey] = [
    "lockout_threshold",
    "lockout_window",
    "lockout_duration",
    "min_age",
    "max_age",
]
ages = st.integers(0, 60).map(lambda n: n * DAY)


@given(
    st.builds(
        Settings,
        min_length=st.just(8),
        complexity=st.booleans(),
        history_length=st.just(1),
        reversible_encryption=st.just(False),
        min_age=ages,
        max_age=st.one_of(st.none(), ages.filter(bool)),
        lockout_threshold=st.integers(0, 5),
        lockout_window=spans,
        lockout_duration=st.one_of(st.none(), spans.filter(bool)),
    ),
    st.sampled_from(TIED),
)
def test_adjustments_mend_the_pair_they_belong_to_and_leave_the_rest(
    settings: Settings, changed: SettingKey
) -> None:
    found = adjustments(settings, changed)
    assert changed not in {c.key for c in found}
    mended = settings.changed({c.key: c.value for c in found})
    pair = {"min_age", "max_age"} if changed.endswith("_age") else {"lockout_window"}
    if changed == "lockout_threshold" and settings.lockout_threshold == 0:
        assert found == []
        return
    left = {p.field for p in problems(mended, 10) if p.severity == "error"} & pair
    # A window of 0 under a threshold is only mended from the threshold's side.
    assert not left or (mended.lockout_window == 0 and changed != "lockout_threshold")
    assert adjustments(mended, changed) == []


def test_what_fits_already_is_left_alone() -> None:
    assert adjustments(replace(DEFAULTS, lockout_threshold=5), "lockout_threshold") == []
    assert (
        adjustments(
            replace(DEFAULTS, lockout_duration=NEVER, lockout_window=9 * DAY), "lockout_window"
        )
        == []
    )


@pytest.mark.parametrize("point", STARTING_POINTS, ids=lambda p: p.key)
def test_starting_points_are_sound_and_give_reasons_for_what_they_choose(
    point: StartingPoint,
) -> None:
    assert [p for p in problems(point.settings, 10) if p.severity == "error"] == []
    assert set(point.reasons) <= set(vars(DEFAULTS))
    assert point.key == "new-domain" or len(point.reasons) >= 3
