"""A private PostgreSQL for the whole run, and the demo domain."""

from __future__ import annotations

import gc
import io
import os
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Generator, Iterator
from datetime import UTC, datetime
from pathlib import Path

import pytest
from hypothesis import HealthCheck, settings
from sqlalchemy import Engine
from sqlalchemy.orm import Session

from databases import Databases, loaded_now
from directory_server import PEOPLE, DirectoryServer, add, directory_server, provisioned
from hornfels.demo.tarnholt import entries
from hornfels.formats.dump import Dump, load_dump
from hornfels.formats.ldif import write
from hornfels.store.cluster import Cluster
from hornfels.store.database import connect
from memory import use_memory

for profile, examples in (("fast", 6), ("thorough", 40)):
    settings.register_profile(
        profile,
        deadline=None,
        max_examples=examples,
        suppress_health_check=[HealthCheck.too_slow],
    )
settings.load_profile("thorough")


def pytest_configure() -> None:
    use_memory()


STORIES = ("browser", "directory")
"""Folders of tests that take seconds each: a browser or a directory server works for each test."""
WHOLE = ("test_story.py", "test_keys.py")
"""Modules of which `make test` runs all tests without the mark `thorough`: these tests show each
screen and the keys.
"""


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """Mark as thorough all but the first story of each module, and all but the first case of each
    test with the mark `first_case`.
    """
    begun: set[str] = set()
    for item in items:
        if item.path.parent.name in STORIES and item.path.name not in WHOLE:
            kind = str(item.path)
        elif item.get_closest_marker("first_case"):
            kind = item.nodeid.partition("[")[0]
        else:
            continue
        if kind in begun:
            item.add_marker(pytest.mark.thorough)
        begun.add(kind)


def pytest_collection_finish() -> None:
    """Leave what was imported out of the collector's rounds, which took a tenth of the time."""
    gc.collect()
    gc.freeze()
    gc.set_threshold(100_000, 50, 100)


@pytest.hookimpl(wrapper=True)
def pytest_runtest_makereport(
    item: pytest.Item,
) -> Generator[None, pytest.TestReport, pytest.TestReport]:
    """Keep the seconds of the set-up beside those of the whole test, for `make test-times`."""
    report = yield
    if report.when == "setup":
        item.user_properties.append(("set-up", f"{report.duration:.3f}"))
    return report


CACHE = Path(__file__).parents[1] / ".stamps"
"""A folder of the checkout that `make clean` removes."""
DEMO_NOW = datetime(2026, 3, 2, 9, 0, tzinfo=UTC)


@pytest.fixture(scope="session")
def home() -> Iterator[Path]:
    """A folder for a cluster, outside pytest's own, which the database's user may not enter."""
    folder = Path(tempfile.mkdtemp(prefix="hornfels-test-"))
    folder.chmod(0o755)
    yield folder
    shutil.rmtree(folder, ignore_errors=True)


@pytest.fixture(scope="session")
def cluster(home: Path) -> Iterator[Cluster]:
    server = Cluster(home, {"fsync": "off", "synchronous_commit": "off", "full_page_writes": "off"})
    server.start()
    yield server
    server.stop()


@pytest.fixture(scope="session")
def databases(cluster: Cluster, demo: Dump) -> Databases:
    return Databases(cluster, demo)


@pytest.fixture(scope="session")
def migrated(databases: Databases) -> Iterator[Engine]:
    """A database with the present schema that tests share."""
    engine = connect(databases.shared("empty"))
    yield engine
    engine.dispose()


@pytest.fixture
def demo_stored() -> None:
    """Ask for an `engine` whose database holds the demo domain."""


@pytest.fixture(scope="session")
def shared_engine(cluster: Cluster) -> Engine:
    """One engine for all tests: an engine compiles each statement once."""
    return connect(cluster.url)


@pytest.fixture
def engine(
    databases: Databases, shared_engine: Engine, request: pytest.FixtureRequest
) -> Iterator[Engine]:
    """A database with the present schema and nothing in it, or with the demo domain where a test or
    one of its fixtures asks for `demo_stored`.
    """
    databases.renew("demo" if "demo_stored" in request.fixturenames else "empty")
    with Session(shared_engine) as session, session.begin():
        loaded_now(session)
    yield shared_engine
    shared_engine.dispose()


@pytest.fixture
def worker(cluster: Cluster, engine: Engine) -> Iterator[subprocess.Popen[bytes]]:  # noqa: ARG001 - nothing older may be in its queue
    """A worker in a process of its own."""
    command = Path(sys.executable).parent / "hornfels"
    process = subprocess.Popen(
        [command, "worker"], env={**os.environ, "HORNFELS_DATABASE_URL": cluster.url}
    )
    yield process
    process.terminate()
    process.wait()


@pytest.fixture(scope="session")
def demo_ldif() -> bytes:
    return b"".join(write(entries(DEMO_NOW)))


@pytest.fixture(scope="session")
def demo(demo_ldif: bytes) -> Dump:
    return load_dump(io.BytesIO(demo_ldif))


@pytest.fixture(scope="session")
def template() -> Path:
    """What every directory server is a copy of: the workers of a run share it, and the runs of a
    day.
    """
    return provisioned(CACHE)


@pytest.fixture
def server(template: Path) -> Iterator[DirectoryServer]:
    """A started directory server with nobody in it but those of every domain, and a place for
    people.
    """
    with directory_server(template, os.environ.get("PYTEST_XDIST_WORKER", "")) as started:
        with started.administrator() as link:
            add(link, PEOPLE, objectClass="organizationalUnit")
        yield started
