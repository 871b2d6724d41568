"""What is worth raising in an estate (domain rules §8): each finding with whom it concerns, why it
matters and what mends it.
"""

from __future__ import annotations

from hornfels.core.domain.estate import Estate
from hornfels.core.domain.privileged import privileged
from hornfels.core.findings.accounts import flags, services
from hornfels.core.findings.additions import Enforced, beyond_the_directory
from hornfels.core.findings.finding import SEVERITIES, Finding
from hornfels.core.findings.policies import settings_at_odds, unguarded
from hornfels.core.findings.precedence import crowded, ties
from hornfels.core.findings.reach import everyone, idle
from hornfels.core.findings.sources import group_policy_objects
from hornfels.core.findings.strength import direct_beats_stricter, weaker_than_domain
from hornfels.core.resolution.engine import Resolution


def findings(estate: Estate, resolution: Resolution, enforced: Enforced = "here") -> list[Finding]:
    """All findings, gravest first. `enforced` says where additions hold beyond Hornfels."""
    privileged_accounts = privileged(estate)
    found = [
        *ties(estate, resolution),
        *idle(estate, resolution),
        *everyone(estate, resolution),
        *direct_beats_stricter(estate, resolution),
        *weaker_than_domain(estate, resolution, privileged_accounts),
        *settings_at_odds(estate, resolution),
        *crowded(estate),
        *flags(estate, resolution, privileged_accounts),
        *services(estate, resolution),
        *group_policy_objects(estate),
        *unguarded(estate),
        *beyond_the_directory(estate, resolution, enforced),
    ]
    return sorted(found, key=lambda f: (SEVERITIES.index(f.severity), -f.accounts, f.key))
