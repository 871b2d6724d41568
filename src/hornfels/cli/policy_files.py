"""`hornfels export`, `plan`, `trials` and `schema`: policies as text, against a dump, without a
database.
"""

from __future__ import annotations

import json
import sys
from collections.abc import Sequence
from itertools import groupby
from pathlib import Path
from typing import NoReturn
from uuid import uuid4

from hornfels.cli.corpus import exposed_by
from hornfels.cli.errors import BAD_INPUT, bytes_of, fail, json_line, note, say
from hornfels.cli.resolve import read_estate
from hornfels.core.domain.estate import Estate, LinkedGroups
from hornfels.core.drafts.comparison import differences
from hornfels.core.drafts.edits import has_additions, without_additions
from hornfels.core.drafts.plain import in_plain
from hornfels.core.drafts.sentences import Sentence, sentences
from hornfels.core.passwords.additions import Lists
from hornfels.core.passwords.rulebook import Rulebook
from hornfels.core.resolution.engine import resolve
from hornfels.core.trials.running import run, sentence
from hornfels.core.trials.trial import targets
from hornfels.core.values.text import printable
from hornfels.formats.changes import write_changes
from hornfels.formats.policy_file.model import schema
from hornfels.formats.policy_file.reading import Read, read_policy_file
from hornfels.formats.policy_file.rewriting import rewrite
from hornfels.formats.policy_file.wanted import Wanted, wanted
from hornfels.formats.policy_file.writing import write_policy_file
from hornfels.formats.yaml_tree import MOST_BYTES, YamlError

CHANGES = 1


def print_policies(file: Path, linked_groups: LinkedGroups) -> None:
    """The policy file of a dump."""
    for line in write_policy_file(read_estate(file, linked_groups, names_only=True)):
        print(line, end="")


def bring_up_to_date(file: Path, into: Path, linked_groups: LinkedGroups) -> None:
    """Bring a policy file to what a dump has; its comments stay, and all of it that is so
    already.
    """
    estate = read_estate(file, linked_groups, names_only=True)
    data = bytes_of(into, MOST_BYTES)
    try:
        found = rewrite(data, estate)
    except YamlError as error:
        refuse(into, error)
    if found == data:
        return
    # Whole or not at all.
    fresh = into.with_name(f".{into.name}.new")
    try:
        fresh.write_bytes(found)
        fresh.replace(into)
    except OSError as error:
        fail(f"{into}: {error.strerror or error}")


def print_schema() -> None:
    print(json.dumps(schema(), indent=2))


def read_file(file: Path) -> Read:
    """A policy file; all that is wrong with it ends the command."""
    try:
        return read_policy_file(bytes_of(file, MOST_BYTES))
    except YamlError as error:
        refuse(file, error)


def planned(read: Read, file: Path, estate: Estate) -> Wanted:
    try:
        return wanted(read, estate, uuid4)
    except YamlError as error:
        refuse(file, error)


def refuse(file: Path, error: YamlError) -> NoReturn:
    """Tell all that is wrong with a file, line by line."""
    for problem in error.problems[:-1]:
        print(printable(f"hornfels: {file}: {problem}"), file=sys.stderr)
    fail(f"{file}: {error.problems[-1]}", BAD_INPUT)


def _refuse_both(file: Path, against: Path) -> None:
    if str(file) == str(against) == "-":
        fail("only one of the two files can come from standard input; name the other one")


def print_plan(
    file: Path, against: Path, linked_groups: LinkedGroups, *, as_json: bool, as_ldif: bool
) -> None:
    """What the file would change; status 1 if anything."""
    _refuse_both(file, against)
    read = read_file(file)
    # In which order it is safe depends on whom policies reach; what is to be done does not.
    estate = read_estate(against, linked_groups, names_only=not as_ldif)
    found = planned(read, file, estate)
    operations = found.operations
    if has_additions(found.estate):
        note(f"{file}: additions are no change of the directory; “hornfels try” judges by them")
        operations = differences(estate, without_additions(found.estate))
    if not operations:
        return
    names = {policy.guid: policy.name for policy in estate.policies}
    if as_ldif:
        title = f"What {file.name} changes in {estate.domain.dns_name}"
        sys.stdout.buffer.writelines(write_changes(estate, operations, title))
    elif as_json:
        for index, told in groupby(sentences(operations, names), lambda one: one.index):
            op = operations[index]
            text = "; ".join(map(in_words, told))
            answer = {"operation": op.kind, **in_plain(op, names)._asdict(), "text": text}
            print(json_line(answer))
    else:
        for one in sentences(operations, names):
            say(in_words(one))
    raise SystemExit(CHANGES)


def in_words(one: Sentence) -> str:
    values = " → ".join(value for value in (one.before, one.after) if value)
    return f"{one.subject}: {one.text}{f': {values}' if values else ''}"


def print_trials(
    file: Path,
    against: Path,
    linked_groups: LinkedGroups,
    *,
    corpora: Sequence[str],
    as_json: bool,
) -> None:
    """What comes of the trials in a file under the policies in it; status 1 if one fails."""
    _refuse_both(file, against)
    read = read_file(file)
    live = read_estate(against, linked_groups)
    found = planned(read, file, live)
    resolution = resolve(found.estate)
    live_resolution = resolve(live)
    rules = Rulebook(found.estate, Lists(found.terms_of(), exposed_by(corpora)))
    unmet = 0
    for part, trial in zip(read.content.trials, found.trials, strict=True):
        rows = targets(trial, found.estate, live, live_resolution)
        outcome = run(trial, found.estate, resolution, rows, rules)
        unmet += outcome.met is not True
        said = sentence(outcome, found.estate)
        # Never the candidate.
        title = part.title or f"{trial.kind} {trial.target}: {part.expect}"
        if as_json:
            answer = {
                "trial": title,
                "met": outcome.met,
                "accounts": outcome.accounts,
                "detail": said,
            }
            print(json_line(answer))
        else:
            say(f"{'✓' if outcome.met else '✕'} {title}. {said}")
    raise SystemExit(1 if unmet else 0)
