"""Which passwords the people of Hornfels itself may have: judged like anybody else's."""

from __future__ import annotations

from dataclasses import replace

from hornfels.core.passwords.judge import Verdict, compile_policy, judge
from hornfels.core.passwords.rules.rule import Occasion, Subject
from hornfels.core.policy.model import DEFAULTS

POLICY = replace(DEFAULTS, min_length=14, complexity=True, history_length=0, min_age=0)
"""For whoever can change what every password of a domain has to be."""

_RULES = compile_policy(POLICY)


def judged(name: str, password: str) -> Verdict:
    """What the policy for our own people says to a password of whoever signs in by this name; no
    part of the name may stand inside either.
    """
    return judge(_RULES, password, Subject(name, name), Occasion("reset", now=0, password_set=0))
