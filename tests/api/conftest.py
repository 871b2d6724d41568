"""The application over the real database, with the demo domain in it."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import UTC, datetime, timedelta

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import Engine, update
from sqlalchemy.orm import Session

from api_help import DOMAIN
from databases import Databases, loaded_now
from hornfels.api.app import create_app
from hornfels.store.database import connect
from hornfels.store.models import SessionRow
from mail_servers import MailServer, mail_server, use
from persons import as_user


@pytest.fixture
def anonymous(demo_stored: None, engine: Engine) -> Iterator[TestClient]:  # noqa: ARG001 - chooses the database
    with TestClient(create_app(engine)) as client:
        yield client


def _with_draft(client: TestClient) -> TestClient:
    """Sign in as ann and open draft 1."""
    as_user(client, "ann")
    assert client.post(f"{DOMAIN}/drafts", json={}).json()["id"] == 1
    return client


@pytest.fixture
def client(anonymous: TestClient) -> TestClient:
    """Signed in as ann, with draft 1 open."""
    return _with_draft(anonymous)


@pytest.fixture(scope="session")
def shared_reader(databases: Databases) -> Iterator[TestClient]:
    engine = connect(databases.shared("demo"))
    with Session(engine) as session, session.begin():
        loaded_now(session)
    with TestClient(create_app(engine)) as client:
        _with_draft(client)
        with Session(engine) as session, session.begin():
            # Else the use of the session would be written down after a minute.
            session.execute(update(SessionRow).values(seen_at=datetime.now(UTC) + timedelta(1)))
        databases.close("demo")
        engine.dispose()
        yield client
    engine.dispose()


@pytest.fixture
def reader(shared_reader: TestClient) -> TestClient:
    """Signed in as ann, with draft 1 open, for tests that only read: all of them share one loaded
    domain. The database refuses what would be written.
    """
    return shared_reader


@pytest.fixture
def server(monkeypatch: pytest.MonkeyPatch) -> Iterator[MailServer]:
    """A mail server that the settings name."""
    with mail_server() as found:
        use(found, monkeypatch)
        yield found
