"""Running a trial on everybody whom it is about."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from hornfels.core.domain.estate import Estate, Int64
from hornfels.core.passwords.rulebook import Rulebook
from hornfels.core.resolution.engine import Resolution
from hornfels.core.trials import candidates, stories
from hornfels.core.trials.trial import Trial


@dataclass(frozen=True, slots=True)
class Outcome:
    """``met`` is None where there is nobody to try it on; ``account`` is the row of one for whom it
    goes otherwise, −1 if there is none, and ``told`` how it goes there.
    """

    met: bool | None
    accounts: int
    account: int = -1
    told: str = ""


def run(
    trial: Trial, estate: Estate, resolution: Resolution, rows: Int64, rules: Rulebook
) -> Outcome:
    """Whether it goes as expected for every account in `rows` under an estate, and if not, for whom
    it does not. `rules` are those of the estate.
    """
    if not len(rows):
        return Outcome(None, 0)
    under = resolution.winner_of_account[rows]
    for policy in np.unique(under).tolist():
        if trial.story:
            found = stories.unmet(trial, estate, policy, rows[under == policy])
        else:
            found = candidates.unmet(trial, estate, rules[policy], rows[under == policy])
        if found is not None:
            told = (
                stories.told(trial, estate, policy)
                if trial.story
                else candidates.told(trial, estate, rules[policy], found)
            )
            return Outcome(False, len(rows), found, told)
    return Outcome(True, len(rows))


def sentence(outcome: Outcome, estate: Estate) -> str:
    """What came of a trial, for people."""
    if outcome.met is None:
        return (
            "Nobody is there any more to try it on. Drop the trial, or point a new one at "
            "somebody else."
        )
    if outcome.account < 0:
        return (
            "As expected."
            if outcome.accounts == 1
            else f"As expected for all {outcome.accounts:,} accounts."
        )
    return f"For {estate.accounts.name[outcome.account]} {outcome.told}."
