"""Figures for a monitoring system, and whether the process is there at all."""

from __future__ import annotations

from fastapi.testclient import TestClient
from sqlalchemy import Engine
from sqlalchemy.orm import Session

from api_help import DOMAIN
from hornfels.store import people
from persons import as_user, let_in


def figures(client: TestClient) -> dict[str, float]:
    text = client.get("/api/metrics").text
    lines = (line.rsplit(" ", 1) for line in text.splitlines() if not line.startswith("#"))
    return {name: float(value) for name, value in lines}


def test_requests_verdicts_jobs_and_ages_are_counted(client: TestClient) -> None:
    before = figures(client)
    body = {"candidate": "Perigee-2031", "operation": "reset", "accounts": ["ilse.varga"]}
    for _ in range(3):
        assert client.post(f"{DOMAIN}/verdicts", json=body).status_code == 200
    many = {"candidates": ["a", "b"], "operation": "reset", "accounts": ["ilse.varga"]}
    client.post(f"{DOMAIN}/verdicts/many", json=many)
    client.request("BREW", f"{DOMAIN}/verdicts")
    after = figures(client)
    assert after["hornfels_verdicts_total"] - before.get("hornfels_verdicts_total", 0) == 5
    posts = 'hornfels_requests_total{method="POST",status="200"}'
    assert after[posts] - before.get(posts, 0) == 4
    assert after['hornfels_requests_total{method="other",status="405"}'] == 1
    age = after['hornfels_directory_age_seconds{domain="sky.tarnholt.example"}']
    assert 0 <= age < 600
    assert "Perigee" not in client.get("/api/metrics").text


def test_ages_are_those_of_domains_that_one_may_see(client: TestClient, engine: Engine) -> None:
    with Session(engine) as session, session.begin():
        let_in(session, "carl", role=None)
        people.grant(session, "carl", "elsewhere.example", "viewer")
    as_user(client, "carl")
    assert "tarnholt" not in client.get("/api/metrics").text


def test_the_process_says_that_it_is_alive(anonymous: TestClient) -> None:
    assert anonymous.get("/healthz").json() == {"alive": True}
