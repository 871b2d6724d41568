"""The present estate of each domain, resolved and kept in memory for as long as the database holds
the same version of it.
"""

from __future__ import annotations

import threading
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any
from uuid import UUID

import numpy as np
from sqlalchemy import Engine, select
from sqlalchemy.orm import Session

from hornfels.core.baselines.assessing import Assessment
from hornfels.core.baselines.baseline import Baseline
from hornfels.core.domain.estate import Estate, Int32, Int64
from hornfels.core.domain.house_terms import house_terms
from hornfels.core.drafts.applying import Applied, Conflict, all_there, apply
from hornfels.core.drafts.operations import WHAT_IF, Operations, published
from hornfels.core.findings.additions import Enforced
from hornfels.core.findings.finding import Finding
from hornfels.core.findings.survey import findings
from hornfels.core.passwords.additions import Lists
from hornfels.core.passwords.rulebook import Rulebook
from hornfels.core.resolution.engine import Resolution, resolve
from hornfels.core.resolution.roster import Roster
from hornfels.core.resolution.shared_groups import SharedGroups
from hornfels.core.trials.running import run, sentence
from hornfels.core.trials.trial import Trial, targets
from hornfels.formats.corpus.shelf import Shelf
from hornfels.service.corpora import corpora
from hornfels.service.term_shelf import TermShelf
from hornfels.store import drafts, history
from hornfels.store.estates import linked_groups_of, load_domain, load_estate, load_policies
from hornfels.store.gate import kinds_of
from hornfels.store.models import DomainRow, PolicyRow
from hornfels.store.operations import UnreadableOperationsError


@dataclass(frozen=True)
class PolicyMeta:
    """What the store knows of a policy beyond the core's value."""

    mark: int
    changed_by: str
    changed_at: str


@dataclass(frozen=True)
class Told:
    """What came of a trial, for people. ``met`` is None where there is nobody to try it on;
    ``account`` has another verdict.
    """

    met: bool | None
    accounts: int
    said: str
    account: str | None


@dataclass(frozen=True, eq=False)
class Draft:
    """The draft a snapshot shows: its operations, those that do not fit live, and live itself."""

    id: int
    version: int
    operations: Operations
    conflicts: tuple[Conflict, ...]
    live: Snapshot


@dataclass(frozen=True, eq=False)
class Snapshot:
    """One domain at one version, as it is or as a draft would make it."""

    domain_id: int
    estate_id: int
    version: int
    source: str
    loaded_at: str
    notices: tuple[str, ...]
    approval_required: bool
    trials_required: bool
    gate: frozenset[str]
    """The kinds of callers that may ask at the gate (`hornfels.store.gate.CallerKind`)."""
    estate: Estate
    meta: dict[UUID, PolicyMeta]
    shelf: TermShelf
    corpora: Shelf
    pending: int
    """Publications that the directory does not hold yet."""
    draft: Draft | None = None

    @cached_property
    def resolution(self) -> Resolution:
        return resolve(self.estate)

    @cached_property
    def roster(self) -> Roster:
        return Roster(self.estate, self.resolution, self.draft.live.roster if self.draft else None)

    @cached_property
    def shared_groups(self) -> SharedGroups:
        return SharedGroups(self.estate, self.resolution)

    @cached_property
    def index(self) -> dict[UUID, int]:
        return {policy.guid: number for number, policy in enumerate(self.estate.policies)}

    @cached_property
    def findings(self) -> list[Finding]:
        """Seconds of work for a million accounts: see `hornfels.service.long_answers`."""
        return findings(self.estate, self.resolution, self.enforced)

    @cached_property
    def live_winners(self) -> Int32:
        """Every account's live policy by its number here: −1 for the domain policy, −2 for a policy
        that the draft removes.
        """
        live = self.draft.live if self.draft else self
        numbers = [self.index.get(p.guid, -2) for p in live.estate.policies]
        return np.array([*numbers, -1], dtype=np.int32)[live.resolution.winner_of_account]

    @cached_property
    def moved(self) -> Int64:
        """Rows of the accounts that the draft gives another policy."""
        return np.flatnonzero(self.live_winners != self.resolution.winner_of_account)

    @cached_property
    def house_terms(self) -> list[str]:
        """Terms to block, proposed from the names in the directory."""
        return house_terms(self.estate)

    @property
    def enforced(self) -> Enforced:
        """Where additions hold beyond Hornfels."""
        return "everywhere" if "filter" in self.gate else "hook" if "hook" in self.gate else "here"

    @cached_property
    def rules(self) -> Rulebook:
        """Every policy compiled."""
        return Rulebook(self.estate, self.lists)

    @property
    def lists(self) -> Lists:
        """What rules look things up in."""
        terms = self.shelf.of(self.domain_id, self.estate.domain.term_lists)
        return Lists(terms, self.corpora.exposed)

    @property
    def live(self) -> Snapshot:
        """The domain as it is, whichever is shown."""
        return self.draft.live if self.draft else self

    @cached_property
    def published(self) -> Snapshot:
        """The domain as it would be once the draft is published: without what it only tries out."""
        draft = self.draft
        if draft is None or not any(isinstance(op, WHAT_IF) for op in draft.operations):
            return self
        return replace(self, estate=apply(draft.live.estate, published(draft.operations)).estate)

    def outcome(self, trial: Trial) -> Told:
        """What comes of a trial here, run once for each version; on a million accounts it takes
        seconds.
        """
        found = self._outcomes.get(trial)
        if found is None:
            whom = targets(trial, self.estate, self.live.estate, self.live.resolution)
            outcome = run(trial, self.estate, self.resolution, whom, self.rules)
            account = self.estate.accounts.name[outcome.account] if outcome.account >= 0 else None
            found = self._outcomes[trial] = Told(
                outcome.met, outcome.accounts, sentence(outcome, self.estate), account
            )
        return found

    @cached_property
    def _outcomes(self) -> dict[Trial, Told]:
        return {}

    @cached_property
    def assessments(self) -> dict[str, tuple[Baseline, list[Assessment]]]:
        """What came of baselines here, by their names (see `hornfels.service.baselines`)."""
        return {}

    @cached_property
    def answers(self) -> dict[str, Any]:
        """What workers have found here, by the key of the job."""
        return {}


@dataclass(frozen=True)
class Tally:
    """What a draft does, in numbers: changes, those that do not fit, those that are so already; and
    whether nothing is left.
    """

    changes: int
    conflicts: int
    already: int
    all_there: bool


def tallied(live: Estate, operations: Operations, applied: Applied) -> Tally:
    already = sum(c.already for c in applied.conflicts)
    return Tally(
        len(operations), len(applied.conflicts) - already, already, all_there(live, applied)
    )


MOST_TALLIES = 1000
MOST_DRAFTS = 4
"""Draft snapshots kept in memory: of a million accounts each takes some 150 MB."""


class Snapshots:
    """Snapshots by domain, renewed when the stored version moves on. A policy edit keeps the
    directory's columns.
    """

    def __init__(self, engine: Engine) -> None:
        # One consistent view, whatever is being edited or loaded meanwhile.
        self._engine = engine.execution_options(isolation_level="REPEATABLE READ")
        self._held: dict[str, Snapshot] = {}
        self._locks: dict[str, threading.Lock] = {}
        self._guard = threading.Lock()
        self._drafts: dict[int, Snapshot] = {}
        self._tallies: dict[tuple[int, int, int, int], Tally] = {}
        self._shelf = TermShelf(engine)
        self._corpora = corpora()

    def with_draft(self, live: Snapshot, draft: int) -> Snapshot:
        """The domain as an open draft would make it. Raises `NotFoundError` if there is no such
        draft.
        """
        with Session(self._engine) as session:
            state = drafts.state_of(drafts.find(session, live.domain_id, draft, whole=False))
            held = self._drafts.get(draft)
            if (
                held
                and held.draft
                and held.draft.live is live
                and held.draft.version == state.version
            ):
                return held
            row = drafts.find(session, live.domain_id, draft)
            state, operations = drafts.state_of(row), drafts.operations_of(row)
        return self.keep_draft(live, state, operations, apply(live.estate, operations))

    def keep_draft(
        self, live: Snapshot, state: drafts.State, operations: Operations, applied: Applied
    ) -> Snapshot:
        """The domain as a draft makes it, kept for whoever asks next."""
        draft = state.id
        self._tallies[draft, state.version, live.estate_id, live.version] = tallied(
            live.estate, operations, applied
        )
        marks = drafts.marks_of(applied.estate, {guid: m.mark for guid, m in live.meta.items()})
        by = PolicyMeta(0, state.changed_by, state.changed_at)
        old = {p.guid: p for p in live.estate.policies}
        meta = {
            p.guid: live.meta[p.guid] if p == old.get(p.guid) else replace(by, mark=marks[p.guid])
            for p in applied.estate.policies
        }
        fresh = replace(
            live,
            estate=applied.estate,
            meta=meta,
            draft=Draft(draft, state.version, operations, applied.conflicts, live),
        )
        with self._guard:
            self._drafts.pop(draft, None)
            self._drafts[draft] = fresh
            while len(self._drafts) > MOST_DRAFTS:
                del self._drafts[next(iter(self._drafts))]
        return fresh

    def in_short(self, session: Session, live: Snapshot) -> list[tuple[drafts.State, Tally]]:
        """The open drafts of a domain, the latest changed first, with what each does; a long one is
        gone through once.
        """
        found = []
        if len(self._tallies) >= MOST_TALLIES:
            self._tallies.clear()
        for state in drafts.open_states(session, live.domain_id):
            key = state.id, state.version, live.estate_id, live.version
            tally = self._tallies.get(key)
            if tally is None:
                row = drafts.find(session, live.domain_id, state.id)
                try:
                    operations = drafts.operations_of(row)
                except UnreadableOperationsError:
                    # It can still be seen that it is there, and dropped.
                    tally = Tally(len(row.operations), len(row.operations), 0, all_there=False)
                else:
                    tally = tallied(live.estate, operations, apply(live.estate, operations))
                self._tallies[key] = tally
            found.append((state, tally))
        return found

    def of(self, dns_name: str, session: Session | None = None) -> Snapshot | None:
        """The present snapshot of a domain, None if there is no such domain.

        It takes a connection of its own for a moment, unless it is given a session, which then
        holds the domain's row.
        """
        if session is not None:
            return self._renewed(session, dns_name)
        # Closed before anything is waited for: a connection in hand is what others may be waiting
        # for.
        with Session(self._engine) as own:
            seen = _version(own, dns_name)
        if seen is None:
            self._held.pop(dns_name, None)
            return None
        if (held := self._current(dns_name, seen)) is not None:
            return held
        with self._guard:
            lock = self._locks.setdefault(dns_name, threading.Lock())
        with lock, Session(self._engine) as own:
            return self._renewed(own, dns_name)

    def warm(self) -> None:
        """Load and resolve every domain, so that nobody waits for it later."""
        with Session(self._engine) as session:
            names = session.scalars(select(DomainRow.dns_name)).all()
        for name in names:
            found = self.of(name)
            if found:
                _ = found.resolution.winner_of_account

    def _current(self, dns_name: str, seen: _Seen) -> Snapshot | None:
        held = self._held.get(dns_name)
        now = held and (held.domain_id, held.estate_id, held.version)
        return held if held and now == seen else None

    def _renewed(self, session: Session, dns_name: str) -> Snapshot | None:
        seen = _version(session, dns_name)
        if seen is None:
            return None
        if (held := self._current(dns_name, seen)) is not None:
            return held
        held = self._held.get(dns_name)
        fresh = _read(session, dns_name, held, self._shelf, self._corpora)
        self._held[dns_name] = fresh
        if held is None or held.estate_id != fresh.estate_id:
            # Seconds for a million accounts, and nobody waits for it unless they ask for it just
            # now.
            threading.Thread(target=fresh.roster.prime, name="roster", daemon=True).start()
        return fresh


_Seen = tuple[int, int, int]
"""Which row a domain has, which estate and which version: one that was taken out and loaded anew is
another.
"""


def _version(session: Session, dns_name: str) -> _Seen | None:
    asked = select(DomainRow.id, DomainRow.estate_id, DomainRow.version)
    found = session.execute(asked.where(DomainRow.dns_name == dns_name)).one_or_none()
    return (found[0], found[1], found[2]) if found else None


def _read(
    session: Session, dns_name: str, held: Snapshot | None, shelf: TermShelf, at_hand: Shelf
) -> Snapshot:
    domain = session.scalars(select(DomainRow).where(DomainRow.dns_name == dns_name)).one()
    if held and (held.domain_id, held.estate_id) == (domain.id, domain.estate_id):
        policies, links = load_policies(session, domain)
        estate = replace(
            held.estate,
            domain=load_domain(domain),
            linked_groups=linked_groups_of(domain),
            policies=policies,
            links=links,
        )
    else:
        estate = load_estate(session, domain)
    rows = session.scalars(select(PolicyRow).where(PolicyRow.domain_id == domain.id)).all()
    meta = {r.guid: PolicyMeta(r.mark, r.changed_by, r.changed_at.isoformat()) for r in rows}
    return Snapshot(
        domain.id,
        domain.estate_id,
        domain.version,
        domain.source,
        domain.loaded_at.isoformat(),
        tuple(domain.notices),
        domain.approval_required,
        domain.trials_required,
        kinds_of(session, domain.id),
        estate,
        meta,
        shelf,
        at_hand,
        history.pending_count(session, domain.id),
    )
