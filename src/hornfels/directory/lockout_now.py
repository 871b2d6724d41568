"""The lock and the lockout policy of an account, as the directory says just now."""

from __future__ import annotations

from dataclasses import dataclass

from hornfels.core.lockout.bind_budget import BindBudget, Binds, LockoutRule, next_bind
from hornfels.core.policy.catalogue import BY_KEY
from hornfels.core.values.time import TICKS_PER_SECOND
from hornfels.directory.link import Link, Values
from hornfels.directory.reach import DirectoryError

_LOCKED = 0x10
"""The bit UF_LOCKOUT of ``msDS-User-Account-Control-Computed`` ([MS-ADTS] 3.1.1.4.5.17)."""
_WAIT_WHILE_LOCKED_S = 60
_COMPUTED, _POLICY = "msDS-User-Account-Control-Computed", "msDS-ResultantPSO"


@dataclass(frozen=True, slots=True)
class LockoutNow:
    """The lock of an account, the failed attempts that the server has counted, and the lockout
    rule; None where the reader may not see the policy.
    """

    locked: bool
    failed: Binds
    rule: LockoutRule | None

    def wait(self, now: int) -> int:
        """Return the seconds before which Hornfels shows the account no password: while the account
        is locked, and where the next failed attempt could lock the account. ``now`` in ticks.
        """
        if self.locked:
            return _WAIT_WHILE_LOCKED_S
        if self.rule is None or self.rule.threshold <= 0:
            return 0
        budget = BindBudget(self.rule.threshold - 1, self.rule.window)
        return -(-next_bind(self.failed, budget, now)[1] // TICKS_PER_SECOND)


def lockout_now(link: Link, base: str, dn: str) -> LockoutNow:
    """Return the state of the account at `dn` in the domain at `base`. Raises `DirectoryError`."""
    found = link.entry(dn, [_COMPUTED, _POLICY, "lockoutTime", "badPwdCount", "badPasswordTime"])
    computed = _number(found, _COMPUTED)
    locked = (computed & _LOCKED if computed is not None else _number(found, "lockoutTime")) or 0
    failed = Binds(_number(found, "badPwdCount") or 0, _number(found, "badPasswordTime") or 0)
    policy = found.get(_POLICY.lower(), [b""])[0].decode("utf-8", "replace")
    return LockoutNow(bool(locked), failed, _rule(link, base, policy))


def _rule(link: Link, base: str, policy: str) -> LockoutRule | None:
    threshold, window = (BY_KEY[key] for key in ("lockout_threshold", "lockout_window"))
    names = (
        (threshold.pso_attribute, window.pso_attribute)
        if policy
        else (threshold.domain_attribute, window.domain_attribute)
    )
    try:
        held = link.there(policy or base, names)
    except DirectoryError:
        return None
    values = [_number(held or {}, name) for name in names]
    if values[0] is None:
        return None
    return LockoutRule(values[0], -(values[1] or 0))


def _number(values: Values, attribute: str) -> int | None:
    held = values.get(attribute.lower())
    return int(held[0]) if held else None
