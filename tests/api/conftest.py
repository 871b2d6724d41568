"""The application over the real database, with the demo domain in it."""

from __future__ import annotations

from collections.abc import Iterator

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import Engine
from sqlalchemy.orm import Session

from api_help import DOMAIN
from hornfels.api.app import create_app
from hornfels.formats.dump import Dump
from hornfels.store.estates import save_dump
from persons import as_user, let_in


@pytest.fixture
def anonymous(engine: Engine, demo: Dump) -> Iterator[TestClient]:
    with Session(engine) as session, session.begin():
        save_dump(session, demo, "tarnholt.ldif", "tester")
        let_in(session, "ann", "ben")
    with TestClient(create_app(engine)) as client:
        yield client


@pytest.fixture
def client(anonymous: TestClient) -> TestClient:
    """Signed in as ann, with draft 1 open."""
    as_user(anonymous, "ann")
    assert anonymous.post(f"{DOMAIN}/drafts", json={}).json()["id"] == 1
    return anonymous
