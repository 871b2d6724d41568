"""Imports of dumps through the API, also those that are held."""

from __future__ import annotations

from typing import Any

from fastapi.testclient import TestClient

from api_help import follow
from dumps import Records, ldif


def loaded(client: TestClient, found: Records) -> dict[str, Any]:
    job = client.post("/api/loads?name=again.ldif", content=ldif(found)).json()["id"]
    return follow(client, job)


def confirmed(client: TestClient, job: dict[str, Any]) -> dict[str, Any]:
    answer = client.post(f"/api/jobs/{job['id']}/confirm", json={"reason": "agreed"})
    assert answer.status_code == 200, answer.text
    return follow(client, job["id"])


def stored(client: TestClient, found: Records) -> None:
    """Import a dump, and confirm what is lost by that."""
    job = loaded(client, found)
    if job["state"] == "held":
        job = confirmed(client, job)
    assert job["state"] == "done", job["error"]
