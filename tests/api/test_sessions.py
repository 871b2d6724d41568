"""Sessions: begun, ended, proven again; passwords of our own people."""

from __future__ import annotations

from datetime import timedelta
from typing import Any

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import Engine, func, update
from sqlalchemy.orm import Session

from api_help import DOMAIN, DRAFT, edit, policy
from hornfels.api.guard import COOKIE
from hornfels.service import people as service
from hornfels.store.models import SessionRow
from persons import PASSWORD, as_user

FRESH = "Quiet-Harbour-19"


def sign_in(client: TestClient, password: str = PASSWORD, name: str = "ann") -> Any:
    return client.post("/api/session", json={"name": name, "password": password})


def grow_old(client: TestClient, engine: Engine) -> None:
    """Let it be ten minutes since anybody gave a password."""
    with Session(engine) as session, session.begin():
        session.execute(update(SessionRow).values(proved_at=func.now() - timedelta(minutes=10)))
    as_nobody_new(client)


def as_nobody_new(client: TestClient) -> None:
    client.app.state.visitors.forget()  # type: ignore[attr-defined]


def test_a_new_sign_in_ends_what_this_browser_had(anonymous: TestClient) -> None:
    assert sign_in(anonymous).json()["everywhere"][0] == "see"
    old = anonymous.cookies[COOKIE]
    assert sign_in(anonymous).status_code == 200
    assert anonymous.cookies[COOKIE] != old
    anonymous.cookies.clear()
    assert anonymous.get("/api/domains", headers={"cookie": f"{COOKIE}={old}"}).status_code == 401


def test_ones_sessions_are_listed_and_ended(anonymous: TestClient) -> None:
    for _ in range(3):
        as_user(anonymous, "ann")
    as_user(anonymous, "ben")
    other = anonymous.get("/api/session/all").json()
    assert [one["here"] for one in other] == [True]
    as_user(anonymous, "ann")
    mine = anonymous.get("/api/session/all").json()
    assert sorted(one["here"] for one in mine) == [False, False, False, True]
    there = next(one["id"] for one in mine if not one["here"])
    assert anonymous.delete(f"/api/session/all/{other[0]['id']}").status_code == 404
    assert anonymous.delete(f"/api/session/all/{there}").status_code == 204
    assert anonymous.delete(f"/api/session/all/{there}").status_code == 404
    assert anonymous.delete("/api/session/all").status_code == 204
    assert [one["here"] for one in anonymous.get("/api/session/all").json()] == [True]


def test_what_weighs_much_takes_the_password_once_more(client: TestClient, engine: Engine) -> None:
    edit(client, policy(client, "Night operators"), settings={"min_length": 16})
    grow_old(client, engine)
    version = client.get(f"{DRAFT}/draft").json()["version"]
    locked = [one["name"] for one in client.get(f"{DOMAIN}/locks").json()["locked"]]
    asked: list[tuple[str, str, Any]] = [
        ("POST", f"{DRAFT}/draft/publish", {"version": version}),
        ("POST", f"{DOMAIN}/locks/unlockings", {"accounts": locked, "reason": "r"}),
        ("POST", "/api/people", {"name": "carl"}),
        (
            "POST",
            "/api/people/ben/roles",
            {"domain": "*", "role": "viewer", "held": True, "reason": "r"},
        ),
        ("POST", "/api/people/ben/sign-in", {"what": "shut", "reason": "r"}),
        ("PATCH", DOMAIN, {"version": 1, "approval_required": True, "reason": "r"}),
        ("DELETE", f"{DOMAIN}?version=1&reason=r", None),
        (
            "POST",
            "/api/session/tokens",
            {"title": "t", "domain": "*", "rights": ["see"], "days": 1},
        ),
    ]
    for method, path, body in asked:
        refused = client.request(method, path, json=body)
        assert (refused.status_code, refused.headers.get("needs")) == (403, "password"), path
    wrong = client.post("/api/session/proof", json={"password": "wrong"})
    assert (wrong.status_code, wrong.headers.get("needs")) == (403, None)
    assert client.post("/api/session/proof", json={"password": PASSWORD}).status_code == 204
    for method, path, body in asked:
        # The one before may have changed what this one was made for.
        assert client.request(method, path, json=body).status_code in (200, 201, 204, 409), path


def test_one_account_is_unlocked_without_the_password(client: TestClient, engine: Engine) -> None:
    grow_old(client, engine)
    locked = client.get(f"{DOMAIN}/locks").json()["locked"][0]["name"]
    body = {"accounts": [locked], "reason": "r"}
    assert client.post(f"{DOMAIN}/locks/unlockings", json=body).status_code == 201


def test_a_password_is_changed_by_our_own_rules_and_ends_other_sessions(
    client: TestClient,
) -> None:
    def change(present: str, fresh: str) -> Any:
        body = {"present": present, "fresh": fresh}
        return client.post("/api/session/password", json=body)

    elsewhere = client.cookies[COOKIE]
    as_user(client, "ann")
    for fresh, words in (
        ("Short-1", "needs at least 15"),
        ("aaaaaaaaaaaaaaaa", "in a row, 16 long"),
        ("under abcdefgh bridges", "a stretch of the alphabet"),
        ("This-is-Ann-s-own", "from your own name"),
    ):
        refused = change(PASSWORD, fresh).json()["detail"][0]
        assert (refused["field"], words in refused["message"]) == ("fresh", True)
        assert fresh not in str(refused)
    assert change("wrong", FRESH).json()["detail"][0]["field"] == "present"
    # Length alone is enough: no kinds of characters are required.
    assert change(PASSWORD, "quiet water under old bridges").status_code == 204
    assert change("quiet water under old bridges", FRESH).status_code == 204
    assert change(FRESH, FRESH).json()["detail"][0]["field"] == "fresh"
    assert client.get("/api/settings").status_code == 200
    client.cookies.clear()
    assert (
        client.get("/api/settings", headers={"cookie": f"{COOKIE}={elsewhere}"}).status_code == 401
    )
    assert sign_in(client).status_code == 403
    assert sign_in(client, FRESH).status_code == 200


def test_a_one_time_password_opens_nothing_but_the_way_to_another_one(
    anonymous: TestClient, engine: Engine
) -> None:
    with Session(engine) as session, session.begin():
        given = service.add(session, "carl") or ""
        service.grant(session, "carl", "*", "viewer")
    assert sign_in(anonymous, given, "carl").json()["one_time"] is True
    refused = anonymous.get("/api/domains")
    assert (refused.status_code, refused.headers["needs"]) == (403, "new-password")
    body = {"present": given, "fresh": FRESH}
    assert anonymous.post("/api/session/password", json=body).status_code == 204
    assert anonymous.get("/api/domains").status_code == 200
    assert sign_in(anonymous, given, "carl").status_code == 403


def test_the_first_start_makes_one_administrator(engine: Engine) -> None:
    with Session(engine) as session, session.begin():
        assert service.first_administrator(session)
        assert service.first_administrator(session) is None


@pytest.mark.parametrize(
    "headers",
    [{"sec-fetch-site": "cross-site"}, {"sec-fetch-site": "same-site"}, {"origin": "http://evil"}],
)
def test_what_comes_from_another_site_is_refused(
    client: TestClient, headers: dict[str, str]
) -> None:
    assert client.post(f"{DOMAIN}/drafts", json={}, headers=headers).status_code == 403
    good = {"sec-fetch-site": "same-origin", "origin": "http://testserver"}
    assert client.post(f"{DOMAIN}/drafts", json={"title": "x"}, headers=good).status_code == 201
