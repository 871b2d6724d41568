"""How far an estate follows a baseline: an answer for each recommendation, by account."""

from __future__ import annotations

from typing import Literal, NamedTuple

import numpy as np
import numpy.typing as npt

from hornfels.core.baselines.baseline import Baseline, Recommendation, members
from hornfels.core.baselines.conditions import ENDLESS, Condition, measure, measured_text
from hornfels.core.domain.account_state import effective_settings, settings_of
from hornfels.core.domain.estate import TRUST_BITS, Bools, Control, Estate, Int64
from hornfels.core.policy.catalogue import BY_KEY, SettingKey
from hornfels.core.policy.model import Settings
from hornfels.core.resolution.engine import Resolution

State = Literal["met", "not met", "cannot tell", "not applicable"]
STATES: tuple[State, ...] = ("not met", "cannot tell", "met", "not applicable")
"""The gravest first: what the answer for many is."""
_NOT_MET, _CANNOT_TELL, _MET, _NOT_APPLICABLE = range(4)

_BENDING = np.uint32(
    Control.REVERSIBLE_ENCRYPTION | Control.NEVER_EXPIRES | Control.SMART_CARD_REQUIRED | TRUST_BITS
)
"""The flags of an account that bend its settings (`effective_settings`)."""


class Assessment(NamedTuple):
    """What comes of one recommendation. ``of_account`` holds a place in `STATES` for each row;
    ``by_population`` how many accounts of each population are in each of `STATES`; ``policies`` the
    numbers of those that leave it unmet for somebody, −1 for the domain policy.
    """

    recommendation: Recommendation
    state: State
    of_account: npt.NDArray[np.int8]
    by_population: Int64
    measured: str
    policies: tuple[int, ...]

    @property
    def unmet(self) -> Bools:
        """The accounts for which it is not met."""
        found: Bools = self.of_account == _NOT_MET
        return found

    @property
    def accounts(self) -> dict[State, int]:
        """How many accounts are in each state."""
        return dict(zip(STATES, self.by_population.sum(axis=0).tolist(), strict=True))


class _Kinds(NamedTuple):
    """The few kinds of accounts that settings tell apart: policy and flags; ``of`` is the kind of
    each row.
    """

    settings: list[Settings]
    of: Int64


def assess(baseline: Baseline, estate: Estate, resolution: Resolution) -> list[Assessment]:
    """Answers for every recommendation, in the baseline's order."""
    kinds = _kinds(estate, resolution)
    who = members(estate, baseline.known)
    return [_assess(one, kinds, who[one.who], resolution) for one in baseline.recommendations]


def _kinds(estate: Estate, resolution: Resolution) -> _Kinds:
    winner = resolution.winner_of_account.astype(np.int64)
    packed = ((winner + 1) << 32) | (estate.accounts.control & _BENDING)
    distinct, of = np.unique(packed, return_inverse=True)
    settings = [
        effective_settings(settings_of(estate, (one >> 32) - 1), one & 0xFFFFFFFF)
        for one in distinct.tolist()
    ]
    return _Kinds(settings, of.astype(np.int64))


def _assess(
    recommendation: Recommendation, kinds: _Kinds, who: Bools, resolution: Resolution
) -> Assessment:
    of_kind = np.array([_state(recommendation, s) for s in kinds.settings], dtype=np.int8)
    of_account = np.where(who, of_kind[kinds.of], np.int8(_NOT_APPLICABLE)).astype(np.int8)
    populations = len(resolution.winners)
    place = resolution.population.astype(np.int64) * len(STATES) + of_account
    counts = np.bincount(place, minlength=populations * len(STATES))
    by_population = counts.reshape(populations, len(STATES)).astype(np.int64)
    total = by_population.sum(axis=0)
    state: State = next((STATES[n] for n in range(3) if total[n]), "not applicable")
    shown = of_account == (_NOT_MET if total[_NOT_MET] else _MET)
    if state == "cannot tell":
        shown = of_account == _CANNOT_TELL
    seen = [kinds.settings[n] for n in np.unique(kinds.of[shown]).tolist()]
    unmet = np.unique(resolution.winner_of_account[of_account == _NOT_MET])
    return Assessment(
        recommendation,
        state,
        of_account,
        by_population,
        _measured(recommendation.wants, seen),
        tuple(unmet.tolist()),
    )


def _state(recommendation: Recommendation, settings: Settings) -> int:
    meant = recommendation.when.holds(settings) if recommendation.when else True
    if meant is False:
        return _NOT_APPLICABLE
    held = recommendation.wants.holds(settings)
    if meant is None or held is None:
        return _CANNOT_TELL
    return _MET if held else _NOT_MET


def _measured(wants: Condition, seen: list[Settings]) -> str:
    """What the settings that matter are, from the least to the most."""
    return "; ".join(_range(key, seen) for key in wants.settings()) if seen else ""


def _range(key: SettingKey, seen: list[Settings]) -> str:
    numbers = [measure(key, settings) for settings in seen]
    least, most = (measured_text(key, one) for one in (min(numbers), max(numbers)))
    if BY_KEY[key].kind == "count" and max(numbers) < ENDLESS:
        least = least.partition(" ")[0]  # the unit is said once
    words = f"{least} to {most}" if min(numbers) < max(numbers) else most
    return f"{BY_KEY[key].label.lower()} {words}"
