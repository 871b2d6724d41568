"""Failed sign-ins that Hornfels may cause at one account of a directory without locking the account
(domain rules §6).
"""

from __future__ import annotations

from typing import NamedTuple

from hornfels.core.values.time import MINUTE

LEFT_TO_THE_OWNER = 2
"""Failed attempts below the threshold that Hornfels never uses: the account locks at the threshold,
and the owner may mistype once at another place.
"""
_SHORTEST_WINDOW = MINUTE


class LockoutRule(NamedTuple):
    """The lockout rule of a policy: after ``threshold`` failed attempts (0: never), each less
    than ``window`` ticks after the one before.
    """

    threshold: int
    window: int


UNKNOWN = LockoutRule(3, 30 * MINUTE)
"""Stands for a policy that could not be read."""


class BindBudget(NamedTuple):
    """At most ``attempts`` failed attempts, each less than ``window`` ticks after the one before;
    None for no limit.
    """

    attempts: int | None
    window: int


def bind_budget(*rules: LockoutRule | None) -> BindBudget:
    """Return the budget that no one of the known `rules` makes too large: the policy as synced and
    the policy as the directory holds the policy now may differ.
    """
    known = [rule for rule in rules if rule is not None] or [UNKNOWN]
    locking = [rule for rule in known if rule.threshold > 0]
    if not locking:
        return BindBudget(None, _SHORTEST_WINDOW)
    attempts = max(0, min(rule.threshold for rule in locking) - LEFT_TO_THE_OWNER)
    return BindBudget(attempts, max(_SHORTEST_WINDOW, *(rule.window for rule in locking)))


class Binds(NamedTuple):
    """Failed attempts that Hornfels may have caused: how many, and the moment of the last."""

    failed: int = 0
    last: int = 0


def next_bind(binds: Binds, budget: BindBudget, now: int) -> tuple[Binds, int]:
    """Return what is kept once one more attempt may fail, and 0; or the same `binds` and the ticks
    to wait before the next attempt. Without any attempt in the budget the wait is a whole window.
    """
    # A clock that was set back must not make an account wait longer than a window.
    last = min(binds.last, now)
    goes_on = binds.failed > 0 and now - last < budget.window
    failed = binds.failed if goes_on else 0
    if budget.attempts is not None and failed >= budget.attempts:
        return binds._replace(last=last), (last if goes_on else now) + budget.window - now
    return Binds(failed + 1, now), 0
