"""May this password be set for this account? The gate's answer (domain rules §5 and §9).

It judges what can be told from the candidate: length, complexity with own names, and the addition.
Earlier passwords and the minimum age stay with the directory, which knows them as they are now.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import cache
from typing import Literal

from hornfels.core.domain.estate import UNKNOWN_TIME
from hornfels.core.gate.rule_set import RuleSet
from hornfels.core.passwords.additions import Lists, compile_addition
from hornfels.core.passwords.characters import length
from hornfels.core.passwords.judge import Verdict, judge
from hornfels.core.passwords.rules.complexity import Complexity
from hornfels.core.passwords.rules.length import Length
from hornfels.core.passwords.rules.own_name import OwnName
from hornfels.core.passwords.rules.rule import Occasion, Rule, Subject
from hornfels.core.values.time import Span

GateOperation = Literal["change", "reset", "create", "unknown"]
"""The person's own change, somebody else's reset, a new account, or one of these, which the caller
cannot tell.
"""


@dataclass(frozen=True, slots=True)
class Inquiry:
    """What is asked at the gate. ``display_name`` and ``names`` are what the caller knows the
    account by; they add to what was read. ``present`` is the password that a change replaces.

    ``complexity_left``: whoever asks leaves the check of complexity to the gate, so that it is made
    whatever was read of the policy.
    """

    account: str
    operation: GateOperation
    candidate: str = field(repr=False)
    present: str | None = field(default=None, repr=False)
    display_name: str = ""
    names: tuple[str, ...] = ()
    complexity_left: bool = False


@dataclass(frozen=True, slots=True)
class GateAnswer:
    """What the rules say, by the policy of which name ("" for the domain policy), and whether the
    account is one that was read. ``lifetime`` is how long the password lives by its band, in ticks;
    None without bands.
    """

    verdict: Verdict
    policy: str
    known: bool
    lifetime: Span

    @property
    def rules(self) -> tuple[str, ...]:
        """What it is refused for, as ``rule`` or ``path rule``."""
        return tuple(dict.fromkeys(f"{f.path} {f.rule}".strip() for f in self.verdict.refusals))


class Gate:
    """A rule set, ready to answer. `lists` are what its rules look things up in."""

    def __init__(self, rules: RuleSet, lists: Lists) -> None:
        self._rules = rules

        @cache
        def beyond(policy: int) -> tuple[Rule, ...]:
            addition = rules.policies[policy].addition
            return compile_addition(addition, lists) if addition else ()

        self._beyond = beyond

    def make_ready(self) -> None:
        """Compile what every policy asks, and make names quick to find: seconds for lists of a
        million terms or as many accounts, which otherwise the first ones to ask would wait for.
        """
        self._rules.names.expect_many()
        for policy in range(len(self._rules.policies)):
            self._beyond(policy - 1)

    def __call__(self, inquiry: Inquiry) -> GateAnswer:
        """The answer; the same question has the same one."""
        found = self._rules.names.find(inquiry.account)
        row = int(found[0]) if len(found) else None
        policy = self._rules.newcomers if row is None else int(self._rules.winners[row])
        held = self._rules.policies[policy]
        complexity = held.complexity or inquiry.complexity_left
        own = Length(held.min_length), Complexity(complexity), OwnName(complexity)
        said = judge(
            (*own, *self._beyond(policy)),
            inquiry.candidate,
            self._subject(inquiry, row),
            _occasion(inquiry),
        )
        lifetime = None
        if held.addition and said.accepted:
            lifetime = held.addition.lifetime(length(inquiry.candidate))
        return GateAnswer(said, held.name, row is not None, lifetime)

    def _subject(self, inquiry: Inquiry, row: int | None) -> Subject:
        if row is None:
            return Subject(inquiry.account, inquiry.display_name, inquiry.names)
        rules = self._rules
        others = filter(None, (*rules.other_names[row].split("\n"), *inquiry.names))
        display_name = inquiry.display_name or rules.display_names[row]
        return Subject(rules.names[row], display_name, tuple(dict.fromkeys(others)))


def _occasion(inquiry: Inquiry) -> Occasion:
    """What closeness needs; nothing that is judged here hangs on the moment."""
    own = inquiry.operation == "change" or (
        inquiry.operation == "unknown" and inquiry.present is not None
    )
    previous = (inquiry.present,) if own and inquiry.present is not None else None
    return Occasion("change" if own else "reset", 0, UNKNOWN_TIME, previous)
