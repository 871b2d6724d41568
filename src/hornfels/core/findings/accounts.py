"""Findings about accounts."""

from __future__ import annotations

import re
from collections.abc import Iterator

import numpy as np

from hornfels.core.domain.estate import TRUST_BITS, Bools, Control, Estate
from hornfels.core.findings.finding import Finding
from hornfels.core.policy.model import expires
from hornfels.core.resolution.engine import Resolution

_SERVICE = re.compile(r"^(svc|sa|srv|bot)[-_.]", re.IGNORECASE)


def flags(estate: Estate, resolution: Resolution, privileged: Bools) -> Iterator[Finding]:
    control = estate.accounts.control
    enabled = np.equal(control & (Control.DISABLED | TRUST_BITS), 0)
    policies = [*(p.settings for p in estate.policies), estate.domain.settings]
    expiring = np.array([expires(s.max_age) for s in policies])[resolution.winner_of_account]
    cases = (
        (
            "never",
            Control.NEVER_EXPIRES,
            expiring,
            "have passwords set never to expire",
            (
                "The account's own flag undoes the maximum age. Such passwords are the ones that "
                "are found years later."
            ),
        ),
        (
            "blank",
            Control.NO_PASSWORD_REQUIRED,
            enabled,
            "may have a blank password",
            (
                "The flag 'no password required' lets an operator set no password at all. The "
                "policy's length does not stop it."
            ),
        ),
        (
            "readable",
            Control.REVERSIBLE_ENCRYPTION,
            enabled,
            "have their password stored readably",
            "The account's own flag asks for reversible encryption whatever the policy says.",
        ),
    )
    for key, bit, where, title, why in cases:
        rows = np.flatnonzero(np.not_equal(control & bit, 0) & enabled & where)
        if not len(rows):
            continue
        admins = int(np.count_nonzero(privileged[rows]))
        whom = (
            ""
            if not admins
            else (
                f" {admins:,} of them "
                f"{'belongs to an administrator' if admins == 1 else 'belong to administrators'}."
            )
        )
        first = rows[np.argmax(privileged[rows])]
        yield Finding(
            f"flag:{key}",
            f"flag-{key}",
            "high" if admins or key == "readable" else "medium",
            (
                f"{len(rows):,} account{'s' * (len(rows) != 1)} "
                f"{title if len(rows) != 1 else _of_one(title)}"
            ),
            why + whom,
            None,
            len(rows),
            account=estate.accounts.name[int(first)],
        )


def _of_one(title: str) -> str:
    return title.replace("have passwords", "has a password").replace("have their", "has its")


def services(estate: Estate, resolution: Resolution) -> Iterator[Finding]:
    """Accounts named like services whose policy locks or expires them; a name is all that a
    directory tells.
    """
    names = estate.accounts.name
    policies = [*(p.settings for p in estate.policies), estate.domain.settings]
    bites = np.array([s.lockout_threshold > 0 or expires(s.max_age) for s in policies])[
        resolution.winner_of_account
    ]
    candidates = np.flatnonzero(bites & np.equal(estate.accounts.control & TRUST_BITS, 0))
    rows = [row for row in candidates.tolist() if _SERVICE.match(names[row])]
    if rows:
        one = len(rows) == 1
        yield Finding(
            "services",
            "services",
            "medium",
            f"{len(rows):,} service account{'' if one else 's'} can lock or expire",
            f"Going by {'its name' if one else 'their names'}, "
            f"{names[rows[0]]}{'' if one else ' and others'} "
            f"{'is a service' if one else 'are services'} under a policy for people. A "
            "guesser or the calendar can stop "
            f"{'it' if one else 'them'}.",
            None,
            len(rows),
            account=names[rows[0]],
        )
