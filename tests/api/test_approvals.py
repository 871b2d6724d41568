"""An approval is for a text: a draft that says another thing than the approver has read is not
approved.
"""

from __future__ import annotations

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import Engine, update
from sqlalchemy.orm import Session

from api_help import DOMAIN, DRAFT, draft_step, edit, policy
from dumps import Records, dump, guid_of, is_policy, records, renamed, replaced, without
from hornfels.store.estates import save_dump
from hornfels.store.models import DomainRow, PolicyRow
from persons import as_user

DOME_ROTA = "CN=GS-Dome-Rota,OU=Groups,DC=sky,DC=tarnholt,DC=example"
GUID = rb"objectGUID:: [^\n]+"


@pytest.fixture
def approved(client: TestClient, engine: Engine) -> TestClient:
    """Ann's draft links Systems stewards to one more group; ben has approved the draft."""
    with Session(engine) as session, session.begin():
        session.execute(update(DomainRow).values(approval_required=True))
    stewards = policy(client, "Systems stewards")
    body = {"version": stewards["version"], "dn": DOME_ROTA}
    assert client.post(f"{DRAFT}/policies/{stewards['guid']}/links", json=body).is_success
    as_user(client, "ben")
    assert draft_step(client, "approve").json()["approved_by"] == "ben"
    return client


def is_dome_rota(record: bytes) -> bool:
    return record.startswith(f"dn: {DOME_ROTA}".encode())


def imported(engine: Engine, found: Records) -> None:
    with Session(engine) as session, session.begin():
        save_dump(session, dump(found), "again.ldif", "ann")


def test_an_approval_ends_where_a_dump_gives_the_draft_another_policy(
    approved: TestClient, engine: Engine, demo_ldif: bytes
) -> None:
    before = approved.get(f"{DRAFT}/draft").json()
    whole = records(demo_ldif)
    gone = without(whole, is_policy("Kiosk floor"))
    imported(engine, gone)
    kiosk = guid_of(whole, "Kiosk floor")
    imported(engine, replaced(gone, is_policy("Systems stewards"), GUID, kiosk))
    imported(engine, whole)
    seen = approved.get(f"{DRAFT}/draft").json()
    assert seen["approved_by"] is None
    assert seen["version"] > before["version"]
    assert seen["approval_ended"]
    refused = draft_step(approved, "publish")
    assert (refused.status_code, "approved" in refused.json()["detail"]) == (409, True)
    links = policy(approved, "Kiosk floor", DOMAIN)["links"]
    assert DOME_ROTA not in [link["dn"] for link in links]


@pytest.mark.parametrize("another", ["policy", "group"])
def test_an_approval_ends_where_an_object_of_the_text_is_another_one(
    approved: TestClient, engine: Engine, demo_ldif: bytes, another: str
) -> None:
    found = records(demo_ldif)
    if another == "policy":
        imported(engine, renamed(found, "Systems stewards", "Kiosk staff"))
        reason = "“Systems stewards” is “Kiosk staff” now."
    else:
        sid = b"objectSid: S-1-5-21-1-2-3-99999"
        imported(engine, replaced(found, is_dome_rota, rb"objectSid:: [^\n]+", sid))
        reason = "“GS-Dome-Rota” is another object in the directory now"
    seen = approved.get(f"{DRAFT}/draft").json()
    assert (seen["approved_by"], reason in seen["approval_ended"]) == (None, True)
    entry = approved.get("/api/trail", params={"what": "approval ended"}).json()["entries"][0]
    assert reason in entry["detail"]["reason"]
    assert draft_step(approved, "approve").json()["approval_ended"] == ""


def test_an_approval_outlasts_an_import_that_says_the_same(
    approved: TestClient, engine: Engine, demo_ldif: bytes
) -> None:
    before = approved.get(f"{DRAFT}/draft").json()
    imported(engine, records(demo_ldif))
    assert approved.get(f"{DRAFT}/draft").json()["version"] == before["version"]
    assert draft_step(approved, "publish").status_code == 200


def test_an_approver_approves_the_text_on_the_screen(
    client: TestClient, engine: Engine, demo_ldif: bytes
) -> None:
    edit(client, policy(client, "Systems stewards"), settings={"min_length": 20})
    as_user(client, "ben")
    seen = client.get(f"{DRAFT}/draft").json()
    imported(engine, renamed(records(demo_ldif), "Systems stewards", "Robots"))
    body = {"version": seen["version"], "text": seen["text"]}
    refused = client.post(f"{DRAFT}/draft/approve", json=body)
    assert (refused.status_code, "was not approved" in refused.json()["detail"]) == (409, True)


def test_publishing_compares_the_text_once_more(approved: TestClient, engine: Engine) -> None:
    with Session(engine) as session, session.begin():
        session.execute(update(DomainRow).values(version=DomainRow.version + 1))
        stewards = PolicyRow.name == "Systems stewards"
        session.execute(update(PolicyRow).where(stewards).values(name="Kiosk floors"))
    refused = draft_step(approved, "publish")
    assert refused.status_code == 409
    assert "“Systems stewards” is “Kiosk floors” now." in refused.json()["detail"]
    assert approved.get(f"{DRAFT}/draft").json()["approved_by"] is None


def test_a_publish_that_renames_a_policy_ends_approvals_of_other_drafts(
    approved: TestClient,
) -> None:
    as_user(approved, "ann")
    other = f"{DOMAIN}~{approved.post(f'{DOMAIN}/drafts', json={'title': 'B'}).json()['id']}"
    edit(approved, policy(approved, "Systems stewards", other), other, name="Stewards")
    as_user(approved, "ben")
    draft_step(approved, "approve", other)
    assert draft_step(approved, "publish", other).status_code == 200
    assert approved.get(f"{DRAFT}/draft").json()["approved_by"] is None
