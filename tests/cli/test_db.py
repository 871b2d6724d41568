"""The database as a file and back, and from the first schema to the present one."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest
from sqlalchemy import Engine, MetaData, insert, select, text
from sqlalchemy.engine import make_url
from sqlalchemy.orm import Session

from command import Command
from hornfels.formats.dump import Dump
from hornfels.service.snapshots import Snapshots
from hornfels.store import people, trail
from hornfels.store.cluster import Cluster
from hornfels.store.database import connect, migrate, schema_of
from hornfels.store.estates import load_estate, save_dump
from hornfels.store.models import DomainRow, EntryRow
from persons import PASSWORD, let_in


@pytest.fixture
def stored(engine: Engine, demo: Dump) -> Engine:
    with Session(engine) as session, session.begin():
        save_dump(session, demo, "tarnholt.ldif", "ann")
        let_in(session, "ann")
    return engine


@pytest.mark.thorough
def test_a_backup_is_restored_elsewhere_with_all_that_was_stored(
    command: Command, stored: Engine, cluster: Cluster, home: Path, tmp_path: Path
) -> None:
    file, there = tmp_path / "all.backup", {"HORNFELS_HOME": str(home / "restored")}
    here = {"HORNFELS_DATABASE_URL": cluster.url}
    done = command("db", "backup", file, **here)
    assert done.returncode == 0, done.stderr
    assert file.stat().st_mode & 0o077 == 0
    again = command("db", "backup", file, **here)
    assert (again.returncode, "File exists; nothing was written" in again.stderr) == (2, True)
    restored = command("db", "restore", file, **there)
    assert restored.returncode == 0, restored.stderr
    anchor = done.stdout.split()[-1]
    assert restored.stdout.split()[-1] == anchor, "the trail stands where it stood"
    verified = command("audit", "verify", "--anchor", anchor, **there)
    assert (verified.returncode, "But the application" in verified.stdout) == (0, False)
    second = command("db", "restore", file, **there)
    assert (second.returncode, "holds something already" in second.stderr) == (2, True)
    own = Cluster(home / "restored", {})
    own.start()
    try:
        other = connect(own.url)
        with Session(stored) as before, Session(other) as after:
            assert people.matches(people.stored_hash(after, "ann"), PASSWORD)
            assert people.administrators(after) == ["ann"]
            domains = [session.query(DomainRow).one() for session in (before, after)]
            one, two = (
                load_estate(session, domain)
                for session, domain in zip((before, after), domains, strict=True)
            )
            assert (one.policies, one.links) == (two.policies, two.links)
            assert list(one.accounts.dn) == list(two.accounts.dn)
        other.dispose()
    finally:
        own.stop()


def test_a_file_that_is_no_backup_restores_nothing(
    command: Command, home: Path, tmp_path: Path
) -> None:
    there = {"HORNFELS_HOME": str(home / "nothing")}
    for file, words in (("none", "cannot be read"), ("odd", "nothing was restored")):
        (tmp_path / "odd").write_text("no backup")
        done = command("db", "restore", tmp_path / file, **there)
        assert (done.returncode, words in done.stderr) == (2, True)
        assert done.stderr.count("\n") == 1


def test_only_an_older_private_database_is_moved(
    command: Command, cluster: Cluster, home: Path
) -> None:
    there = {"HORNFELS_HOME": str(home / "newest")}
    empty = command("db", "upgrade-server", **there)
    assert (empty.returncode, "there is no database in" in empty.stderr) == (2, True)
    assert command("db", "upgrade", **there).returncode == 0
    same = command("db", "upgrade-server", **there)
    assert (same.returncode, "nothing was moved" in same.stdout) == (0, True)
    own = command("db", "upgrade-server", HORNFELS_DATABASE_URL=cluster.url)
    assert (own.returncode, "a server of your own" in own.stderr) == (2, True)


@pytest.fixture
def fresh(cluster: Cluster) -> Iterator[Engine]:
    """A database beside the one of the tests."""
    with cluster.as_keeper() as keeper:
        keeper.execute("CREATE DATABASE upgraded OWNER hornfels_application")
    engine = connect(
        make_url(cluster.url).set(database="upgraded").render_as_string(hide_password=False)
    )
    yield engine
    engine.dispose()
    with cluster.as_keeper() as keeper:
        keeper.execute("DROP DATABASE upgraded WITH (FORCE)")


def test_what_the_first_schema_held_is_there_in_the_present_one(
    stored: Engine, fresh: Engine, demo: Dump
) -> None:
    migrate(fresh, "0001")
    first, now = MetaData(), MetaData()
    first.reflect(fresh)
    now.reflect(stored, only=[name for name in first.tables if name != "alembic_version"])
    odd = {"policies": {"version": 1}}
    with stored.connect() as source, fresh.begin() as target:
        for name in ("domains", "users", "accounts", "groups", "account_memberships"):
            _carry(source, target, now, first, name, {})
        for name in ("group_memberships", "policies", "links"):
            _carry(source, target, now, first, name, odd.get(name, {}))
        target.execute(text("SELECT setval('domains_id_seq', 1), setval('links_id_seq', 100)"))
    migrate(fresh)
    assert schema_of(fresh) == schema_of(stored)
    with Session(fresh) as session:
        estate = load_estate(session, session.query(DomainRow).one())
        assert [p.name for p in estate.policies] == [p.name for p in demo.estate.policies]
        assert len(estate.accounts) == len(demo.estate.accounts)
        # Whoever could sign in could do everything.
        assert people.administrators(session) == ["ann"]
        trail.note(session, "counted")
        session.commit()
        assert session.scalars(select(EntryRow.what)).all() == ["counted"]
    found = Snapshots(fresh).of("sky.tarnholt.example")
    assert found is not None
    assert found.resolution.governed(0) > 0


def _carry(
    source: object, target: object, now: MetaData, first: MetaData, name: str, odd: dict[str, int]
) -> None:
    """Copy a table as far as the first schema had its columns."""
    old, new = first.tables[name], now.tables[name]
    shared = [column.name for column in old.columns if column.name in new.columns]
    rows = source.execute(select(*(new.c[column] for column in shared))).mappings().all()  # type: ignore[attr-defined]
    target.execute(insert(old), [{**row, **odd} for row in rows])  # type: ignore[attr-defined]
