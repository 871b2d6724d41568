"""What policies are called, by their number in an estate (negative for the domain policy)."""

from __future__ import annotations

from hornfels.core.domain.estate import Estate
from hornfels.core.policy.model import PolicyRef


def name_of(estate: Estate, policy: int) -> str:
    """Its name as a heading."""
    return estate.policies[policy].name if policy >= 0 else "Domain policy"


def name_in_sentence(estate: Estate, policy: int) -> str:
    """Its name at the beginning of a sentence."""
    return estate.policies[policy].name if policy >= 0 else "The domain policy"


def ref_of(estate: Estate, policy: int) -> PolicyRef:
    return estate.policies[policy].guid if policy >= 0 else "domain"
