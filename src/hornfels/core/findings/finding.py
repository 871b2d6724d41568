"""What a finding is."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Literal

from hornfels.core.policy.catalogue import SettingKey, Value

Severity = Literal["high", "medium", "low"]
SEVERITIES: tuple[Severity, ...] = ("high", "medium", "low")


@dataclass(frozen=True, slots=True)
class Mend:
    """An edit of one policy that mends a finding: new values in ticks, a number, or the guard."""

    policy: int
    label: str
    settings: dict[SettingKey, Value] = field(default_factory=dict)
    precedence: int | None = None
    guard: bool = False


@dataclass(frozen=True, slots=True)
class Finding:
    """One finding. ``key`` stays the same while its cause does; ``policy`` is None where none is to
    blame, −1 the domain policy.

    ``account`` names one of the accounts concerned where it is about accounts.
    """

    key: str
    kind: str
    severity: Severity
    title: str
    why: str
    policy: int | None
    accounts: int
    setting: str = ""
    account: str = ""
    mend: Mend | None = None
