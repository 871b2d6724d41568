"""A baseline: recommendations from one source, and who is meant by each."""

from __future__ import annotations

import fnmatch
import re
from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Literal

import numpy as np

from hornfels.core.baselines.conditions import Condition
from hornfels.core.domain.estate import KERBEROS_SERVICE_RID, TRUST_BITS, Bools, Estate
from hornfels.core.domain.privileged import privileged
from hornfels.core.policy.catalogue import SettingKey, Value

Who = Literal["everybody", "people", "privileged", "service", "kiosk"]
WHO: dict[Who, str] = {
    "everybody": "everybody",
    "people": "people",
    "privileged": "privileged accounts",
    "service": "service accounts",
    "kiosk": "kiosks",
}
"""Whom a recommendation may be for, in words."""


@dataclass(frozen=True, slots=True)
class Known:
    """By what accounts of a kind are known: patterns (``*``, ``?``) of their own names and of
    groups they are in, at any depth.
    """

    names: tuple[str, ...] = ()
    groups: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Recommendation:
    """``when`` says for which settings it is meant at all; ``sets`` is what closes a gap."""

    key: str
    text: str
    who: Who
    wants: Condition
    when: Condition | None = None
    sets: Mapping[SettingKey, Value] = field(default_factory=dict)
    rationale: str = ""
    effect: str = ""
    source: str = ""


@dataclass(frozen=True, slots=True)
class Baseline:
    name: str
    title: str
    about: str
    recommendations: tuple[Recommendation, ...]
    known: Mapping[Who, Known] = field(default_factory=dict)


def members(estate: Estate, known: Mapping[Who, Known]) -> dict[Who, Bools]:
    """Who each kind of accounts is. Computers, trusts and the Kerberos service belong to none;
    privileged accounts are people too, unless they are services.
    """
    accounts = estate.accounts
    machine = (accounts.control & np.uint32(TRUST_BITS)) != 0
    someone: Bools = ~(machine | (accounts.rid == KERBEROS_SERVICE_RID))
    service = _known_by(estate, known.get("service", Known())) & someone
    kiosk = _known_by(estate, known.get("kiosk", Known())) & someone & ~service
    served = _known_by(estate, known.get("privileged", Known())) | privileged(estate)
    return {
        "everybody": someone,
        "people": someone & ~service & ~kiosk,
        "privileged": served & someone,
        "service": service,
        "kiosk": kiosk,
    }


def _known_by(estate: Estate, known: Known) -> Bools:
    found = np.zeros(len(estate.accounts), dtype=np.bool_)
    by_name, by_group = _pattern(known.names), _pattern(known.groups)
    if by_name:
        names = (by_name.match(name) is not None for name in estate.accounts.name)
        found |= np.fromiter(names, dtype=np.bool_, count=len(found))
    if by_group:
        for row, name in enumerate(estate.groups.name):
            if by_group.match(name):
                found[estate.memberships.accounts_below(row)] = True
    return found


def _pattern(patterns: tuple[str, ...]) -> re.Pattern[str] | None:
    if not patterns:
        return None
    return re.compile("|".join(map(fnmatch.translate, patterns)), re.IGNORECASE)
