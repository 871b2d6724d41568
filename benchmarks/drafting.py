"""A large draft over HTTP: 65 new policies with 200 links each."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable

import httpx2
from fastapi.testclient import TestClient
from sqlalchemy import Engine, text

from hornfels.api.app import create_app

PLACE = "/api/domains/sky.tarnholt.example"
POLICIES, LINKS = 65, 200


def drafting(engine: Engine) -> None:
    """The demo must be stored, and "bench" may sign in."""
    with TestClient(create_app(engine)) as client:
        client.post(
            "/api/session", json={"name": "bench", "password": "bench-password"}
        ).raise_for_status()
        draft = f"{PLACE}~{client.post(f'{PLACE}/drafts', json={}).json()['id']}"
        rows = (
            client.get(f"{PLACE}/accounts?limit=500").json()["rows"]
            + client.get(f"{PLACE}/accounts?limit=500&offset=500").json()["rows"]
        )
        dns = [client.get(f"{PLACE}/accounts/{row['name']}").json()["dn"] for row in rows[:400]]
        for number in range(POLICIES):
            links = [dns[(number * 17 + n) % len(dns)] for n in range(LINKS)]
            body = {
                "name": f"Policy {number}",
                "precedence": 1000 + number,
                "settings": {},
                "links": links,
            }
            client.post(f"{draft}/policies", json=body).raise_for_status()
        guid = next(
            one["guid"]
            for one in client.get(f"{draft}/strata").json()["layers"]
            if one["name"] == "Policy 3"
        )

        def edit(length: int) -> httpx2.Response:
            version = client.get(f"{draft}/policies/{guid}").json()["version"]
            begun = time.perf_counter()
            answer = client.patch(
                f"{draft}/policies/{guid}",
                json={"version": version, "settings": {"min_length": length}},
            )
            times.append(time.perf_counter() - begun)
            return answer

        times: list[float] = []
        for length in range(8, 17):
            edit(length).raise_for_status()
        print(f"\nA draft of {POLICIES} new policies with {LINKS} links each")
        print(f"  {'one more edit':<58}{statistics.median(times) * 1000:>12,.0f} ms")
        listing = _median(lambda: client.get(f"{PLACE}/drafts"))
        print(f"  {'the list of drafts':<58}{listing * 1000:>12,.0f} ms")
        version = client.get(f"{draft}/draft").json()["version"]
        begun = time.perf_counter()
        client.post(f"{draft}/draft/undo", json={"version": version}).raise_for_status()
        print(f"  {'undo':<58}{(time.perf_counter() - begun) * 1000:>12,.0f} ms")
    with engine.connect() as connection:
        sizes = connection.execute(
            text(
                "SELECT length(operations::text), length(past::text) + length(future::text) "
                "FROM drafts"
            )
        ).one()
    print(
        f"  {'operations, and what undo and redo keep':<58}{sizes[0] / 1e6:>12,.1f} MB  and "
        f"{sizes[1] / 1e3:,.0f} KB"
    )


def _median(ask: Callable[[], httpx2.Response]) -> float:
    times = []
    for _ in range(9):
        begun = time.perf_counter()
        ask().raise_for_status()
        times.append(time.perf_counter() - begun)
    return statistics.median(times)
