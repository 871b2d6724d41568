"""Trials of stories: whether they lock, or never lock, every account that they happen to."""

from __future__ import annotations

from hornfels.core.domain.account_state import settings_of
from hornfels.core.domain.estate import Estate, Int64
from hornfels.core.lockout.notation import read_story
from hornfels.core.lockout.story import Played, play, sentence
from hornfels.core.trials.trial import Trial


def unmet(trial: Trial, estate: Estate, policy: int, rows: Int64) -> int | None:
    """The first of these accounts under a policy for which it goes otherwise, so all or none."""
    locks = bool(_played(trial, estate, policy).locks)
    return None if locks == (trial.expected == "locks") else int(rows[0])


def told(trial: Trial, estate: Estate, policy: int) -> str:
    """What becomes of the story under a policy, after an account's name."""
    said = sentence(_played(trial, estate, policy)).rstrip(".")
    return f"it {said[0].lower()}{said[1:]}"


def _played(trial: Trial, estate: Estate, policy: int) -> Played:
    return play(read_story(trial.story), settings_of(estate, policy))
