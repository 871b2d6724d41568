"""Blocked terms ready to be looked for, made once for all who judge by the same lists."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Mapping

from sqlalchemy import Engine
from sqlalchemy.orm import Session

from hornfels.core.passwords.additions import TermsOf
from hornfels.core.passwords.terms import Terms
from hornfels.core.policy.term_lists import TermList
from hornfels.store import terms

MOST_TERMS = 2_000_000
"""Terms kept ready: with all that belongs to it one takes some 300 bytes."""

_Key = tuple[int, tuple[tuple[str, str], ...]]


class TermShelf:
    """Terms by the domain, and the names and digests of their lists; those longest not asked for go
    first.
    """

    def __init__(self, engine: Engine) -> None:
        self._engine = engine
        self._held: OrderedDict[_Key, Terms] = OrderedDict()
        self._lock = threading.Lock()

    def of(self, domain_id: int, lists: Mapping[str, TermList]) -> TermsOf:
        """The terms of a domain that has these lists."""

        def found(names: tuple[str, ...]) -> Terms | None:
            if any(name not in lists for name in names):
                return None
            return self._terms((domain_id, tuple((name, lists[name].digest) for name in names)))

        return found

    def _terms(self, key: _Key) -> Terms:
        domain_id, lists = key
        # Seconds for a million terms: who comes meanwhile waits for the same.
        with self._lock:
            held = self._held.get(key)
            if held is None:
                with Session(self._engine) as session:
                    held = Terms(
                        (name, terms.of_digest(session, domain_id, digest))
                        for name, digest in lists
                    )
                self._held[key] = held
            self._held.move_to_end(key)
            while len(self._held) > 1 and sum(map(len, self._held.values())) > MOST_TERMS:
                self._held.popitem(last=False)
            return held
