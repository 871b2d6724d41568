"""Trials of candidates: whether every account gets the verdict that it must get."""

from __future__ import annotations

from collections.abc import Callable

from hornfels.core.domain.estate import Estate, Int64
from hornfels.core.passwords.characters import Candidate
from hornfels.core.passwords.folding import folded
from hornfels.core.passwords.judge import Verdict, judge
from hornfels.core.passwords.rulebook import Rules
from hornfels.core.passwords.rules.blocked import own_names
from hornfels.core.passwords.rules.own_name import OwnName, name_parts
from hornfels.core.passwords.rules.rule import ANYBODY, Occasion, subject_of
from hornfels.core.trials.trial import Trial
from hornfels.core.values.dn import fold

_RESET = Occasion("reset", 0, 0)


def _moment(trial: Trial) -> Occasion:
    # Long after the present one was set: the calendar is no matter.
    return Occasion("change", 1 << 60, 1, (trial.present,)) if trial.present else _RESET


def unmet(trial: Trial, estate: Estate, rules: Rules, rows: Int64) -> int | None:
    """The first of these accounts, all under one policy, that gets another verdict; None if none
    does.
    """
    nameless = judge(rules, trial.candidate, ANYBODY, _moment(trial))
    met = _meets(trial, nameless)
    # Only names tell the accounts of one policy apart, and only where they can turn the verdict.
    if nameless.accepted or trial.rule:
        suspect = _suspected(estate, rules, Candidate(trial.candidate))
        if suspect:
            return next(
                (
                    row
                    for row in rows.tolist()
                    if not (
                        _meets(trial, _verdict(trial, estate, rules, row)) if suspect(row) else met
                    )
                ),
                None,
            )
    return None if met else int(rows[0])


def told(trial: Trial, estate: Estate, rules: Rules, row: int) -> str:
    """What becomes of the candidate at an account, after its name."""
    verdict = _verdict(trial, estate, rules, row)
    if verdict.accepted:
        return "it is accepted"
    return "it is refused by " + " and ".join(verdict.refused_by).replace("_", " ")


def _verdict(trial: Trial, estate: Estate, rules: Rules, row: int) -> Verdict:
    return judge(rules, trial.candidate, subject_of(estate, row), _moment(trial))


def _suspected(estate: Estate, rules: Rules, candidate: Candidate) -> Callable[[int], bool] | None:
    """A quick look whether an account's names may be in the candidate, which suspects a few too
    many; None where no rule looks for names.
    """
    accounts = estate.accounts
    if any(rule.key == "names" for rule in rules):
        look = _pieces(candidate.look) | _pieces(candidate.look[::-1])

        def among_all(row: int) -> bool:
            return any(folded(name) in look for name in own_names(subject_of(estate, row)))

        return among_all
    if any(isinstance(rule, OwnName) and rule.on for rule in rules):
        pieces = _pieces(candidate.folded)

        def among_two(row: int) -> bool:
            return fold(accounts.name[row]) in pieces or not pieces.isdisjoint(
                name_parts(fold(accounts.display_name[row]))
            )

        return among_two
    return None


def _pieces(text: str) -> set[str]:
    return {
        text[start:end] for start in range(len(text)) for end in range(start + 2, len(text) + 1)
    }


def _meets(trial: Trial, verdict: Verdict) -> bool:
    if trial.expected == "accepted":
        return verdict.accepted
    return trial.rule in verdict.refused_by if trial.rule else not verdict.accepted
