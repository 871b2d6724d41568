"""Commands of whoever runs the machine: people, acts, and the trail."""

from __future__ import annotations

import re
from collections.abc import Iterator
from pathlib import Path

import pytest
from sqlalchemy import Engine, update
from sqlalchemy.orm import Session

from command import Command
from hornfels.formats.dump import Dump
from hornfels.service import acts
from hornfels.store import people, trail
from hornfels.store.cluster import Cluster
from hornfels.store.estates import save_dump
from hornfels.store.models import DomainRow
from hornfels.worker.work import sign_anchor
from persons import let_in


class Machine:
    """Runs commands on the database of the tests."""

    def __init__(self, command: Command, cluster: Cluster, home: Path) -> None:
        self._command = command
        self._environment = {
            "HORNFELS_DATABASE_URL": cluster.url,
            "HORNFELS_DATABASE_OWNER_URL": cluster.owner_url,
            "HORNFELS_HOME": str(home),
        }

    def __call__(self, *arguments: object, stdin: str = "", status: int = 0) -> str:
        done = self._command(*arguments, stdin=stdin, **self._environment)
        assert done.returncode == status, done.stderr
        assert "Traceback" not in done.stderr
        return done.stdout + done.stderr


@pytest.fixture
def machine(
    command: Command,
    cluster: Cluster,
    engine: Engine,  # noqa: ARG001 - an empty database
    tmp_path: Path,
) -> Machine:
    return Machine(command, cluster, tmp_path)


def test_people_are_added_listed_given_roles_and_shut_out(machine: Machine, engine: Engine) -> None:
    added = machine("user", "add", "ann", "--one-time")
    given = re.search(r"once within three days: (\S+)", added)
    assert given
    machine(
        "user", "add", "ben", "--role", "viewer", "--domain", "a.example", stdin="Quiet-Harbour-19"
    )
    machine("user", "add", "carl", "--elsewhere", "--role", "author")
    assert machine("user", "list").splitlines() == [
        "ann: administrator everywhere, one-time password",
        "ben: viewer in a.example",
        "carl: author everywhere, signs in at the provider",
    ]
    machine("user", "role", "ben", "--role", "approver")
    machine("user", "role", "ben", "--role", "viewer", "--domain", "a.example", "--take")
    assert "ben: approver everywhere" in machine("user", "list")
    machine("user", "shut", "ben")
    assert "ben: approver everywhere, shut out" in machine("user", "list")
    last = machine("user", "shut", "ann", status=2)
    assert "last administrator" in last
    assert "Nobody named 'dora'" in machine("user", "reset", "dora", status=2)
    for name, words in (("", "Give a name"), ("ANN", "ann may sign in already")):
        assert words in machine("user", "add", name, "--one-time", status=2)
    again = re.search(r"once within three days: (\S+)", machine("user", "reset", "ben"))
    assert again
    with Session(engine) as session:
        assert people.matches(people.stored_hash(session, "ben"), again[1])
        told = trail.entries(session, trail.Wanted(what="person let in again"), most=1)
    assert told[0].person.endswith("(command line)")


@pytest.fixture
def waiting(engine: Engine, demo: Dump) -> Iterator[int]:
    """An act that waits, where there is nobody to confirm it."""
    with Session(engine) as session, session.begin():
        let_in(session, "ann")
        save_dump(session, demo, "tarnholt.ldif", "tester")
        session.execute(update(DomainRow).values(approval_required=True))
    with Session(engine) as session:
        row = acts.ask(
            session, "ann", "settings", "sky.tarnholt.example", "r", approval_required=False
        )
        assert not isinstance(row, acts.Done)
        yield row.id


@pytest.mark.parametrize(("what", "lifted"), [("confirm", True), ("withdraw", False)])
def test_acts_are_settled_where_there_is_no_second_person(
    machine: Machine, engine: Engine, waiting: int, what: str, lifted: bool
) -> None:
    listed = machine("act", "list")
    assert f"{waiting}: Publishing in sky.tarnholt.example wants no approval. ann: r" in listed
    machine("act", what, waiting)
    assert machine("act", "list") == ""
    with Session(engine) as session:
        assert session.query(DomainRow).one().approval_required is not lifted
    assert "confirmed or withdrawn already" in machine("act", what, waiting, status=2)


def test_the_trail_is_verified_and_pruned(
    machine: Machine, engine: Engine, cluster: Cluster
) -> None:
    with Session(engine) as session, session.begin():
        trail.note(session, "counted", "a sheep")
    whole = machine("audit", "verify")
    anchor = whole.split()[-1]
    assert "But the application" not in whole
    assert re.search(r"public\.trail \(number \d+, owner hornfels\)", whole)
    machine("audit", "verify", "--anchor", anchor)
    assert "has to be what" in machine("audit", "verify", "--anchor", "x", status=2)
    other = anchor.partition(":")[0] + ":" + "0" * 64
    assert "is another one" in machine("audit", "verify", "--anchor", other, status=1)
    with cluster.as_keeper() as keeper:
        number = int(anchor.partition(":")[0])
        keeper.execute("UPDATE trail SET about = 'a goat' WHERE id = %s", (number,))
        assert f"Entry {number} was changed" in machine("audit", "verify", status=1)
        refused = machine("audit", "prune", "--before", "2100-01-01", "--reason", "r", status=1)
        assert "nothing was taken out" in refused
        keeper.execute("UPDATE trail SET about = 'a sheep' WHERE id = %s", (number,))
    machine("audit", "prune", "--before", "2000-01-01", "--reason", "too old")
    assert "a signed stump" in machine(
        "audit", "prune", "--before", "2100-01-01", "--reason", "over a year"
    )
    assert "whole" in machine("audit", "verify", "--anchor", anchor)
    with cluster.as_keeper() as keeper:
        keeper.execute("DELETE FROM trail WHERE id > %s", (number,))
        keeper.execute("DELETE FROM trail_stumps")


def test_the_log_is_compared_with_what_workers_signed(
    machine: Machine,
    engine: Engine,
    cluster: Cluster,
    tmp_path: Path,
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    monkeypatch.setenv("HORNFELS_HOME", str(tmp_path))
    file = tmp_path / "audit-anchors"
    with Session(engine) as session, session.begin():
        for number in range(3):
            trail.note(session, "counted", f"sheep {number}")
    assert "No worker has signed an anchor yet" in machine("audit", "verify")
    sign_anchor(engine)
    assert file.stat().st_mode & 0o077 == 0
    assert "Compared with 1 anchors" in machine("audit", "verify")
    with Session(engine) as session:
        number, _ = trail.head(session)
    with cluster.as_keeper() as keeper:
        keeper.execute("CREATE TEMPORARY TABLE kept AS SELECT * FROM trail")
        keeper.execute("DELETE FROM trail WHERE id = %s", (number,))
        assert f"Entry {number} is missing" in machine("audit", "verify", status=1)
        keeper.execute("ALTER TABLE trail DISABLE TRIGGER trail_chained")
        keeper.execute("INSERT INTO trail SELECT * FROM kept WHERE id = %s", (number,))
        keeper.execute("ALTER TABLE trail ENABLE TRIGGER trail_chained")
    line = file.read_text()
    file.write_text(line.replace(f" {number}:", f" {number - 1}:"))
    assert "line 1: not signed by this installation" in machine("audit", "verify", status=1)


def test_a_dump_that_loses_many_accounts_takes_a_reason(
    machine: Machine, demo_ldif: bytes, tmp_path: Path
) -> None:
    whole, cut = tmp_path / "whole.ldif", tmp_path / "cut.ldif"
    whole.write_bytes(demo_ldif)
    entries = demo_ldif.split(b"\n\n")
    cut.write_bytes(b"\n\n".join(e for e in entries if b"OU=Visitors" not in e))
    machine("load", whole)
    refused = machine("load", cut, status=2)
    assert "Give the reason with --smaller" in refused
    assert "Accounts: 1,184 in Hornfels" in refused
    machine("load", cut, "--smaller", "the visitors have a domain of their own")
