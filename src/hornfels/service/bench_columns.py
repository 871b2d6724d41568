"""Accounts on the bench: what does not change from one keystroke to the next is made once."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass, field, replace
from typing import Any, Literal, NamedTuple, TypeVar
from weakref import WeakKeyDictionary

from hornfels.core.domain.account_state import flag_effects
from hornfels.core.domain.estate import UNKNOWN_TIME
from hornfels.core.passwords.judge import Judge, Verdict
from hornfels.core.passwords.rules.rule import ANYBODY, Occasion, Rule, Subject, subject_of
from hornfels.service.naming import policy_mark, policy_name, policy_number, policy_ref
from hornfels.service.snapshots import Snapshot

MOST_AT_HAND = 10_000
"""Accounts that are kept ready for each snapshot."""

Said = TypeVar("Said")
Column = dict[str, Any]
"""An `AttemptColumn` as plain data."""


@dataclass
class OnBench:
    """An account, or anybody under a policy, with the rules it is under. ``head`` is what no
    candidate changes of its column.
    """

    subject: Subject
    password_set: int
    rules: tuple[Rule, ...]
    head: Column
    _latest: tuple[Occasion, Judge[Column]] | None = field(default=None, repr=False)

    def judge(self, moment: Occasion, render: Callable[[Verdict], Said]) -> Judge[Said]:
        """Its policy, ready to judge. A moment without a time set takes the
        account's own."""
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
                "path": f.path,
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


class Tried(NamedTuple):
    """An account by its name, or a policy by its key, that a candidate is tried on."""

    kind: Literal["account", "policy"]
    key: str


_HELD: WeakKeyDictionary[Snapshot, dict[Tried, OnBench]] = WeakKeyDictionary()
"""Accounts and policies that lay on the bench under a version."""


def _at_hand(current: Snapshot) -> dict[Tried, OnBench]:
    return _HELD.setdefault(current, {})


def at_hand(current: Snapshot, tried: Iterable[Tried]) -> bool:
    """Return whether `on_bench` has all of these at hand: without a search through all names, and
    without the database, where the rules of policies are read from at first.
    """
    return all(one in _at_hand(current) for one in tried)


def on_bench(current: Snapshot, tried: Tried) -> OnBench | None:
    """Return an account or a policy to be tried, None if the domain has none of this name."""
    found = _at_hand(current).get(tried)
    if found is None:
        make = _from_name if tried.kind == "account" else _from_policy
        found = make(current, tried.key)
        if found is None:
            return None
        if len(_at_hand(current)) >= MOST_AT_HAND:
            _at_hand(current).clear()
        _at_hand(current)[tried] = found
    return found


def account_on_bench(current: Snapshot, account: str) -> OnBench | None:
    """Return an account to be tried, None if there is no such account."""
    return on_bench(current, Tried("account", account))


def _from_name(current: Snapshot, account: str) -> OnBench | None:
    row = current.estate.find_account(account)
    return None if row is None else _from_row(current, row)


def _from_row(current: Snapshot, row: int) -> OnBench:
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
    return OnBench(subject, password_set, current.rules[policy], head)


def _from_policy(current: Snapshot, key: str) -> OnBench | None:
    """Return an account without a name under a policy, None if there is no such policy."""
    policy = policy_number(current, key)
    if policy is None:
        return None
    head = {"account": None, "display_name": "", "flags": [], **_of_policy(current, policy)}
    return OnBench(ANYBODY, UNKNOWN_TIME, current.rules[policy], head)


def _of_policy(current: Snapshot, policy: int) -> Column:
    return {
        "policy": policy_ref(current, policy),
        "policy_name": policy_name(current, policy),
        "mark": policy_mark(current, policy),
    }
