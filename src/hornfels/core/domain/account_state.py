"""What an account's own flags make of its policy, and when its password expires (domain
rules §3).
"""

from __future__ import annotations

from dataclasses import replace
from typing import Any, Literal, NamedTuple

import numpy as np

from hornfels.core.domain.estate import (
    TRUST_BITS,
    UNKNOWN_TIME,
    Accounts,
    Bools,
    Control,
    Estate,
    Int64,
)
from hornfels.core.policy.addition import Addition
from hornfels.core.policy.model import Settings, expires, until_unlocked
from hornfels.core.values.time import NEVER, Span

ExpiryKind = Literal["never", "now", "at", "unknown"]


class Expiry(NamedTuple):
    """When a password expires: ``at`` is a moment in ticks for the kind "at", else 0."""

    kind: ExpiryKind
    at: int
    reason: str

    def at_moment(self, now: int) -> ExpiryKind:
        """How it stands at a moment: what has expired by then has to be changed now."""
        return "now" if self.kind == "at" and self.at <= now else self.kind


def expiry(control: int, password_set: int, max_age: Span) -> Expiry:
    """When the password expires, by the account's flags, the moment it was set and the policy's
    maximum age.
    """
    if control & Control.NEVER_EXPIRES:
        return Expiry("never", 0, "The account is flagged 'password never expires'.")
    if control & Control.SMART_CARD_REQUIRED:
        return Expiry("never", 0, "The account signs in with a smart card.")
    if control & TRUST_BITS:
        return Expiry("never", 0, "Computer and trust accounts change their own passwords.")
    if password_set == 0:
        return Expiry("now", 0, "Must change at next sign-in.")
    if max_age is NEVER or not expires(max_age):
        return Expiry("never", 0, "The policy has no maximum age.")
    if password_set == UNKNOWN_TIME:
        return Expiry("unknown", 0, "When the password was set was not read.")
    return Expiry("at", password_set + max_age, "")


EXPIRES_NEVER = np.iinfo(np.int64).max
"""Stands in a column of moments for a password that never expires, and in one of spans for no end.
"""


def expiry_moments(accounts: Accounts, max_age: Int64) -> Int64:
    """`expiry` for every account at once, in ticks: 0 for "must change now", `UNKNOWN_TIME` where
    the moment is not known.

    ``max_age`` holds each account's maximum age in ticks, `EXPIRES_NEVER` for none.
    """
    by_flag = (
        accounts.control
        & np.uint32(Control.NEVER_EXPIRES | Control.SMART_CARD_REQUIRED | TRUST_BITS)
    ) != 0
    ends = np.full(len(accounts), EXPIRES_NEVER, dtype=np.int64)
    aged = ~by_flag & (max_age < EXPIRES_NEVER)
    known = aged & (accounts.password_set > 0) & (max_age < EXPIRES_NEVER - accounts.password_set)
    ends[known] = accounts.password_set[known] + max_age[known]
    ends[aged & (accounts.password_set == UNKNOWN_TIME)] = UNKNOWN_TIME
    ends[~by_flag & (accounts.password_set == 0)] = 0
    return ends


class FlagEffect(NamedTuple):
    """A flag that bends the policy: its name, the setting it undoes (or "") and what it does."""

    flag: str
    setting: str
    effect: str


_EFFECTS = (
    (
        Control.DISABLED,
        "Disabled",
        "",
        "Nobody can sign in; the policy still applies when it is enabled again.",
    ),
    (
        Control.NO_PASSWORD_REQUIRED,
        "No password required",
        "min_length",
        "May be given a blank password.",
    ),
    (
        Control.REVERSIBLE_ENCRYPTION,
        "Reversible encryption",
        "reversible_encryption",
        "Stored readably, whatever the policy says.",
    ),
    (Control.NEVER_EXPIRES, "Password never expires", "max_age", "The maximum age does not apply."),
    (
        Control.SMART_CARD_REQUIRED,
        "Smart card required",
        "max_age",
        "Signs in with a smart card; the password does not expire.",
    ),
)


def flag_effects(control: int, password_set: int) -> list[FlagEffect]:
    """What the account's flags do to its policy."""
    found = [
        FlagEffect(name, setting, effect)
        for bit, name, setting, effect in _EFFECTS
        if control & bit
    ]
    if password_set == 0:
        found.append(
            FlagEffect(
                "Must change now", "max_age", "The password has to be changed at the next sign-in."
            )
        )
    return found


def effective_settings(settings: Settings, control: int) -> Settings:
    """The settings in force for one account after its flags."""
    changes: dict[str, Any] = {}
    if control & Control.REVERSIBLE_ENCRYPTION:
        changes["reversible_encryption"] = True
    if control & (Control.NEVER_EXPIRES | Control.SMART_CARD_REQUIRED | TRUST_BITS):
        changes["max_age"] = NEVER
    return replace(settings, **changes) if changes else settings


class LockState(NamedTuple):
    """Whether an account is locked at a moment, and when the lock ends by itself (None: not by
    itself).
    """

    locked: bool
    since: int
    until: int | None


def lock_state(settings: Settings, lockout_time: int, now: int) -> LockState:
    """The lock of an account at a moment (domain rules §6)."""
    if lockout_time <= 0 or settings.lockout_threshold == 0:
        return LockState(False, 0, None)
    if until_unlocked(settings.lockout_duration):
        return LockState(True, lockout_time, None)
    end = lockout_time + (settings.lockout_duration or 0)
    return LockState(now < end, lockout_time, end)


def locked(accounts: Accounts, lockable: Bools, duration: Int64, now: int) -> Bools:
    """`lock_state` for every account at once. ``duration`` in ticks, `EXPIRES_NEVER` for until an
    operator unlocks it.
    """
    since = accounts.lockout_time
    endless = duration == EXPIRES_NEVER
    held: Bools = lockable & (since > 0) & (endless | (now - since < duration))
    return held


def settings_of(estate: Estate, policy: int) -> Settings:
    """The settings of a policy by number, the domain policy's for a negative one."""
    return estate.domain.settings if policy < 0 else estate.policies[policy].settings


def addition_of(estate: Estate, policy: int) -> Addition | None:
    """What a policy by number asks beyond the directory's own rules."""
    return estate.domain.addition if policy < 0 else estate.policies[policy].addition
