"""What each rule of an addition does: a candidate that it alone refuses, and how much of what
people choose it refuses (domain rules §9).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from random import Random

from hornfels.core.passwords.additions import OnPath
from hornfels.core.passwords.breaking import Drawn, breaking, refused_alone
from hornfels.core.passwords.characters import Candidate
from hornfels.core.passwords.judge import Verdict, compile_policy, judge
from hornfels.core.passwords.rules.rule import (
    ANYBODY,
    Judgement,
    Occasion,
    Operation,
    Rule,
    Subject,
)
from hornfels.core.policy.addition import Addition, PathName
from hornfels.core.policy.addition_words import said
from hornfels.core.policy.model import Settings

MOST_DRAWS = 200
EXAMPLE = Subject("ilse.varga", "Varga, Ilse")
"""Somebody made up, for rules that look at names."""


@dataclass(frozen=True, slots=True)
class RuleEffect:
    """``example`` is a candidate that the rule alone refuses, on a change of ``present`` where that
    matters; None where none was found. ``refused`` counts those of a sample that it refuses,
    ``alone`` those that no other rule of its path, and none of the directory's own, does.
    """

    path: PathName
    number: int
    key: str
    said: str
    example: str | None = field(repr=False)
    present: str | None = field(repr=False)
    repair: str
    refused: int
    alone: int


@dataclass(frozen=True, slots=True)
class Effects:
    """``sample`` candidates were tried: the directory's own rules refuse ``natively`` of them, all
    together ``altogether``.
    """

    rules: tuple[RuleEffect, ...]
    sample: int
    natively: int
    altogether: int


def effects(
    settings: Settings,
    addition: Addition,
    beyond: Sequence[Rule],
    sample: Sequence[str],
    random: Random,
) -> Effects:
    """What the rules of an addition do under a policy. `beyond` are they, compiled; `sample` are
    passwords as people choose them, held against them as an operator would set them.
    """
    rules = (*compile_policy(settings), *beyond)
    moment = Occasion("reset", 0, 0)
    asked = [(rule, rule.ask(ANYBODY, moment)) for rule in rules]
    paths = list(addition.paths())
    places = [(path, number) for path, ones in paths for number in range(len(ones))]
    natives = len(rules) - len(places)
    refused, alone = [0] * len(places), [0] * len(places)
    natively = altogether = 0
    for text in sample:
        candidate = Candidate(text)
        judgements = tuple(
            one if isinstance(one, Judgement) else one.judge(candidate) for _, one in asked
        )
        failed = [f.status == "failed" for f in judgements]
        native = any(failed[:natives])
        natively += native
        altogether += not Verdict(judgements).accepted
        for place, (path, _) in enumerate(places):
            if not failed[natives + place]:
                continue
            refused[place] += 1
            beside = sum(f for f, (p, _) in zip(failed[natives:], places, strict=True) if p == path)
            alone[place] += not native and beside == 1
    compiled = iter(rule for rule in beyond if isinstance(rule, OnPath))
    found = []
    for place, (path, number) in enumerate(places):
        ones = dict(paths)[path]
        example, judgement = _example(
            settings, addition, rules, next(compiled), path, number, random
        )
        found.append(
            RuleEffect(
                path,
                number,
                ones[number].key,
                said(ones[number]),
                example.text if example else None,
                example.present if example else None,
                judgement.repair if judgement else "",
                refused[place],
                alone[place],
            )
        )
    return Effects(tuple(found), len(sample), natively, altogether)


def _example(
    settings: Settings,
    addition: Addition,
    rules: Sequence[Rule],
    rule: OnPath,
    path: PathName,
    number: int,
    random: Random,
) -> tuple[Drawn | None, Judgement | None]:
    asked = dict(addition.paths())[path]
    ways = breaking(settings, asked, number, rule, EXAMPLE)
    for turn in range(MOST_DRAWS if ways else 0):
        drawn = ways[turn % len(ways)](random)
        if drawn is None:
            continue
        operation: Operation = "reset" if drawn.present is None else "change"
        moment = Occasion(operation, 1 << 60, 0, [drawn.present] if drawn.present else None)
        verdict = judge(rules, drawn.text, EXAMPLE, moment)
        if refused_alone(verdict, path, number):
            return drawn, [f for f in verdict.judgements if f.path == path][number]
    return None, None
