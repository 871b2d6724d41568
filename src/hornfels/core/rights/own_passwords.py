"""Passwords that users of Hornfels may have: judged by the rules for directory accounts."""

from __future__ import annotations

from hornfels.core.passwords.additions import Lists, compile_addition
from hornfels.core.passwords.judge import Verdict, judge
from hornfels.core.passwords.rules.length import Length
from hornfels.core.passwords.rules.rule import Occasion, Subject
from hornfels.core.policy.addition import Addition, OwnNames, Repeat, Run

MIN_LENGTH = 15
"""Minimum length in characters of a password that is the only factor (NIST SP 800-63B-4, 3.1.1.2,
which also rules out composition rules).
"""

_ADDITION = Addition(password=(OwnNames(reversed=True), Repeat(3), Run(4)))
_RULES = (Length(MIN_LENGTH), *compile_addition(_ADDITION, Lists()))


def judged(name: str, password: str) -> Verdict:
    """Return the verdict on a password of the user who signs in by this name. No part of the name
    may be part of the password.
    """
    return judge(_RULES, password, Subject(name, name), Occasion("reset", now=0, password_set=0))
