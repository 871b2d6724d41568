"""Findings about what single policies say."""

from __future__ import annotations

from collections.abc import Iterator

from hornfels.core.domain.estate import Estate
from hornfels.core.domain.wording import name_in_sentence, ref_of
from hornfels.core.findings.finding import Finding, Mend
from hornfels.core.policy.catalogue import SettingKey, Value
from hornfels.core.policy.model import expires, until_unlocked
from hornfels.core.resolution.engine import DOMAIN_POLICY, Resolution
from hornfels.core.values.time import DAY

LONG_ENOUGH_FOR_EVER = 15
"""Characters below which a password that never expires is worth a word; our own choice."""


def settings_at_odds(estate: Estate, resolution: Resolution) -> Iterator[Finding]:
    for policy in (*resolution.order, DOMAIN_POLICY):
        s = estate.policies[policy].settings if policy >= 0 else estate.domain.settings
        count, name, identity = (
            resolution.governed(policy),
            name_in_sentence(estate, policy),
            ref_of(estate, policy),
        )
        if not count:
            continue

        def mend(label: str, values: dict[SettingKey, Value], policy: int = policy) -> Mend | None:
            return Mend(policy, label, values) if policy >= 0 else None

        if s.reversible_encryption:
            yield Finding(
                f"reversible:{identity}",
                "reversible",
                "high",
                f"{name} stores passwords readably",
                (
                    "Reversible encryption is almost as weak as plain text: whoever copies the "
                    "directory reads the passwords."
                ),
                policy,
                count,
                "reversible_encryption",
                mend=mend("Turn reversible encryption off", {"reversible_encryption": False}),
            )
        if 0 < s.lockout_threshold <= 2:
            yield Finding(
                f"threshold:{identity}",
                "threshold",
                "medium",
                f"{name} locks after {s.lockout_threshold} bad tries",
                (
                    "One or two typing mistakes lock a person out. It also lets anyone lock "
                    "everybody out with little effort."
                ),
                policy,
                count,
                "lockout_threshold",
            )
        if s.lockout_threshold == 0:
            yield Finding(
                f"lockout:{identity}",
                "lockout",
                "low",
                f"{name} never locks",
                (
                    "Nothing limits how often passwords can be guessed. That can be right for "
                    "services; for people it seldom is."
                ),
                policy,
                count,
                "lockout_threshold",
            )
        if (
            s.lockout_threshold > 0
            and not until_unlocked(s.lockout_duration)
            and s.lockout_window > (s.lockout_duration or 0)
        ):
            longer = mend(
                "Shorten the window to the duration", {"lockout_window": s.lockout_duration}
            )
            yield Finding(
                f"window:{identity}",
                "window",
                "medium",
                f"{name} has a window longer than its lock",
                (
                    "The specification forbids it: a lock would end before the bad tries that "
                    "made it are forgotten."
                ),
                policy,
                count,
                "lockout_window",
                mend=longer,
            )
        if s.history_length > 0 and s.min_age <= 0:
            fits = not expires(s.max_age) or (s.max_age or 0) > DAY
            yield Finding(
                f"history:{identity}",
                "history",
                "medium",
                f"{name} remembers passwords but lets them be changed at once",
                f"With a minimum age of 0, {s.history_length} quick changes bring a "
                "favourite back within minutes. "
                "The history does nothing.",
                policy,
                count,
                "min_age",
                mend=mend("Set the minimum age to 1 d", {"min_age": DAY}) if fits else None,
            )
        if not expires(s.max_age) and s.min_length < LONG_ENOUGH_FOR_EVER:
            yield Finding(
                f"forever:{identity}",
                "forever",
                "medium",
                f"{name} never expires passwords of {s.min_length} characters",
                "A password that lasts for ever has to be long enough to outlast the guessing. "
                f"Below {LONG_ENOUGH_FOR_EVER} characters it is not.",
                policy,
                count,
                "max_age",
            )


def unguarded(estate: Estate) -> Iterator[Finding]:
    for policy in (n for n, p in enumerate(estate.policies) if not p.guarded):
        yield Finding(
            f"unguarded:{ref_of(estate, policy)}",
            "unguarded",
            "low",
            f"{name_in_sentence(estate, policy)} is not guarded against deletion",
            (
                "A slip can delete it, and its accounts fall to the next policy at once. The "
                "guard costs one more step on purpose."
            ),
            policy,
            0,
            mend=Mend(policy, "Guard it", guard=True),
        )
