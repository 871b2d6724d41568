"""Trials: invented candidates with the verdict that they must get, for an account, a population or
a group.

A trial is judged as an operator reset, by what a policy asks of the password itself: its answer
changes with the policies and not with the calendar, so that it can be run again on every draft.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Literal

import numpy as np

from hornfels.core.domain.account_state import settings_of
from hornfels.core.domain.estate import Estate, Int64
from hornfels.core.passwords.characters import Candidate
from hornfels.core.passwords.judge import Verdict, compile_policy, judge
from hornfels.core.passwords.rules.own_name import name_parts
from hornfels.core.passwords.rules.rule import ANYBODY, Occasion, Rule, subject_of
from hornfels.core.resolution.engine import Resolution
from hornfels.core.values.dn import DnError, dn_key, fold

TargetKind = Literal["account", "population", "group"]
Expected = Literal["accepted", "refused"]

TRIED_RULES = ("length", "complexity", "own_name")
"""The rules that a trial can name as the one that must refuse."""

_MOMENT = Occasion("reset", 0, 0)


@dataclass(frozen=True, slots=True)
class Trial:
    """``target`` is an account's name (of which "population" takes the whole population) or a
    group's distinguished name.

    ``rule`` names the rule that must refuse, or is empty where any may.
    """

    candidate: str = field(repr=False)
    kind: TargetKind
    target: str
    expected: Expected
    rule: str = ""


@dataclass(frozen=True, slots=True)
class Outcome:
    """``met`` is None where there is nobody to try it on; ``account`` is the row of one with
    another verdict, −1 if none has.
    """

    met: bool | None
    accounts: int
    account: int = -1
    verdict: Verdict | None = None


def targets(trial: Trial, estate: Estate, live: Estate, resolution: Resolution) -> Int64:
    """Rows of the accounts that a trial is about. A population is that of `live`: a draft must not
    talk itself out of it.
    """
    if trial.kind == "group":
        try:
            wanted = dn_key(trial.target)
        except DnError:
            return np.empty(0, dtype=np.int64)
        row = next(
            (
                n
                for n in estate.groups.dn.find(trial.target).tolist()
                if dn_key(estate.groups.dn[n]) == wanted
            ),
            None,
        )
        return (
            np.empty(0, dtype=np.int64)
            if row is None
            else np.sort(estate.memberships.accounts_below(row)).astype(np.int64)
        )
    found = live.find_account(trial.target)
    if found is None:
        return np.empty(0, dtype=np.int64)
    if trial.kind == "account":
        return np.array([found], dtype=np.int64)
    return np.flatnonzero(resolution.population == resolution.population[found])


def run(trial: Trial, estate: Estate, resolution: Resolution, rows: Int64) -> Outcome:
    """Whether every account in `rows` gets the expected verdict under an estate, and if not, one
    that does not.
    """
    if not len(rows):
        return Outcome(None, 0)
    candidate = Candidate(trial.candidate)
    under = resolution.winner_of_account[rows]
    for policy in np.unique(under).tolist():
        settings = settings_of(estate, policy)
        rules = compile_policy(settings)
        mine = rows[under == policy]
        nameless = judge(rules, trial.candidate, ANYBODY, _MOMENT)
        # Only the own name tells the accounts of one policy apart, and only where it can turn the
        # verdict.
        depends = settings.complexity and (nameless.accepted or trial.rule == "own_name")
        found = (
            _first_unmet(trial, estate, rules, candidate, mine)
            if depends
            else None
            if _meets(trial, nameless)
            else int(mine[0])
        )
        if found is not None:
            return Outcome(
                False,
                len(rows),
                found,
                judge(rules, trial.candidate, subject_of(estate, found), _MOMENT),
            )
    return Outcome(True, len(rows))


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


def sentence(outcome: Outcome, estate: Estate) -> str:
    """What came of a trial, for people."""
    if outcome.met is None:
        return (
            "Nobody is there any more to try it on. Drop the trial, or point a new one at "
            "somebody else."
        )
    if outcome.verdict is None:
        return (
            "As expected."
            if outcome.accounts == 1
            else f"As expected for all {outcome.accounts:,} accounts."
        )
    how = (
        "is accepted"
        if outcome.verdict.accepted
        else "is refused by " + " and ".join(outcome.verdict.refused_by).replace("_", " ")
    )
    return f"For {estate.accounts.name[outcome.account]} it {how}."
