"""Earlier locks of the two accounts that are locked in the invented domain: a steward's telephone
keeps trying the password of last month, and a keyholder has mistyped a long one before.
"""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from hornfels.core.domain.estate import Accounts
from hornfels.core.lockout.locked import Sighting
from hornfels.core.values.time import MINUTE

_TELEPHONE = (38, 77, 114, 151, 1_478, 1_516, 1_553, 2_921)
"""Minutes before the present lock: some in a row while it is in reach of the network."""
_KEYHOLDER = (6_530,)


def earlier_locks(accounts: Accounts) -> Iterator[tuple[Sighting, int]]:
    """Locks, each with the bad tries that led to it."""
    for row in np.flatnonzero(accounts.lockout_time > 0).tolist():
        name, present = accounts.name[row], int(accounts.lockout_time[row])
        tries = int(accounts.bad_count[row])
        for minutes in _KEYHOLDER if name.startswith("k-") else _TELEPHONE:
            yield Sighting(int(accounts.rid[row]), name, present - minutes * MINUTE), tries
