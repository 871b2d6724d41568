"""The policies of an estate compiled to rules, each when it is first asked for."""

from __future__ import annotations

from hornfels.core.domain.account_state import addition_of, settings_of
from hornfels.core.domain.estate import Estate
from hornfels.core.domain.sources import audit_length
from hornfels.core.passwords.additions import Lists, compile_addition
from hornfels.core.passwords.judge import compile_policy
from hornfels.core.passwords.rules.rule import Rule
from hornfels.core.resolution.engine import DOMAIN_POLICY

Rules = tuple[Rule, ...]


class Rulebook:
    """The rules of each policy by its number, those of the domain policy under −1: the directory's
    own, then those of the addition.
    """

    def __init__(self, estate: Estate, lists: Lists | None = None) -> None:
        """`lists` are what rules look things up in; none are at hand without."""
        self._estate = estate
        self._lists = lists or Lists()
        self._compiled: dict[int, Rules] = {}

    def __getitem__(self, policy: int) -> Rules:
        found = self._compiled.get(policy)
        if found is None:
            found = self._compiled[policy] = (*self.native(policy), *self.beyond(policy))
        return found

    def native(self, policy: int) -> Rules:
        """The directory's own rules. Only the domain policy can have an audit length."""
        length = audit_length(self._estate.domain) if policy == DOMAIN_POLICY else None
        return compile_policy(settings_of(self._estate, policy), audit_length=length)

    def beyond(self, policy: int) -> Rules:
        """The rules of the addition."""
        addition = addition_of(self._estate, policy)
        return compile_addition(addition, self._lists) if addition else ()
