"""Policy files of a domain: written from where one looks, held against live, made into a draft."""

from __future__ import annotations

from dataclasses import dataclass
from uuid import uuid4

from sqlalchemy.orm import Session

from hornfels.core.drafts.sentences import Sentence, sentences
from hornfels.core.policy.term_lists import TermList
from hornfels.core.trials.trial import Trial
from hornfels.formats.policy_file.reading import Read, read_policy_file
from hornfels.formats.policy_file.wanted import Wanted, wanted
from hornfels.formats.policy_file.writing import write_policy_file
from hornfels.formats.yaml_tree import YamlError
from hornfels.refusals import ConflictError, FieldsError
from hornfels.service.snapshots import Snapshot
from hornfels.service.trials import MOST_TRIALS
from hornfels.store import drafts, terms, trials
from hornfels.store.models import DraftRow


@dataclass(frozen=True, slots=True)
class Planned:
    """What a file would change of live: the operations in words, and its trials that are not kept
    yet, each with its title.
    """

    read: Read
    wanted: Wanted
    new_trials: tuple[tuple[str, Trial], ...]

    def sentences(self, live: Snapshot) -> list[Sentence]:
        names = {policy.guid: policy.name for policy in live.estate.policies}
        return sentences(self.wanted.operations, names)


def written(database: Session, current: Snapshot) -> str:
    """The policy file of a domain as it is shown, with the trials that are kept."""
    kept = ((row.title, trial) for row, trial in trials.kept(database, current.domain_id))

    def held(one: TermList) -> tuple[str, ...]:
        return terms.of_digest(database, current.domain_id, one.digest)

    return "".join(write_policy_file(current.published.estate, kept, held))


def look(database: Session, live: Snapshot, data: bytes) -> Planned:
    """What a file would change of live. Raises `FieldsError` with the line and column of all that
    is wrong with it.
    """
    try:
        read = read_policy_file(data)
        found = wanted(read, live.estate, uuid4)
    except YamlError as error:
        told = (
            (f"line {p.line}, column {p.column}", p.reason + "." * (p.reason[-1] not in "?."))
            for p in error.problems
        )
        raise FieldsError(*told) from None
    for name, held in found.estate.domain.term_lists.items():
        if name not in found.terms and not terms.are_kept(database, live.domain_id, held):
            message = f"The terms of “{name[:60]}” are not kept here. Upload the list first."
            raise FieldsError(("blocked_terms", message))
    kept = {trial for _, trial in trials.kept(database, live.domain_id)}
    parts = zip(read.content.trials, found.trials, strict=True)
    fresh = {trial: part.title for part, trial in reversed(list(parts)) if trial not in kept}
    titled = ((title or _title(trial), trial) for trial, title in reversed(fresh.items()))
    return Planned(read, found, tuple(titled))


def _title(trial: Trial) -> str:
    """A name for a trial that has none in the file; never its candidate."""
    return f"{trial.kind} {trial.target}: {trial.expected}".replace("_", " ")[:200]


def draft_of(
    database: Session, live: Snapshot, person: str, data: bytes, title: str
) -> tuple[DraftRow | None, int]:
    """A draft of what a file wants of live, None where policies are so already, and how many
    trials are kept now that were not. Raises `FieldsError`, `ConflictError` for too many trials.
    """
    found = look(database, live, data)
    operations = found.wanted.operations
    if len(trials.kept(database, live.domain_id)) + len(found.new_trials) > MOST_TRIALS:
        raise ConflictError(f"A domain keeps at most {MOST_TRIALS} trials. Leave some out.")
    row = None
    for one in found.wanted.terms.values():
        terms.keep(database, live.domain_id, one)
    if operations:
        drafts.hold_titles(database, live.domain_id)
        title = drafts.free_title(database, live.domain_id, title[: drafts.MOST_TITLE])
        row = drafts.create(database, live.domain_id, title, person, operations)
    for name, trial in found.new_trials:
        trials.add(database, live.domain_id, name, trial, person)
    database.commit()
    if row:
        database.refresh(row)
    return row, len(found.new_trials)
