"""Whose passwords are compromised is told to those who may see it, and to nobody else by a detour.

Every answer that a person without the right can get is fetched before and after passwords become
compromised and accounts have to choose others for that: not one account more may be named, and no
file of the machine.
"""

from __future__ import annotations

from pathlib import Path

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import Engine
from sqlalchemy.orm import Session

from api_help import DOMAIN, description, follow
from hornfels.core.passwords.digests import nt_hash
from hornfels.core.rights.roles import ALLOWED, ROLES, Role
from hornfels.demo.tarnholt import DNS_NAME
from hornfels.formats.corpus import shelf
from hornfels.formats.corpus.building import build
from hornfels.store.models import PointRow
from persons import as_user, let_in

COMPROMISED = ("ilse.varga", "odile.quarrie", "svc-dome6")
REASON = "Reset for ilse.varga after the mail of Monday"
WITHOUT = [role for role in ROLES if "exposed" not in ALLOWED[role]]


@pytest.fixture
def compromised(
    client: TestClient, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> tuple[TestClient, Path]:
    """A list that holds the passwords of some accounts, and their hashes; nothing was compared."""
    lists, hashes = tmp_path / "corpora", tmp_path / "hashes"
    for folder in (lists, hashes):
        folder.mkdir()
    monkeypatch.setenv("HORNFELS_CORPORA", str(lists))
    monkeypatch.setenv("HORNFELS_HASHES", str(hashes))
    monkeypatch.setattr(shelf, "_LOOK_EVERY", 0.0)
    (lists / "words").write_text("orbit\n")
    build(lists / "known.hfc", "plain", [lists / "words"])
    file = hashes / f"{DNS_NAME}.hashes"
    file.touch(0o600)
    file.write_text("".join(f"{name},{nt_hash('orbit').hex()}\n" for name in COMPROMISED))
    return client, tmp_path


def happens(client: TestClient, home: Path) -> str:
    """Accounts are compared, have to choose other passwords, and a later comparison fails; the job
    of which this is.
    """
    look = f"{DOMAIN}/exposure/look"
    follow(client, client.post(look, json={}).json()["id"])
    for ref in (one["policy"] for one in client.get(f"{DOMAIN}/exposure").json()["policies"]):
        order = {"consequence": "now", "days": 0, "standing": False, "reason": "agreed"}
        client.put(f"{DOMAIN}/exposure/orders/{ref}", json=order)
    listed = client.get(f"{DOMAIN}/exposure/accounts").json()["accounts"]
    for name in (one["name"] for one in listed if one["due_at"]):
        body = {"accounts": [name], "reason": REASON}
        assert client.post(f"{DOMAIN}/exposure/plan", json=body).status_code == 201
    (home / "hashes" / f"{DNS_NAME}.hashes").chmod(0o644)
    failed: str = client.post(look, json={}).json()["id"]
    assert follow(client, failed)["state"] == "failed"
    return failed


class Filled(dict[str, str]):
    """Values of path parameters; "1" for every other parameter."""

    def __missing__(self, _key: str) -> str:
        return "1"


def answers(client: TestClient, points: list[int], job: str = "") -> dict[str, str]:
    """Every answer to a GET that can be filled in, by its address."""
    guid = client.get(f"{DOMAIN}/strata").json()["layers"][0]["guid"]
    filled = {"domain": DNS_NAME, "name": "GS-Workshop", "guid": guid, "policy": guid, "job": job}
    found = {}
    for path, operations in description()["paths"].items():
        if "get" not in operations or path.endswith("/events"):
            continue
        for number in points if "{point}" in path else [1]:
            place = path.format_map(Filled(filled | {"point": str(number)}))
            found[place] = client.get(place).text
    return found


@pytest.mark.first_case
@pytest.mark.parametrize("role", WITHOUT)
def test_nobody_without_the_right_reads_whose_passwords_are_compromised(
    compromised: tuple[TestClient, Path], engine: Engine, role: Role
) -> None:
    client, home = compromised
    with Session(engine) as session, session.begin():
        let_in(session, "vera", role=role)
    as_user(client, "vera")
    before = answers(client, [1])
    as_user(client, "ann")
    job = happens(client, home)
    with Session(engine) as session:
        points = {row.id: row.confidential for row in session.query(PointRow)}
    assert sum(points.values()) == len(COMPROMISED)
    as_user(client, "vera")
    for place, text in answers(client, list(points), job).items():
        named = [name for name in COMPROMISED if name in text and name not in before.get(place, "")]
        assert not named, f"{place} names {named}"
        assert str(home) not in text, place
        assert REASON not in text, place
