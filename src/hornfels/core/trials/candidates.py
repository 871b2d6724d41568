"""Trials of candidates: whether every account gets the verdict that it must get."""

from __future__ import annotations

from hornfels.core.domain.account_state import settings_of
from hornfels.core.domain.estate import Estate, Int64
from hornfels.core.passwords.characters import Candidate
from hornfels.core.passwords.judge import Verdict, compile_policy, judge
from hornfels.core.passwords.rules.own_name import name_parts
from hornfels.core.passwords.rules.rule import ANYBODY, Occasion, Rule, subject_of
from hornfels.core.trials.trial import Trial
from hornfels.core.values.dn import fold

_MOMENT = Occasion("reset", 0, 0)


def unmet(trial: Trial, estate: Estate, policy: int, rows: Int64) -> int | None:
    """The first of these accounts under a policy that gets another verdict; None if none does."""
    candidate = Candidate(trial.candidate)
    settings = settings_of(estate, policy)
    rules = compile_policy(settings)
    nameless = judge(rules, trial.candidate, ANYBODY, _MOMENT)
    # Only the own name tells the accounts of one policy apart, and only where it can turn the
    # verdict.
    if settings.complexity and (nameless.accepted or trial.rule == "own_name"):
        return _first_unmet(trial, estate, rules, candidate, rows)
    return None if _meets(trial, nameless) else int(rows[0])


def told(trial: Trial, estate: Estate, policy: int, row: int) -> str:
    """What becomes of the candidate at an account, after its name."""
    rules = compile_policy(settings_of(estate, policy))
    verdict = judge(rules, trial.candidate, subject_of(estate, row), _MOMENT)
    if verdict.accepted:
        return "it is accepted"
    return "it is refused by " + " and ".join(verdict.refused_by).replace("_", " ")


def _first_unmet(
    trial: Trial, estate: Estate, rules: tuple[Rule, ...], candidate: Candidate, rows: Int64
) -> int | None:
    """The first account with another verdict, where only the own name can turn it."""
    nameless = _meets(trial, judge(rules, trial.candidate, ANYBODY, _MOMENT))
    folded, names, display_names = (
        candidate.folded,
        estate.accounts.name,
        estate.accounts.display_name,
    )
    pieces = {
        folded[start:end]
        for start in range(len(folded))
        for end in range(start + 2, len(folded) + 1)
    }
    for row in rows.tolist():
        # A quick look that suspects a few too many: most names have nothing to do with the
        # candidate.
        suspect = fold(names[row]) in pieces or not pieces.isdisjoint(
            name_parts(fold(display_names[row]))
        )
        if not (
            _meets(trial, judge(rules, trial.candidate, subject_of(estate, row), _MOMENT))
            if suspect
            else nameless
        ):
            return int(row)
    return None


def _meets(trial: Trial, verdict: Verdict) -> bool:
    if trial.expected == "accepted":
        return verdict.accepted
    return trial.rule in verdict.refused_by if trial.rule else not verdict.accepted
