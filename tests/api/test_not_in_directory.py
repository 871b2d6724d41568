"""What is published or required without a connected directory is not there before it is shown."""

from __future__ import annotations

from typing import Any

from fastapi.testclient import TestClient

from api_help import DOMAIN, DRAFT, draft_step, edit, policy
from dumps import Records, is_policy, records, replaced, without
from imports import stored

VISITORS = "Visiting astronomers"


def published(client: TestClient, **settings: int) -> None:
    draft = f"{DOMAIN}~{client.post(f'{DOMAIN}/drafts', json={}).json()['id']}"
    assert edit(client, policy(client, VISITORS, draft), draft, settings=settings).is_success
    assert draft_step(client, "publish", draft).is_success


def lengthened(client: TestClient, more: int) -> int:
    """Publish a longer minimum length, and return what the length was."""
    length: int = policy(client, VISITORS, DOMAIN)["settings"]["min_length"]
    published(client, min_length=length + more)
    return length


def with_length(found: Records, length: int) -> Records:
    old, new = rb"(?m)^(msDS-MinimumPasswordLength: )\d+", rb"\g<1>%d" % length
    return replaced(found, is_policy(VISITORS), old, new)


def entries(client: TestClient, kind: str) -> list[Any]:
    """Return the entries of the history, the latest first."""
    return [one for one in client.get(f"{DOMAIN}/history").json() if one["kind"] == kind]


def state(client: TestClient) -> tuple[list[bool | None], int]:
    """Return whether each publication is in the directory, and how many are said not to be."""
    points = entries(client, "published")
    return [one["in_directory"] for one in points], client.get("/api/domains").json()[0]["pending"]


def test_a_publication_is_pending_until_an_import_shows_it(
    client: TestClient, demo_ldif: bytes
) -> None:
    found = records(demo_ldif)
    length = lengthened(client, 2)
    assert state(client) == ([False], 1)
    (point,) = entries(client, "published")
    assert point["change_records"]
    file = client.get(f"{DOMAIN}/history/{point['id']}/changes.ldif").text
    assert f"replace: msDS-MinimumPasswordLength\nmsDS-MinimumPasswordLength: {length + 2}" in file
    stored(client, found)
    assert state(client) == ([False], 1), "the dump was made before"
    assert policy(client, VISITORS, DOMAIN)["settings"]["min_length"] == length
    stored(client, with_length(found, length + 2))
    assert state(client) == ([True], 0)
    assert client.get(f"{DOMAIN}/history/{point['id']}/changes.ldif").text == file


def test_a_publication_that_a_later_one_overrides_waits_for_the_later_one(
    client: TestClient, demo_ldif: bytes
) -> None:
    found = records(demo_ldif)
    length = lengthened(client, 2)
    published(client, min_length=length + 4)
    assert state(client) == ([False, False], 2)
    stored(client, with_length(found, length + 2))
    assert state(client)[0][0] is False
    stored(client, with_length(found, length + 4))
    assert state(client) == ([True, True], 0)


def test_a_new_policy_is_pending_until_an_import_shows_it_with_its_links(
    client: TestClient, demo_ldif: bytes
) -> None:
    found = records(demo_ldif)
    before = without(found, is_policy("Kiosk floor"))
    stored(client, before)
    (record,) = filter(is_policy("Kiosk floor"), found)
    fields = dict(line.split(": ", 1) for line in record.decode().split("\n") if ": " in line)
    draft = f"{DOMAIN}~{client.post(f'{DOMAIN}/drafts', json={}).json()['id']}"
    new = {
        "name": "Dusk",
        "precedence": 33,
        "start": "new-domain",
        "copy_of": None,
        "same_links": False,
        "settings": {},
        "links": [fields["msDS-PSOAppliesTo"]],
    }
    made = client.post(f"{draft}/policies", json=new)
    assert made.status_code == 201, made.text
    assert draft_step(client, "publish", draft).is_success
    assert state(client) == ([False], 1)
    stored(client, before)
    assert state(client) == ([False], 1)
    file = client.get(f"{DOMAIN}/history/{entries(client, 'published')[0]['id']}/changes.ldif").text
    added = file[file.index("dn: CN=Dusk") :].split("\n\n")[0].replace("changetype: add\n", "")
    guid = "objectGUID:: MTIzNDU2Nzg5MDEyMzQ1Ng==\n"
    stored(client, [*before, f"{added}\n{guid}".strip().encode()])
    assert state(client) == ([True], 0)


def test_what_no_directory_holds_is_not_pending(client: TestClient) -> None:
    guid, version = (policy(client, VISITORS)[key] for key in ("guid", "version"))
    body = {"version": version, "addition": {"password": [{"run": {"max": 3}}]}}
    assert client.put(f"{DRAFT}/additions/{guid}", json=body).is_success
    assert draft_step(client, "publish").is_success
    assert state(client) == ([None], 0)
    (point,) = entries(client, "published")
    assert not point["change_records"]
    assert client.get(f"{DOMAIN}/history/{point['id']}/changes.ldif").status_code == 404


def test_a_required_password_change_is_pending_until_an_import_shows_it(
    client: TestClient, demo_ldif: bytes
) -> None:
    body = {"accounts": ["ilse.varga"], "reason": "left the badge"}
    assert client.post(f"{DOMAIN}/locks/must-change", json=body).status_code == 201
    assert entries(client, "must change")[0]["in_directory"] is False
    found = records(demo_ldif)
    stored(client, found)
    assert entries(client, "must change")[0]["in_directory"] is False

    def is_ilse(record: bytes) -> bool:
        return b"sAMAccountName: ilse.varga" in record

    stored(client, replaced(found, is_ilse, rb"(?m)^pwdLastSet: \d+", b"pwdLastSet: 0"))
    assert entries(client, "must change")[0]["in_directory"] is True
