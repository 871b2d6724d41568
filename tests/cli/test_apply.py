"""A policy file into the domain that Hornfels keeps."""

from __future__ import annotations

from pathlib import Path

import pytest
from sqlalchemy import Engine, select
from sqlalchemy.orm import Session

from command import Command
from hornfels.formats.dump import Dump
from hornfels.formats.policy_file.writing import write_policy_file
from hornfels.store import drafts
from hornfels.store.cluster import Cluster
from hornfels.store.estates import load_estate
from hornfels.store.models import DomainRow, DraftRow, EntryRow, TrialRow


@pytest.fixture
def file(demo_stored: None, demo: Dump, tmp_path: Path) -> Path:  # noqa: ARG001 - chooses the database
    """A file that wants three characters more for the keyholders, and a trial, of a domain that is
    stored.
    """
    text = "".join(write_policy_file(demo.estate)).replace("length: 20\n", "length: 23\n", 1)
    file = tmp_path / "policies.yaml"
    file.write_text(f"{text}\ntrials: [{{story: 9 bad, account: ilse.varga, expect: locks}}]\n")
    return file


def test_it_becomes_a_draft(command: Command, cluster: Cluster, engine: Engine, file: Path) -> None:
    here = {"HORNFELS_DATABASE_URL": cluster.url}
    done = command("apply", file, "--reason", "As agreed in November", **here)
    assert (done.returncode, done.stderr) == (0, "")
    assert done.stdout.splitlines() == ["1 trial kept.", "Draft 1, “From policies.yaml”, is open."]
    with Session(engine) as session:
        row = session.scalars(select(DraftRow)).one()
        assert (row.state, row.reason) == ("open", "As agreed in November")
        assert row.author.endswith("(command line)")
        assert len(drafts.operations_of(row)) == 1
        assert session.scalars(select(TrialRow.story)).all() == ["9 bad"]


def test_it_is_published_where_the_domain_allows_it(
    command: Command, cluster: Cluster, engine: Engine, file: Path
) -> None:
    here = {"HORNFELS_DATABASE_URL": cluster.url}
    done = command("apply", file, "--title", "Autumn", "--publish", **here)
    assert (done.returncode, done.stderr) == (0, "")
    assert done.stdout.splitlines()[-1] == "It is published."
    with Session(engine) as session, session.begin():
        domain = session.query(DomainRow).one()
        found = load_estate(session, domain).policies[0]
        assert (found.name, found.settings.min_length) == ("Keyholders", 23)
        entry = session.scalars(select(EntryRow).order_by(EntryRow.id.desc())).first()
        assert entry
        assert (entry.what, entry.person.endswith("(command line)")) == ("draft published", True)
        domain.approval_required = True
    again = command("apply", file, "--publish", **here)
    assert (again.returncode, again.stdout) == (0, "Policies are as the file has them.\n")
    file.write_text(file.read_text().replace("length: 23\n", "length: 24\n", 1))
    refused = command("apply", file, "--publish", **here)
    assert (refused.returncode, "approved by a second person" in refused.stderr) == (2, True)
    with Session(engine) as session:
        assert [row.state for row in session.scalars(select(DraftRow))] == ["published", "open"]


def test_what_is_wrong_or_elsewhere_changes_nothing(
    command: Command, cluster: Cluster, engine: Engine, file: Path
) -> None:
    here = {"HORNFELS_DATABASE_URL": cluster.url}
    text = file.read_text()
    for before, after, words in (
        ("precedence: 5\n", "precedense: 5\n", "line 16, column 5"),
        ("GS-Keyholders", "GS-Nobody", "line 19, column 9: there is no account or group"),
        ("domain: sky", "domain: sea", "has no domain sea.tarnholt.example"),
    ):
        file.write_text(text.replace(before, after, 1))
        done = command("apply", file, **here)
        assert done.returncode == 2
        assert words in done.stderr
    with Session(engine) as session:
        assert session.scalars(select(DraftRow)).all() == []
        assert session.scalars(select(TrialRow)).all() == []
