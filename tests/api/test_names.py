"""Names as odd as a directory allows: opened, shown so that they can be seen, exported."""

from __future__ import annotations

import io
from collections.abc import Iterator
from urllib.parse import quote

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import Engine
from sqlalchemy.orm import Session

from api_help import DOMAIN, DRAFT
from hornfels.api.app import create_app
from hornfels.formats.dump import load_dump
from hornfels.formats.ldif import attribute_line
from hornfels.store.estates import save_dump
from persons import as_user, let_in

HIDDEN = "a\u200bb\u202ec"
SHOWN = r"a\u200bb\u202ec"


def dump(domain: str) -> bytes:
    """A domain of this name, with an account and a group whose names hold what cannot be seen."""
    dn = f"DC={domain}"
    entries = [
        {
            "dn": dn,
            "objectClass": "domainDNS",
            "objectSid": "S-1-5-21-1-2-3",
            "minPwdLength": "7",
            "msDS-Behavior-Version": "7",
        },
        {
            "dn": f"CN={HIDDEN},{dn}",
            "objectClass": "user",
            "sAMAccountName": HIDDEN,
            "displayName": f"x{HIDDEN}",
            "objectSid": "S-1-5-21-1-2-3-1001",
        },
        {
            "dn": f"CN=a/b?c,{dn}",
            "objectClass": "user",
            "sAMAccountName": "a/b?c",
            "objectSid": "S-1-5-21-1-2-3-1002",
        },
        {
            "dn": f"CN=g{HIDDEN},{dn}",
            "objectClass": "group",
            "sAMAccountName": f"g{HIDDEN}",
            "groupType": "-2147483646",
            "objectSid": "S-1-5-21-1-2-3-1003",
        },
    ]
    return b"\n".join(
        b"".join(attribute_line(name, value) for name, value in entry.items()) for entry in entries
    )


@pytest.fixture(params=["/", "Ωmega", "a=12", "%2F", "x y", "\u202egro"])
def named(request: pytest.FixtureRequest, engine: Engine) -> Iterator[tuple[TestClient, str]]:
    with Session(engine) as session, session.begin():
        name = save_dump(
            session, load_dump(io.BytesIO(dump(request.param))), "odd.ldif", "tester"
        ).dns_name
        let_in(session, "ann")
    with TestClient(create_app(engine)) as client:
        as_user(client, "ann")
        yield client, name


def test_a_domain_of_any_name_is_opened_edited_and_exported(named: tuple[TestClient, str]) -> None:
    client, name = named
    place = f"/api/domains/{quote(name, safe='')}"
    info = client.get(f"{place}/strata").json()["domain"]
    assert (info["accounts"], info["dns_name"].isprintable()) == (2, True)
    draft = f"{place}~{client.post(f'{place}/drafts', json={}).json()['id']}"
    new = {"name": "Everybody", "precedence": 10, "settings": {}, "links": []}
    assert client.post(f"{draft}/policies", json=new).status_code == 201
    written = client.get(f"{draft}/draft/changes.ldif")
    assert written.status_code == 200
    assert written.headers["content-disposition"].isascii()
    assert client.delete(f"{place}?reason=r&version={info['version']}").status_code == 204
    assert client.get("/api/domains").json() == []


def test_what_cannot_be_seen_is_shown_as_such_and_found_as_it_is_shown(
    named: tuple[TestClient, str],
) -> None:
    client, name = named
    place = f"/api/domains/{quote(name, safe='')}"
    rows = client.get(f"{place}/accounts").json()["rows"]
    assert {(row["name"], row["display_name"]) for row in rows} == {
        (SHOWN, f"x{SHOWN}"),
        ("a/b?c", ""),
    }
    for spelt in (SHOWN, HIDDEN, "a/b?c"):
        found = client.get(f"{place}/accounts/{quote(spelt, safe='')}")
        assert found.status_code == 200
        assert HIDDEN not in found.text
    assert client.get(f"{place}/groups/{quote('g' + SHOWN, safe='')}").json()["name"] == f"g{SHOWN}"
    tried = {"candidate": "Perigee-Transit-31", "operation": "reset", "accounts": [SHOWN]}
    assert client.post(f"{place}/verdicts", json=tried).json()["columns"][0]["account"] == SHOWN


@pytest.mark.parametrize(
    "name", ["a\u200bb", "a\u202eb", "a\x1bb", "a\u2028b", "a\x7fb", "\ufeffab"]
)
def test_names_made_here_can_be_seen(client: TestClient, name: str) -> None:
    new = {"name": name, "precedence": 77, "settings": {}, "links": []}
    refused = client.post(f"{DRAFT}/policies", json=new)
    assert (refused.status_code, refused.json()["detail"][0]["field"]) == (422, "name")
    assert client.post(f"{DOMAIN}/drafts", json={"title": name}).status_code == 422
    assert (
        client.patch(f"{DRAFT}/draft", json={"version": 1, "title": name, "reason": ""}).status_code
        == 422
    )
    several = client.patch(
        f"{DRAFT}/draft", json={"version": 1, "title": "Seen", "reason": "one\nand two"}
    )
    assert several.json()["reason"] == "one\nand two"
