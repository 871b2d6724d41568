"""Accounts that administer the domain."""

from __future__ import annotations

import numpy as np

from hornfels.core.domain.estate import Bools, Estate

_PRIVILEGED_RIDS = {512, 518, 519, 544}


def privileged(estate: Estate) -> Bools:
    """Accounts in the administrators' groups, at any depth."""
    inside = np.zeros(len(estate.accounts), dtype=np.bool_)
    for group in np.flatnonzero(
        np.isin(estate.groups.rid, list(_PRIVILEGED_RIDS)) & estate.groups.security
    ).tolist():
        inside[estate.memberships.accounts_below(group)] = True
    return inside
