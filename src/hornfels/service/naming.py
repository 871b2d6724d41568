"""What policies and populations of a snapshot are called in addresses and in words."""

from __future__ import annotations

import hashlib
from uuid import UUID

from hornfels.core.domain.estate import Estate
from hornfels.core.domain.wording import name_of, ref_of
from hornfels.core.resolution.engine import DOMAIN_POLICY, Stack, policies_in
from hornfels.service.snapshots import Snapshot


def policy_name(current: Snapshot, policy: int) -> str:
    return name_of(current.estate, policy)


def policy_ref(current: Snapshot, policy: int) -> str:
    """The policy's GUID, “domain” for the domain policy."""
    return str(ref_of(current.estate, policy))


def policy_number(current: Snapshot, key: str) -> int | None:
    """The policy with a GUID as in the address, “domain” for the domain policy; None if there is
    none.
    """
    if key == "domain":
        return DOMAIN_POLICY
    try:
        return current.index.get(UUID(key))
    except ValueError:
        return None


def policy_mark(current: Snapshot, policy: int) -> int | None:
    return current.meta[current.estate.policies[policy].guid].mark if policy >= 0 else None


def population_key(estate: Estate, stack: Stack) -> str:
    """A name for a population that stays the same while its stack does, whatever else changes."""
    parts = [
        ",".join(sorted(str(estate.policies[p].guid) for p in policies_in(bits)))
        for bits in (stack.direct, stack.group)
    ]
    return hashlib.sha256("|".join([*parts, str(stack.exempt)]).encode()).hexdigest()[:12]
