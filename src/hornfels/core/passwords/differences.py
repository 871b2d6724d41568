"""Why a directory may say otherwise of a candidate than the rules do (docs/rules.md)."""

from __future__ import annotations

from hornfels.core.passwords.characters import Candidate
from hornfels.core.passwords.judge import Verdict

UNEXPLAINED = "Nothing known explains it. Trust the directory, and please report it."


def explained(verdict: Verdict, candidate: Candidate, *, accepted: bool) -> str:
    """The choice of servers that accounts for the difference; "" where there is none."""
    if verdict.accepted == accepted:
        return ""
    if accepted and set(verdict.refused_by) == {"own_name"}:
        return "Own names: the specification refuses them, and some servers check none."
    by_groups = not accepted or "complexity" in verdict.refused_by
    if by_groups and candidate.variety.lenient:
        return (
            "Character groups: some servers put every other character outside of ASCII into the "
            "fifth group."
        )
    if by_groups and not candidate.text.isascii():
        return "Upper and lower: servers may hold older tables of letters."
    return UNEXPLAINED
