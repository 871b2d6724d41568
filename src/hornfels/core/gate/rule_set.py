"""What has to be known to answer at the gate: of each policy what a candidate is judged by, and of
each account its names and its policy.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from hornfels.core.domain.account_state import addition_of, settings_of
from hornfels.core.domain.estate import EVERYONE_RID, Estate, Int32
from hornfels.core.policy.addition import Addition
from hornfels.core.resolution.engine import DOMAIN_POLICY, Resolution, winners_of
from hornfels.core.values.text import TextColumn


@dataclass(frozen=True)
class GatePolicy:
    """What of a policy is asked at the gate. ``name`` is "" for the domain policy."""

    name: str
    min_length: int
    complexity: bool
    addition: Addition | None


@dataclass(frozen=True, eq=False)
class RuleSet:
    """A domain as the gate looks at it. Policies are numbered as in the estate, the domain policy
    is the last one, so that −1 stands for it here too.
    """

    domain: str
    policies: tuple[GatePolicy, ...]
    names: TextColumn
    display_names: TextColumn
    other_names: TextColumn
    """More names of each account, one a line."""
    winners: Int32
    """The policy of each account."""
    newcomers: int
    """The policy of an account that is just being made."""
    lists: tuple[str, ...]
    """The lists of blocked terms that policies name, as far as they are there."""


def rule_set_of(estate: Estate, resolution: Resolution) -> RuleSet:
    """What the gate has to know of an estate."""
    accounts = estate.accounts
    policies = tuple(_policy(estate, n) for n in (*range(len(estate.policies)), DOMAIN_POLICY))
    named = frozenset[str]().union(*(p.addition.lists for p in policies if p.addition))
    return RuleSet(
        estate.domain.dns_name,
        policies,
        accounts.name,
        accounts.display_name,
        accounts.other_names,
        resolution.winner_of_account,
        _newcomers(estate, resolution),
        tuple(name for name in estate.domain.term_lists if name in named),
    )


def _policy(estate: Estate, policy: int) -> GatePolicy:
    settings = settings_of(estate, policy)
    name = "" if policy == DOMAIN_POLICY else estate.policies[policy].name
    return GatePolicy(name, settings.min_length, settings.complexity, addition_of(estate, policy))


def _newcomers(estate: Estate, resolution: Resolution) -> int:
    """The best of the policies that everybody's group brings."""
    rows = np.flatnonzero(estate.groups.rid == EVERYONE_RID)
    if not len(rows) or not estate.fine_grained_possible:
        return DOMAIN_POLICY
    brought = resolution.group_sets[rows[:1]]
    none, exempt = np.zeros_like(brought), np.zeros(1, dtype=np.bool_)
    return int(winners_of(none, brought, exempt, resolution.order)[0])
