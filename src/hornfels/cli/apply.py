"""`hornfels apply`: a policy file into the domain that Hornfels keeps."""

from __future__ import annotations

import getpass
from pathlib import Path

from sqlalchemy.orm import Session

from hornfels.cli.database import database
from hornfels.cli.errors import bytes_of, fail, note, say
from hornfels.cli.people import COMMAND
from hornfels.cli.policy_files import refuse
from hornfels.formats.policy_file.reading import read_policy_file
from hornfels.formats.yaml_tree import MOST_BYTES, YamlError
from hornfels.refusals import FieldsError
from hornfels.service import drafts, policy_files, publishing
from hornfels.service.editing import Editing, shown_draft
from hornfels.service.snapshots import Snapshots
from hornfels.store.trail import Origin, act_for


def apply_file(file: Path, title: str, reason: str, *, publish: bool) -> None:
    """Make a draft of what the file wants of its domain in Hornfels, or publish it at once."""
    data = bytes_of(file, MOST_BYTES)
    try:
        name = read_policy_file(data).content.domain
    except YamlError as error:
        refuse(file, error)
    person = f"{getpass.getuser()} ({COMMAND})"
    with database() as engine, Session(engine) as session:
        act_for(session, Origin(person))
        snapshots = Snapshots(engine)
        live = snapshots.of(name)
        if live is None:
            fail(f"{file}: Hornfels has no domain {name}; load it, or connect its directory first")
        title = title or f"From {file.name}"
        try:
            row, new_trials = policy_files.draft_of(session, live, person, data, title)
        except FieldsError as error:
            for place, told in error.problems:
                note(f"{file}: {place}: {told}")
            fail(f"{file}: nothing was changed")
        if new_trials:
            say(f"{new_trials:,} trial{'s' * (new_trials != 1)} kept.")
        if row is None:
            say("Policies are as the file has them.")
            return
        say(f"Draft {row.id}, “{row.title}”, is open.")
        if not publish and not reason:
            return
        shown = snapshots.with_draft(live, row.id)
        edit = Editing(shown, session, person, snapshots, lambda _before, _after: None)
        if reason:
            edit.current = drafts.describe(edit, row.version, row.title, reason)
        if publish:
            draft = shown_draft(edit.current)
            job = publishing.publish(edit, engine, draft.version)
            say("It is being written into the directory." if job else "It is published.")
