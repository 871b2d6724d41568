"""Baselines: what comes of them where one looks, and gaps closed in the draft that is shown."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import date
from functools import lru_cache
from pathlib import Path
from stat import S_ISREG
from typing import NamedTuple

import numpy as np
from sqlalchemy.orm import Session

from hornfels.core.baselines.assessing import STATES, Assessment, assess
from hornfels.core.baselines.baseline import Baseline, Recommendation
from hornfels.core.baselines.closing import closing
from hornfels.core.domain.account_state import settings_of
from hornfels.core.domain.estate import Estate
from hornfels.core.drafts.edits import edits, index_of
from hornfels.core.drafts.operations import Operation
from hornfels.core.policy.catalogue import SettingKey, Value
from hornfels.core.policy.model import PolicyRef, problems
from hornfels.formats.baselines.reading import SHIPPED, read_baseline, shipped
from hornfels.formats.yaml_tree import MOST_BYTES, YamlError
from hornfels.refusals import ConflictError, NotFoundError
from hornfels.service.accepting import refuse_past
from hornfels.service.editing import Editing
from hornfels.service.policies import check
from hornfels.service.snapshots import Snapshot
from hornfels.settings import Settings
from hornfels.store import acceptances

MOST_FILES = 50
"""Baselines of one's own."""


class Offered(NamedTuple):
    """A baseline that can be chosen, or a file that is none and why."""

    file: str
    baseline: Baseline | None
    problem: str = ""


def every(where: Settings) -> list[Offered]:
    """The baselines that come along, then those in the folder that is set. One of a name that is
    taken already is a problem.
    """
    found = [Offered("", shipped(name)) for name in SHIPPED]
    taken = set(SHIPPED)
    for one in _own(where):
        if one.baseline and one.baseline.name in taken:
            problem = f"Another baseline is called {one.baseline.name}. Give it a name of its own."
            one = Offered(one.file, None, problem)
        elif one.baseline:
            taken.add(one.baseline.name)
        found.append(one)
    return found


def _own(where: Settings) -> Iterator[Offered]:
    if where.baselines is None:
        return
    for number, file in enumerate(sorted(where.baselines.glob("*.yaml"))):
        if number == MOST_FILES:
            yield Offered(file.name, None, f"It is one too many: at most {MOST_FILES} are read.")
            return
        try:
            found = file.stat()
            if S_ISREG(found.st_mode):
                yield _read(file, found.st_mtime_ns, found.st_size)
        except OSError as error:
            yield Offered(file.name, None, f"It cannot be read: {error.strerror}.")


@lru_cache(maxsize=MOST_FILES)
def _read(file: Path, _changed: int, _size: int) -> Offered:
    """A baseline from its file, as long as it is the same."""
    try:
        with file.open("rb") as source:
            return Offered(file.name, read_baseline(source.read(MOST_BYTES + 1)))
    except YamlError as error:
        first = str(error.problems[0])
        return Offered(file.name, None, f"{first[0].upper()}{first[1:]}.")


def find(name: str, where: Settings) -> Baseline:
    """Raises `NotFoundError`."""
    for one in every(where):
        if one.baseline and one.baseline.name == name:
            return one.baseline
    raise NotFoundError(f"There is no baseline '{name[:60]}'. Choose another one.")


def assessed(current: Snapshot, baseline: Baseline) -> list[Assessment]:
    """What comes of a baseline, worked out once for each version of the domain."""
    held = current.assessments.get(baseline.name)
    # A file of one's own may have changed since.
    if held is None or held[0] is not baseline:
        held = current.assessments[baseline.name] = (
            baseline,
            assess(baseline, current.estate, current.resolution),
        )
    return held[1]


class Gap(NamedTuple):
    """A policy that leaves a recommendation unmet for some accounts, and what closes it. The policy
    goes by its number, −1 for the domain policy.
    """

    policy: int
    accounts: int
    changes: dict[SettingKey, Value]


def gaps(current: Snapshot, found: Assessment) -> Iterator[Gap]:
    """The policies behind an unmet recommendation. What accounts' own flags leave unmet has no
    changes.
    """
    unmet = found.unmet
    winners = current.resolution.winner_of_account
    for policy in found.policies:
        settings = settings_of(current.estate, policy)
        count = int((unmet & (winners == policy)).sum())
        yield Gap(policy, count, closing(found.recommendation, settings))


class Asked(NamedTuple):
    """A recommendation that is meant for somebody under a policy: to how many of them, and for how
    many it is not met.
    """

    recommendation: Recommendation
    accounts: int
    not_met: int


def asked_of(current: Snapshot, baseline: Baseline, policy: int) -> Iterator[Asked]:
    """What a baseline asks of a policy (−1: the domain policy) for the accounts under it. What is
    meant for none of them is left out; of one that nobody is under all of it is told.
    """
    mine = current.resolution.winner_of_account == policy
    for one in assessed(current, baseline):
        counts = np.bincount(one.of_account[mine], minlength=len(STATES)).tolist()
        by_state = dict(zip(STATES, counts, strict=True))
        meant = sum(counts) - by_state["not applicable"]
        if meant or not mine.any():
            yield Asked(one.recommendation, meant, by_state["not met"])


def _recommendation(baseline: Baseline, key: str) -> Recommendation:
    for one in baseline.recommendations:
        if one.key == key:
            return one
    raise NotFoundError("This baseline has no such recommendation.")


def close(edit: Editing, baseline: Baseline, key: str, policy: PolicyRef) -> Snapshot:
    """Change a policy in the draft so that it meets a recommendation."""
    recommendation = _recommendation(baseline, key)

    def closed(estate: Estate) -> Iterator[Operation]:
        before = settings_of(estate, -1 if policy == "domain" else index_of(estate, policy))
        changes = closing(recommendation, before)
        if not changes:
            raise ConflictError("Nothing to do: it is met already, or no setting closes the gap.")
        after = before.changed(changes)
        check(after, None, problems(before))
        return edits(estate, policy, settings=after)

    return edit.change(closed)


def exception_key(baseline: Baseline, key: str) -> str:
    """By what an accepted exception from a recommendation is kept."""
    return f"baseline {baseline.name}: {key}"


def accept(
    database: Session,
    current: Snapshot,
    person: str,
    baseline: Baseline,
    key: str,
    reason: str,
    until: date,
) -> None:
    """Accept that a recommendation is not followed, with a reason, until the end of a day."""
    _recommendation(baseline, key)
    refuse_past(until)
    kept = exception_key(baseline, key)
    acceptances.accept(database, current.domain_id, kept, reason, until, person, "exception")
    database.commit()


def withdraw(database: Session, current: Snapshot, baseline: Baseline, key: str) -> None:
    """A recommendation is to be followed again."""
    kept = exception_key(baseline, key)
    acceptances.withdraw(database, current.domain_id, kept, "exception")
    database.commit()
