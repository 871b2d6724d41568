"""The database is killed, moved, locked or full: what is said meanwhile, and that all goes on by
itself.
"""

from __future__ import annotations

import os
import signal
import stat
from collections.abc import Iterator
from pathlib import Path

import httpx2
import psycopg
import pytest
from fastapi.testclient import TestClient
from sqlalchemy import Engine, make_url, text
from sqlalchemy.exc import DBAPIError, ProgrammingError
from sqlalchemy.orm import Session

from api_help import DOMAIN
from hornfels.api.app import create_app
from hornfels.api.outages import answer_database
from hornfels.formats.dump import Dump
from hornfels.store import cluster as clusters
from hornfels.store import database
from hornfels.store.cluster import Cluster
from hornfels.store.database import connect
from hornfels.store.estates import save_dump
from hornfels.store.models import DomainRow
from hornfels.store.postgresql import ClusterError
from persons import as_user, let_in
from served import served


@pytest.fixture
def own(home: Path) -> Iterator[Cluster]:
    cluster = Cluster(home / "mortal", {"fsync": "off"})
    with cluster.running():
        yield cluster


def postmaster(cluster: Cluster) -> int:
    return int((cluster.data / "postmaster.pid").read_text().split()[0])


def filled(cluster: Cluster, demo: Dump) -> Engine:
    engine = connect(lambda: cluster.url)
    cluster.migrate()
    with Session(engine) as session, session.begin():
        save_dump(session, demo, "tarnholt.ldif", "tester")
        let_in(session, "ann")
    return engine


@pytest.mark.thorough
def test_a_killed_database_is_told_of_started_again_and_taken_up(own: Cluster, demo: Dump) -> None:
    engine = filled(own, demo)
    with (
        served(create_app(engine)) as port,
        httpx2.Client(base_url=f"http://127.0.0.1:{port}", timeout=60) as client,
    ):
        client.post(
            "/api/session", json={"name": "ann", "password": "correct horse"}
        ).raise_for_status()
        saved = client.post(f"{DOMAIN}/drafts", json={"title": "Kept"}).json()["id"]
        first = make_url(own.url).port
        os.kill(postmaster(own), signal.SIGKILL)
        while client.get("/readyz").status_code == 200:
            pass
        refused = client.post(f"{DOMAIN}/drafts", json={"title": "Lost"})
        assert (refused.status_code, int(refused.headers["retry-after"]) > 0) == (503, True)
        assert "goes on by itself" in refused.json()["detail"]
        assert client.get("/readyz").json()["detail"] == refused.json()["detail"]
        with own.kept():
            while (now := client.get("/readyz")).status_code != 200:
                assert now.status_code == 503
        assert make_url(own.url).port != first, (
            "started at another port, which the application follows"
        )
        assert client.post(f"{DOMAIN}/drafts", json={"title": "Found"}).status_code == 201
        titles = {d["title"]: d["id"] for d in client.get(f"{DOMAIN}/drafts").json()}
        assert titles.keys() == {"Kept", "Found"}
        assert titles["Kept"] == saved
    engine.dispose()


def test_the_application_is_no_superuser_and_old_tables_become_its_own(own: Cluster) -> None:
    with psycopg.connect(own._owners_address(), autocommit=True) as owner:
        owner.execute("CREATE TABLE of_an_earlier_version (one serial PRIMARY KEY)")
    own.migrate()
    engine = connect(own.url)
    with engine.begin() as connection:
        connection.execute(text("INSERT INTO of_an_earlier_version DEFAULT VALUES"))
        connection.execute(text("DROP TABLE of_an_earlier_version"))
    for forbidden in (
        "COPY (SELECT 1) TO PROGRAM 'true'",
        "CREATE ROLE other SUPERUSER",
        "SELECT pg_read_file('/etc/passwd')",
    ):
        with engine.connect() as connection, pytest.raises(ProgrammingError) as refused:
            connection.execute(text(forbidden))
        assert isinstance(refused.value.orig, psycopg.errors.InsufficientPrivilege)
    engine.dispose()


def test_nobody_else_can_hold_the_home_folder(
    own: Cluster, monkeypatch: pytest.MonkeyPatch
) -> None:
    for file in ("lock", "in-use", "application-password", "database-password"):
        assert stat.S_IMODE((own.home / file).stat().st_mode) == 0o600
    (own.home / "lock").chmod(0o666)
    own.start()
    assert stat.S_IMODE((own.home / "lock").stat().st_mode) == 0o600
    monkeypatch.setattr(clusters, "_LONGEST_WAIT", 0.1)
    with own._locked(), pytest.raises(ClusterError, match="held by another process"):
        own.start()


def test_a_row_that_somebody_holds_is_not_waited_for_for_ever(
    cluster: Cluster, client: TestClient, engine: Engine, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setitem(database._LIMITS, "lock_timeout", "200ms")
    hurried = connect(cluster.url)
    with TestClient(create_app(hurried)) as other, Session(engine) as holder, holder.begin():
        as_user(other, "ann")
        holder.query(DomainRow).with_for_update().one()
        refused = other.patch(DOMAIN, json={"version": 1, "approval_required": True, "reason": "r"})
        assert (refused.status_code, refused.headers["retry-after"]) == (503, "1")
        assert "busy" in refused.json()["detail"]
    hurried.dispose()
    assert (
        client.patch(
            DOMAIN, json={"version": 1, "approval_required": True, "reason": "r"}
        ).status_code
        == 200
    )


@pytest.mark.parametrize(
    ("error", "status", "words"),
    [
        (psycopg.errors.DiskFull, 503, "disk is full"),
        (psycopg.errors.QueryCanceled, 503, "busy"),
        (psycopg.errors.AdminShutdown, 503, "goes on by itself"),
        (psycopg.errors.TooManyConnections, 503, "busy"),
        (psycopg.errors.NumericValueOutOfRange, 404, "such a number"),
        (psycopg.errors.UndefinedTable, 500, "Nothing was changed"),
    ],
)
def test_what_the_database_says_is_said_in_words(
    error: type[psycopg.Error], status: int, words: str
) -> None:
    answer = answer_database(DBAPIError("SELECT secret", {}, error("secret")))
    assert answer.status_code == status
    assert words in bytes(answer.body).decode()
    assert b"secret" not in answer.body
