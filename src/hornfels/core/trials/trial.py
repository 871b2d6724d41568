"""Trials: an invented candidate with the verdict it must get, or a story of tries with what must
become of it, for an account, a population or a group.

A candidate is judged as an operator reset, or as one's own change of a password that is invented
too, by what a policy asks of the password itself: the answer changes with the policies and not with
the calendar, so that it can be run again on every draft.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Literal

import numpy as np

from hornfels.core.domain.estate import Estate, Int64
from hornfels.core.resolution.engine import Resolution
from hornfels.core.values.dn import DnError, dn_key

TargetKind = Literal["account", "population", "group"]
Expected = Literal["accepted", "refused", "locks", "stays_open"]
"""What must become of a candidate, or of a story: whether it ever locks the account."""


Refuser = Literal[
    "",
    "length",
    "complexity",
    "own_name",
    "groups",
    "count",
    "edge",
    "forbid",
    "repeat",
    "run",
    "walk",
    "blocked",
    "names",
    "closeness",
    "pattern",
    "words",
]
"""The rules that a trial can name, those of additions too: what they say hangs on the candidate and
the account alone. Empty for any.
"""


@dataclass(frozen=True, slots=True)
class Trial:
    """``target`` is an account's name (of which "population" takes the whole population) or a
    group's distinguished name.

    ``rule`` names the rule that must refuse, or is empty where any may. Where there is a ``story``,
    in our notation, there is no candidate.
    """

    candidate: str = field(repr=False)
    kind: TargetKind
    target: str
    expected: Expected
    rule: str = ""
    story: str = ""
    present: str = field(default="", repr=False)
    """The password, invented too, that the candidate takes the place of by one's own change; "" for
    an operator's reset.
    """


def targets(trial: Trial, estate: Estate, live: Estate, resolution: Resolution) -> Int64:
    """Rows of the accounts that a trial is about. A population is that of `live`: a draft must not
    talk itself out of it.
    """
    if trial.kind == "group":
        try:
            wanted = dn_key(trial.target)
        except DnError:
            return np.empty(0, dtype=np.int64)
        row = next(
            (
                n
                for n in estate.groups.dn.find(trial.target).tolist()
                if dn_key(estate.groups.dn[n]) == wanted
            ),
            None,
        )
        return (
            np.empty(0, dtype=np.int64)
            if row is None
            else np.sort(estate.memberships.accounts_below(row)).astype(np.int64)
        )
    found = live.find_account(trial.target)
    if found is None:
        return np.empty(0, dtype=np.int64)
    if trial.kind == "account":
        return np.array([found], dtype=np.int64)
    return np.flatnonzero(resolution.population == resolution.population[found])
