"""The Tarnholt Sky Survey's 14 dome machines, which no domain policy reaches: what each said of its
accounts over the last weeks. Three differ by now, and the file of one was cut off on its way.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import NamedTuple

from hornfels.core.policy.catalogue import Template
from hornfels.core.values.time import DAY, MINUTE
from hornfels.formats.template import write_template

SET = "Dome machines"
NAMES = tuple(f"DOME-{number:02}" for number in range(1, 15))

_AGREED: Template = {
    "min_length": 14,
    "complexity": True,
    "history_length": 24,
    "reversible_encryption": False,
    "min_age": DAY,
    "max_age": 365 * DAY,
    "lockout_threshold": 10,
    "lockout_window": 15 * MINUTE,
    "lockout_duration": 15 * MINUTE,
    "audit_length": 16,
}
_EARLIER: Template = {**_AGREED, "min_length": 8, "max_age": 90 * DAY}
_NO_LOCKOUT = ("lockout_window", "lockout_duration")
_UNAUDITED: Template = {key: value for key, value in _AGREED.items() if key != "audit_length"}
_UNLOCKED: Template = {key: value for key, value in _AGREED.items() if key not in _NO_LOCKOUT}
_ODD: dict[str, Template] = {
    "DOME-03": {**_AGREED, "min_length": 8, "complexity": False},
    "DOME-09": {**_UNLOCKED, "lockout_threshold": 0},
    "DOME-12": {**_UNAUDITED, "max_age": None},
}
_CUT_OFF = "DOME-07"
_REST = """[Unicode]
Unicode=yes
[System Access]
NewAdministratorName = "keeper"
EnableGuestAccount = 0
[Event Audit]
AuditSystemEvents = 3
AuditLogonEvents = 3
[Version]
signature="$CHICAGO$"
Revision=1
"""


class Found(NamedTuple):
    """A machine's file as it was found so many days ago."""

    days_ago: int
    name: str
    file: bytes


def readings() -> Iterator[Found]:
    """Every reading, the oldest first."""
    for days_ago, since in ((40, 0), (26, 6), (12, 14)):
        for number, name in enumerate(NAMES):
            yield Found(days_ago, name, _file(_AGREED if number < since else _EARLIER))
    for name in NAMES:
        file = _file(_ODD.get(name, _AGREED))
        if name == _CUT_OFF:
            whole = file.decode("utf-16")
            file = whole[: whole.index("= 24")].encode("utf-16")
        yield Found(1, name, file)


def _file(template: Template) -> bytes:
    return write_template(template, _REST.replace("\n", "\r\n").encode("utf-16"))
