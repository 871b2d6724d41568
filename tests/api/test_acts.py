"""Approval cannot be walked round: what could is an act with a reason, and of two people where
approval is required.
"""

from __future__ import annotations

from typing import Any

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import Engine, update
from sqlalchemy.orm import Session

from api_help import DOMAIN, DRAFT, draft_step, edit, follow, policy
from dumps import ldif, records, without
from hornfels.store import people
from hornfels.store.models import DomainRow
from persons import as_user, let_in

TINY = (
    b"dn: DC=%b,DC=example\nobjectClass: domainDNS\nobjectSid: S-1-5-21-1-2-3\n"
    b"minPwdLength: 7\nmsDS-Behavior-Version: 7\n\n"
    b"dn: CN=One,DC=%b,DC=example\nobjectClass: user\nsAMAccountName: one\n"
    b"objectSid: S-1-5-21-1-2-3-2001\n\n"
)


def tiny(domain: bytes) -> bytes:
    """A dump of a domain with a single account."""
    return TINY % (domain, domain)


@pytest.fixture
def guarded(client: TestClient, engine: Engine) -> TestClient:
    """A domain that requires approval."""
    with Session(engine) as session, session.begin():
        session.execute(update(DomainRow).values(approval_required=True))
    return client


def choose(client: TestClient, **wanted: Any) -> Any:
    info = client.get("/api/domains").json()[0]
    return client.patch(DOMAIN, json={"version": info["version"], "reason": "r", **wanted})


def test_settings_of_approval_take_a_reason_and_where_it_is_required_a_second_person(
    client: TestClient,
) -> None:
    bare = choose(client, approval_required=True, reason=" ")
    assert bare.json()["detail"][0]["field"] == "reason"
    assert choose(client, approval_required=True).json()["approval_required"] is True
    assert choose(client, approval_required=False).json()["approval_required"] is True
    (act,) = client.get("/api/acts").json()
    assert (act["mine"], act["asked_by"], act["reason"]) == (True, "ann", "r")
    assert act["sentence"] == "Publishing in sky.tarnholt.example wants no approval"
    own = client.post(f"/api/acts/{act['id']}/confirm")
    assert (own.status_code, "somebody else" in own.json()["detail"]) == (409, True)
    as_user(client, "ben")
    assert client.post(f"/api/acts/{act['id']}/confirm").json() == {
        "waits": False,
        "one_time": None,
    }
    assert client.get("/api/domains").json()[0]["approval_required"] is False
    assert client.post(f"/api/acts/{act['id']}/confirm").status_code == 404


def test_an_act_is_withdrawn_and_confirmed_only_by_whom_it_concerns(
    guarded: TestClient, engine: Engine
) -> None:
    with Session(engine) as session, session.begin():
        let_in(session, "carl", role="author")
    choose(guarded, trials_required=True)
    (act,) = guarded.get("/api/acts").json()
    as_user(guarded, "carl")
    assert guarded.get("/api/acts").json() == []
    assert guarded.post(f"/api/acts/{act['id']}/confirm").status_code == 403
    assert guarded.delete(f"/api/acts/{act['id']}").status_code == 403
    as_user(guarded, "ann")
    assert guarded.delete(f"/api/acts/{act['id']}").status_code == 204
    assert guarded.get("/api/domains").json()[0]["trials_required"] is False


def test_whoever_has_contributed_cannot_approve_however_it_was_touched_since(
    guarded: TestClient,
) -> None:
    as_user(guarded, "ben")
    edit(guarded, policy(guarded, "Night operators"), settings={"min_length": 16})
    as_user(guarded, "ann")
    seen = guarded.get(f"{DRAFT}/draft").json()
    guarded.patch(
        f"{DRAFT}/draft", json={"version": seen["version"], "title": "Mine", "reason": ""}
    )
    as_user(guarded, "ben")
    assert (
        "you wrote or changed this draft yourself"
        in draft_step(guarded, "approve").json()["detail"]
    )
    assert draft_step(guarded, "publish").status_code == 409


def test_taking_a_domain_out_and_loading_it_again_does_not_lift_approval(
    guarded: TestClient,
) -> None:
    version = guarded.get("/api/domains").json()[0]["version"]
    bare = guarded.delete(f"{DOMAIN}?version={version}")
    assert bare.json()["detail"][0]["field"] == "reason"
    assert guarded.delete(f"{DOMAIN}?version={version}&reason=r").status_code == 204
    assert len(guarded.get("/api/domains").json()) == 1
    as_user(guarded, "ben")
    (act,) = guarded.get("/api/acts").json()
    assert guarded.post(f"/api/acts/{act['id']}/confirm").status_code == 200
    assert guarded.get("/api/domains").json() == []


def is_visitor(record: bytes) -> bool:
    return b",OU=Visitors," in record.partition(b"\nobjectClass")[0]


@pytest.mark.parametrize("required", [False, True], ids=["one person", "two people"])
def test_a_load_that_loses_accounts_is_held_until_it_is_confirmed(
    client: TestClient, engine: Engine, demo_ldif: bytes, required: bool
) -> None:
    if required:
        with Session(engine) as session, session.begin():
            session.execute(update(DomainRow).values(approval_required=True))
    lost = ldif(without(records(demo_ldif), is_visitor))
    job = client.post("/api/loads?name=tiny.ldif", content=lost).json()["id"]
    held = follow(client, job)
    assert (held["state"], held["can_retry"]) == ("held", False)
    assert "would lose protection by tiny.ldif" in held["error"]
    assert held["losses"] == ["Accounts: 1,184 in Hornfels, 971 of them in the new copy"]
    assert client.get("/api/domains").json()[0]["accounts"] == 1184
    bare = client.post(f"/api/jobs/{job}/confirm", json={"reason": ""})
    assert bare.status_code == 422
    said = client.post(f"/api/jobs/{job}/confirm", json={"reason": "split off"}).json()
    if required:
        assert said["state"] == "held"
        again = client.post(f"/api/jobs/{job}/confirm", json={"reason": "once more"})
        assert (again.status_code, "already" in again.json()["detail"]) == (409, True)
        as_user(client, "ben")
        (act,) = client.get("/api/acts").json()
        assert act["details"] == held["losses"]
        client.post(f"/api/acts/{act['id']}/confirm")
    assert follow(client, job)["state"] == "done"
    assert client.get("/api/domains").json()[0]["accounts"] == 971


def test_a_load_is_for_whoever_may_load_that_domain(client: TestClient, engine: Engine) -> None:
    with Session(engine) as session, session.begin():
        let_in(session, "carl", role=None)
        people.grant(session, "carl", "elsewhere.example", "administrator")
    as_user(client, "carl")
    job = client.post("/api/loads?name=tiny.ldif", content=tiny(b"small")).json()["id"]
    assert "carl may not load" in follow(client, job)["error"]
    as_user(client, "ben")
    assert [one["id"] for one in client.get("/api/loads").json()] == [job]
    with Session(engine) as session, session.begin():
        let_in(session, "dora", role="author")
    as_user(client, "dora")
    assert client.get(f"/api/jobs/{job}").status_code == 404
    assert client.post(f"/api/jobs/{job}/retry").status_code == 404


def test_roles_and_passwords_of_others_wait_for_a_second_person(guarded: TestClient) -> None:
    def ask(path: str, body: dict[str, Any]) -> Any:
        return guarded.post(f"/api/people/{path}", json=body)

    added = guarded.post("/api/people", json={"name": "carl"}).json()
    assert (added["waits"], bool(added["one_time"])) == (False, True)
    role = {"domain": "*", "role": "approver", "held": True, "reason": "r"}
    assert ask("carl/roles", role).json()["waits"] is True
    assert ask("ben/sign-in", {"what": "reset", "reason": "r"}).json()["waits"] is True
    assert ask("nobody/roles", role).status_code == 404
    as_user(guarded, "ben")
    grant, reset = guarded.get("/api/acts").json()
    assert grant["sentence"] == "carl becomes approver everywhere"
    own = guarded.post(f"/api/acts/{reset['id']}/confirm")
    assert "about yourself" in own.json()["detail"]
    assert guarded.post(f"/api/acts/{grant['id']}/confirm").status_code == 200
    held = {p["name"]: p["grants"] for p in guarded.get("/api/people").json()["people"]}
    assert held["carl"] == [{"domain": "*", "role": "approver"}]


def test_the_last_administrator_stays_one(client: TestClient) -> None:
    taken = {"domain": "*", "role": "administrator", "held": False, "reason": "r"}
    for path, bare in (("roles", {**taken, "reason": ""}), ("sign-in", {"what": "shut"})):
        refused = client.post(f"/api/people/ben/{path}", json=bare)
        assert refused.json()["detail"][0]["field"] == "reason"
    assert client.post("/api/people/ben/roles", json=taken).status_code == 200
    for path, body in (("roles", taken), ("sign-in", {"what": "shut", "reason": "r"})):
        last = client.post(f"/api/people/ann/{path}", json=body)
        assert (last.status_code, "last administrator" in last.json()["detail"]) == (409, True)


@pytest.mark.parametrize(
    ("name", "words"),
    [("", "Give a name"), (" x", "blanks"), ("a\u202eb", "hidden"), ("ANN", "ann may sign in")],
)
def test_an_odd_or_taken_name_is_refused(reader: TestClient, name: str, words: str) -> None:
    refused = reader.post("/api/people", json={"name": name})
    assert refused.status_code == 422
    assert words in refused.json()["detail"][0]["message"]
