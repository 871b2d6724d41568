"""What API tests say to the application again and again."""

from __future__ import annotations

import asyncio
from concurrent.futures import ThreadPoolExecutor
from typing import Any

from fastapi import FastAPI
from fastapi.testclient import TestClient
from sqlalchemy import Engine

from hornfels.store.database import connect
from hornfels.worker.work import work

DOMAIN = "/api/domains/sky.tarnholt.example"
DRAFT = f"{DOMAIN}~1"


def policy(client: TestClient, name: str, place: str = DRAFT) -> dict[str, Any]:
    layers = client.get(f"{place}/strata").json()["layers"]
    guid = next(layer["guid"] for layer in layers if layer["name"] == name)
    answer: dict[str, Any] = client.get(f"{place}/policies/{guid}").json()
    return answer


def edit(client: TestClient, before: dict[str, Any], place: str = DRAFT, **changes: object) -> Any:
    return client.patch(
        f"{place}/policies/{before['guid']}", json={"version": before["version"], **changes}
    )


def follow(client: TestClient, job: str) -> dict[str, Any]:
    """Let a worker do what waits, and say how the job is then."""
    engine = patient(client)
    work_off(engine)
    engine.dispose()
    answer: dict[str, Any] = client.get(f"/api/jobs/{job}").json()
    return answer


def work_off(engine: Engine, **options: Any) -> None:
    """Do all jobs that wait. In a thread of its own: the browser tests leave an event loop running
    in theirs.
    """
    with ThreadPoolExecutor(1) as pool:
        pool.submit(lambda: asyncio.run(work(engine, once=True, **options))).result()


def patient(client: TestClient) -> Engine:
    """A worker's engine on the database that the application uses."""
    assert isinstance(client.app, FastAPI)
    address = client.app.state.engine.url.render_as_string(hide_password=False)
    return connect(address, patient=True)
