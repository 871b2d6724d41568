"""Accounts on the bench: what does not change from one keystroke to the next is made once."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass, field, replace
from typing import Any, TypeVar

from hornfels.api.snapshot import Snapshot
from hornfels.api.views import policy_guid, policy_mark, policy_name
from hornfels.core.domain.account_state import flag_effects
from hornfels.core.domain.estate import UNKNOWN_TIME
from hornfels.core.passwords.judge import Judge, Verdict
from hornfels.core.passwords.rules.rule import ANYBODY, Occasion, Rule, Subject, subject_of

MOST_SEATS = 10_000
"""Accounts that a snapshot keeps ready."""

Said = TypeVar("Said")
Column = dict[str, Any]
"""An `AttemptColumn` as plain data."""


@dataclass
class Seat:
    """An account, or anybody under a policy, with the rules it is under. ``head`` is what no
    candidate changes of its column.
    """

    subject: Subject
    password_set: int
    rules: tuple[Rule, ...]
    head: Column
    _latest: tuple[Occasion, Judge[Column]] | None = field(default=None, repr=False)

    def judge(self, moment: Occasion, render: Callable[[Verdict], Said]) -> Judge[Said]:
        """The seat's policy ready to judge. A moment without a time set takes the account's own."""
        if moment.password_set == UNKNOWN_TIME:
            moment = replace(moment, password_set=self.password_set)
        return Judge(self.rules, self.subject, moment, render)

    def column(self, moment: Occasion) -> Judge[Column]:
        """Judges to whole columns. Kept for the same moment: who types sends many candidates in one
        second.

        Earlier passwords are not kept, not even for that second.
        """
        if moment.previous is not None:
            return self.judge(moment, self._column)
        latest = self._latest
        if latest is None or latest[0] != moment:
            latest = self._latest = moment, self.judge(moment, self._column)
        return latest[1]

    def _column(self, verdict: Verdict) -> Column:
        rules = [
            {
                "rule": f.rule,
                "label": rule.label,
                "status": f.status,
                "detail": f.detail,
                "repair": f.repair,
                "noted": f.noted,
            }
            for rule, f in zip(self.rules, verdict.judgements, strict=True)
        ]
        return {
            **self.head,
            "accepted": verdict.accepted,
            "certain": verdict.certain,
            "told": verdict.told,
            "rules": rules,
        }


def ready(current: Snapshot, accounts: Iterable[str]) -> bool:
    """Whether `seat_of` has an answer for these accounts at hand, without a search through all
    names.
    """
    return all(name in current.seats for name in accounts)


def seat_of(current: Snapshot, account: str) -> Seat | None:
    """An account's seat, None if there is no such account."""
    seat = current.seats.get(account)
    if seat is None:
        row = current.estate.find_account(account)
        if row is None:
            return None
        if len(current.seats) >= MOST_SEATS:
            current.seats.clear()
        seat = current.seats[account] = _seat_at(current, row)
    return seat


def _seat_at(current: Snapshot, row: int) -> Seat:
    accounts = current.estate.accounts
    policy = int(current.resolution.winner_of_account[row])
    password_set = int(accounts.password_set[row])
    subject = subject_of(current.estate, row)
    flags = [e._asdict() for e in flag_effects(int(accounts.control[row]), password_set)]
    head = {
        "account": subject.name,
        "display_name": subject.display_name,
        "flags": flags,
        **_of_policy(current, policy),
    }
    return Seat(subject, password_set, current.rules[policy], head)


def seat_under(current: Snapshot, policy: int) -> Seat:
    """The seat of somebody without a name under a policy."""
    head = {"account": None, "display_name": "", "flags": [], **_of_policy(current, policy)}
    return Seat(ANYBODY, UNKNOWN_TIME, current.rules[policy], head)


def _of_policy(current: Snapshot, policy: int) -> Column:
    return {
        "policy": policy_guid(current, policy),
        "policy_name": policy_name(current, policy),
        "mark": policy_mark(current, policy),
    }
