"""Whom Hornfels may have choose another password at the next sign-in."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np

from hornfels.core.domain.estate import (
    KERBEROS_SERVICE_RID,
    TRUST_BITS,
    Bools,
    Control,
    Estate,
    Int64,
)

ADMINISTRATOR_RID = 500
_NEVER_THESE = (ADMINISTRATOR_RID, KERBEROS_SERVICE_RID)
_NO_END = Control.NEVER_EXPIRES | Control.SMART_CARD_REQUIRED | TRUST_BITS


def may_be_told(estate: Estate, rows: Int64, spared: Iterable[str]) -> Bools:
    """Which accounts may be told to: never those that are `spared` by name or DN, nor the built-in
    administrator, since somebody has to be able to sign in and mend what went wrong, nor what
    Kerberos rests on, nor those whose flags say never. Those who must already, and of whom it is
    not known when the password was set, are not told once more.
    """
    accounts = estate.accounts
    never = [row for one in spared if (row := estate.find_account(one)) is not None]
    endless = (accounts.control[rows] & np.uint32(_NO_END)) != 0
    endless |= np.isin(accounts.rid[rows], _NEVER_THESE) | np.isin(rows, never)
    told: Bools = ~endless & (accounts.password_set[rows] > 0)
    return told
