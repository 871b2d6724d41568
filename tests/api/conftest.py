"""The application over the real database, with the demo domain in it."""

from __future__ import annotations

from collections.abc import Iterator

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import Engine

from api_help import DOMAIN
from hornfels.api.app import create_app
from persons import as_user


@pytest.fixture
def anonymous(demo_stored: None, engine: Engine) -> Iterator[TestClient]:  # noqa: ARG001 - chooses the database
    with TestClient(create_app(engine)) as client:
        yield client


@pytest.fixture
def client(anonymous: TestClient) -> TestClient:
    """Signed in as ann, with draft 1 open."""
    as_user(anonymous, "ann")
    assert anonymous.post(f"{DOMAIN}/drafts", json={}).json()["id"] == 1
    return anonymous
