"""What is known of the passwords that accounts have, in columns."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Literal, get_args

import numpy as np
from numpy.typing import NDArray

from hornfels.core.domain.estate import Accounts, Bools, Int32, Int64

Kind = Literal["list", "blank", "own name", "house term", "shared"]
"""It stands on a list, is blank, is made of one's own name or a term of the house, or others have
the same.
"""
KINDS: tuple[Kind, ...] = get_args(Kind)
SHARED = KINDS.index("shared")

MUST_CHANGE = 0
"""When a password was set that has to be changed at the next sign-in: that it must stands where
that stood.
"""


@dataclass(frozen=True, slots=True, eq=False)
class Known:
    """Things known of passwords, the newest first; all columns have the shape (things,).

    Whose it is by the row of the account, of which kind by its number among `KINDS`, on which list
    by its number among ``names``, which number those have who share it, and since when it is known,
    in ticks. An account comes once for each thing that is known of its password.
    """

    rows: Int64
    kinds: NDArray[np.int8]
    lists: Int32
    groups: Int64
    since: Int64
    names: tuple[str, ...]

    def __len__(self) -> int:
        return len(self.rows)

    def where(self, chosen: Bools | Int64) -> Known:
        """Some of them, in the order in which they stand or are chosen."""
        return Known(
            self.rows[chosen],
            self.kinds[chosen],
            self.lists[chosen],
            self.groups[chosen],
            self.since[chosen],
            self.names,
        )

    def of_kind(self, kind: Kind) -> Bools:
        """Which of them are of a kind."""
        found: Bools = self.kinds == KINDS.index(kind)
        return found

    @property
    def exposed(self) -> Known:
        """Those by which anybody could guess or read the password: all but that it is shared."""
        return self.where(self.kinds != SHARED)

    def counts(self) -> dict[str, int]:
        """Accounts by the kind of what is known, each once; how many are exposed at all, and how
        many groups share a password.
        """
        counts: dict[str, int] = {}
        for kind in KINDS:
            counts[kind] = len(np.unique(self.rows[self.of_kind(kind)]))
        groups = len(np.unique(self.groups[self.kinds == SHARED]))
        return {**counts, "exposed": len(np.unique(self.exposed.rows)), "groups": groups}

    def by(self, numbers: Int32 | Int64) -> dict[int, Known]:
        """Parted by a number that each account has, such as that of its policy, given by row."""
        mine = numbers[self.rows]
        order = np.argsort(mine, kind="stable")
        found, begins = np.unique(mine[order], return_index=True)
        parts = np.split(order, begins[1:])
        return {
            number: self.where(part) for number, part in zip(found.tolist(), parts, strict=False)
        }

    def earliest(self) -> tuple[Int64, Int64]:
        """The accounts, each once in the order of their rows, and since when the first thing of
        each is known.
        """
        # The newest first: from behind, the first one of an account is its oldest.
        rows, last = np.unique(self.rows[::-1], return_index=True)
        return rows, self.since[::-1][last]

    def sharing(self) -> Iterator[tuple[int, Int64]]:
        """The groups of accounts that share a password, by their numbers, the largest first.
        Somebody may have changed theirs since: nobody shares one alone.
        """
        shared = self.where(self.kinds == SHARED)
        order = np.lexsort((shared.rows, shared.groups))
        numbers, begins, sizes = np.unique(
            shared.groups[order], return_index=True, return_counts=True
        )
        for one in np.lexsort((numbers, -sizes)).tolist():
            if sizes[one] > 1:
                begin = int(begins[one])
                yield int(numbers[one]), shared.rows[order[begin : begin + int(sizes[one])]]


def still_known(
    accounts: Accounts,
    rids: Int64,
    set_at: Int64,
    kinds: NDArray[np.int8],
    lists: Sequence[str],
    groups: Int64,
    since: Int64,
) -> Known:
    """What still holds of all that was ever found, given in columns of one length: the account is
    there, and its password is the one that was set at that moment (ticks), also where it has to be
    changed by now.
    """
    order = np.argsort(accounts.rid, kind="stable")
    place = np.searchsorted(accounts.rid[order], rids)
    rows = order[np.minimum(place, len(order) - 1)] if len(order) else np.zeros(0, np.int64)
    there = np.flatnonzero(accounts.rid[rows] == rids) if len(order) else rows
    now = accounts.password_set[rows[there]]
    there = there[(now == set_at[there]) | (now == MUST_CHANGE)]
    there = there[np.lexsort((rows[there], -since[there]))]
    numbers = {name: number for number, name in enumerate(dict.fromkeys(lists))}
    return Known(
        rows[there].astype(np.int64),
        kinds[there],
        np.array([numbers[name] for name in lists], np.int32)[there],
        groups[there],
        since[there],
        tuple(numbers),
    )
