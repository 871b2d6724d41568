"""Starting points of our own for new policies, each setting with its reason."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

from hornfels.core.policy.catalogue import SettingKey
from hornfels.core.policy.model import DEFAULTS, Settings
from hornfels.core.values.time import DAY, HOUR, MINUTE, NEVER

StartKey = Literal["new-domain", "privileged", "services", "kiosks", "everyone"]


@dataclass(frozen=True, slots=True)
class StartingPoint:
    """A set of settings for one kind of account. ``reasons`` says why, setting by setting."""

    key: StartKey
    label: str
    settings: Settings
    reasons: dict[SettingKey, str]


STARTING_POINTS: tuple[StartingPoint, ...] = (
    StartingPoint("new-domain", "What a new domain starts with", DEFAULTS, {}),
    StartingPoint(
        "privileged",
        "Privileged people",
        replace(
            DEFAULTS,
            min_length=20,
            history_length=24,
            min_age=DAY,
            max_age=180 * DAY,
            lockout_threshold=8,
            lockout_window=30 * MINUTE,
            lockout_duration=NEVER,
        ),
        {
            "min_length": "Twenty characters invite a passphrase and outlast offline guessing.",
            "max_age": (
                "Half a year limits how long a stolen password is of use without teaching people "
                "to count up."
            ),
            "lockout_threshold": "Eight tries forgive typing; guessing at that rate gets nowhere.",
            "lockout_duration": (
                "Until unlocked: a locked administrator is worth a look by somebody."
            ),
        },
    ),
    StartingPoint(
        "services",
        "Service accounts",
        replace(
            DEFAULTS,
            min_length=30,
            history_length=5,
            min_age=0,
            max_age=NEVER,
            lockout_threshold=0,
            lockout_window=30 * MINUTE,
            lockout_duration=30 * MINUTE,
        ),
        {
            "min_length": (
                "Nobody types it, so it can be long: thirty random characters cannot be guessed."
            ),
            "min_age": "None, so that a leaked password can be replaced twice in a day.",
            "max_age": (
                "Never: an expiry nobody sees stops the service. Change it on a plan instead."
            ),
            "lockout_threshold": "Never locks: anybody who knows the name could stop the service.",
        },
    ),
    StartingPoint(
        "kiosks",
        "Shared kiosks",
        replace(
            DEFAULTS,
            min_length=10,
            history_length=12,
            min_age=HOUR,
            max_age=90 * DAY,
            lockout_threshold=10,
            lockout_window=5 * MINUTE,
            lockout_duration=5 * MINUTE,
        ),
        {
            "min_length": (
                "Ten characters can be typed on a stand; the accounts should be allowed little."
            ),
            "max_age": "A quarter: people who left still know it until then.",
            "lockout_threshold": "Ten tries and a short lock: strangers stand in front of it.",
        },
    ),
    StartingPoint(
        "everyone",
        "Everyone else",
        replace(
            DEFAULTS,
            min_length=14,
            history_length=24,
            min_age=DAY,
            max_age=365 * DAY,
            lockout_threshold=10,
            lockout_window=15 * MINUTE,
            lockout_duration=15 * MINUTE,
        ),
        {
            "min_length": "Fourteen characters do more than any rule about symbols.",
            "max_age": "A year: short ages teach people to count up.",
            "lockout_threshold": (
                "Ten tries in a quarter of an hour stop guessing without flooding the help desk."
            ),
        },
    ),
)


def starting_point(key: StartKey) -> StartingPoint:
    return next(point for point in STARTING_POINTS if point.key == key)
