"""Two web servers on two ports, before one database."""

from __future__ import annotations

from collections.abc import Iterator

import httpx2
import pytest
from sqlalchemy import Engine

from api_help import DOMAIN
from hornfels.api.app import create_app
from hornfels.api.guard import COOKIE
from hornfels.store.cluster import Cluster
from hornfels.store.database import connect
from persons import token_for
from served import served


@pytest.fixture
def servers(
    demo_stored: None,  # noqa: ARG001 - chooses the database
    cluster: Cluster,
    engine: Engine,
) -> Iterator[list[httpx2.Client]]:
    """ann at one of them, ben at the other."""
    other = connect(cluster.url)
    with served(create_app(engine)) as one, served(create_app(other)) as two:
        clients = [
            httpx2.Client(
                base_url=f"http://127.0.0.1:{port}", cookies={COOKIE: token_for(engine, name)}
            )
            for port, name in ((one, "ann"), (two, "ben"))
        ]
        yield clients
        for client in clients:
            client.close()
    other.dispose()


def test_an_edit_is_seen_by_both_at_once(servers: list[httpx2.Client]) -> None:
    one, two = servers
    draft = one.post(f"{DOMAIN}/drafts", json={}).json()["id"]
    place = f"{DOMAIN}~{draft}"

    def night(client: httpx2.Client) -> dict[str, object]:
        layers = client.get(f"{place}/strata").json()["layers"]
        guid = next(layer["guid"] for layer in layers if layer["name"] == "Night operators")
        found: dict[str, object] = client.get(f"{place}/policies/{guid}").json()
        return found

    for length, (writer, reader) in enumerate([(one, two), (two, one)] * 3, start=15):
        seen = night(writer)
        body = {"version": seen["version"], "settings": {"min_length": length}}
        answer = writer.patch(f"{place}/policies/{seen['guid']}", json=body)
        assert answer.status_code == 200
        assert night(reader) == night(writer) == answer.json()
    stale = {"version": seen["version"], "settings": {"min_length": 99}}
    for client in servers:
        assert client.patch(f"{place}/policies/{seen['guid']}", json=stale).status_code == 409
    version = two.get(f"{place}/draft").json()["version"]
    assert two.post(f"{place}/draft/publish", json={"version": version}).status_code == 200
    live = one.get(f"{DOMAIN}/strata").json()["layers"]
    assert next(p for p in live if p["name"] == "Night operators")["settings"]["min_length"] == 20
    assert one.get(f"{place}/draft").status_code == 404
