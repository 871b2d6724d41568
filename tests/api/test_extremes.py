"""Whatever numbers and names a directory holds, every screen answers, and soon."""

from __future__ import annotations

import io
import re
from collections.abc import Iterator

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import Engine

from api_help import DOMAIN, holding
from hornfels.core.policy.catalogue import CATALOGUE
from hornfels.formats.dump import load_dump

ATTRIBUTES = {
    name for s in CATALOGUE if s.kind != "switch" for name in (s.pso_attribute, s.domain_attribute)
}
READ = [
    "/strata",
    "/accounts",
    "/accounts?policy=domain",
    "/accounts/ilse.varga",
    "/findings",
    "/card?account=ilse.varga",
    "/card?policy=domain",
    "/history",
    "/drafts",
    "/trials",
    "/search?q=i",
    "/draft/impact",
    "/draft/changes.ldif",
    "/groups/gs-visiting-astronomers",
]


def with_numbers(ldif: bytes, number: int) -> bytes:
    pattern = "|".join(map(re.escape, ATTRIBUTES))
    return re.sub(rb"(?m)^(%s): -?\d+$" % pattern.encode(), rb"\1: %d" % number, ldif)


@pytest.fixture(params=[2**63 - 1, -(2**63), 300_000_000, -1, 0, 2**31], ids=str)
def client(
    request: pytest.FixtureRequest, engine: Engine, demo_ldif: bytes
) -> Iterator[TestClient]:
    dump = load_dump(io.BytesIO(with_numbers(demo_ldif, request.param)))
    assert {p.settings.min_length for p in dump.estate.policies} == {request.param}
    with holding(engine, dump) as client:
        yield client


def test_every_screen_answers(client: TestClient) -> None:
    draft = client.post(f"{DOMAIN}/drafts", json={}).json()["id"]
    found = client.get(f"{DOMAIN}/strata").json()["layers"]
    for place in (DOMAIN, f"{DOMAIN}~{draft}"):
        for path in READ:
            if place == DOMAIN and path.startswith("/draft/"):
                continue
            answer = client.get(f"{place}{path}")
            assert answer.status_code == 200, (path, answer.text)
        for layer in found:
            assert client.get(f"{place}/policies/{layer['guid']}").status_code == 200
    for operation in ("change", "reset"):
        for who in ({"account": "ilse.varga"}, {"policy": "domain"}):
            answer = client.post(
                f"{DOMAIN}/boundaries", json={**who, "operation": operation}
            ).json()
            assert answer["candidates"] or answer["without"]
            tried = {
                "candidate": "Some-thing 2",
                "operation": operation,
                "accounts": ["ilse.varga"],
                "policies": ["domain"],
            }
            assert client.post(f"{DOMAIN}/verdicts", json=tried).status_code == 200
    assert client.post(f"{DOMAIN}/suggestions", json={"account": "ilse.varga"}).status_code == 200
    guid = found[0]["guid"]
    assert client.post(f"{DOMAIN}/what-if", json={"guid": guid, "precedence": 7}).status_code == 200


def test_what_cannot_be_drawn_is_said(client: TestClient) -> None:
    length = client.get(f"{DOMAIN}/strata").json()["bedrock"]["settings"]["min_length"]
    answer = client.post(
        f"{DOMAIN}/boundaries", json={"policy": "domain", "operation": "reset"}
    ).json()
    assert ("more than any password has" in " ".join(answer["without"])) == (length > 1024)
