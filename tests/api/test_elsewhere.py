"""Signing in at a provider of OpenID Connect, honest and other."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator
from typing import Any
from urllib.parse import parse_qs, urlsplit

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import Engine, select
from sqlalchemy.orm import Session

from api_help import DOMAIN
from hornfels.api.app import create_app
from hornfels.api.guard import COOKIE
from hornfels.openid import Provider, refuse_issuer
from hornfels.service import people as service
from hornfels.store.models import EntryRow
from persons import as_user
from provider import CLIENT, SECRET, TITLE, StandIn, standing_in

ELSEWHERE = "/api/session/elsewhere"


@pytest.fixture(scope="module")
def pair() -> Iterator[tuple[StandIn, Provider]]:
    with standing_in() as found:
        yield found


@pytest.fixture
def stand_in(pair: tuple[StandIn, Provider]) -> StandIn:
    stand_in = pair[0]
    stand_in.lie, stand_in.signed = lambda _: None, stand_in.honestly
    stand_in.subjects = {}
    return stand_in


@pytest.fixture
def browser(
    demo_stored: None,  # noqa: ARG001 - chooses the database
    engine: Engine,
    stand_in: StandIn,
    pair: tuple[StandIn, Provider],
) -> Iterator[TestClient]:
    """Nobody is signed in; ilse comes from the provider, ann does not."""
    assert stand_in
    with Session(engine) as session, session.begin():
        service.add(session, "ilse", elsewhere=True)
        service.grant(session, "ilse", "*", "administrator")
    with TestClient(create_app(engine, provider=pair[1])) as client:
        yield client


def went(
    client: TestClient, stand_in: StandIn, name: str, *, again: bool = False
) -> dict[str, str]:
    """What the provider sends somebody back with."""
    address = client.post(ELSEWHERE, json={"again": again}).json()["address"]
    asked = {key: values[0] for key, values in parse_qs(urlsplit(address).query).items()}
    back = stand_in.agreed(name, asked)
    return {key: values[0] for key, values in parse_qs(urlsplit(back).query).items()}


def come(client: TestClient, stand_in: StandIn, name: str, *, again: bool = False) -> Any:
    back = went(client, stand_in, name, again=again)
    return client.post(f"{ELSEWHERE}/back", json=back)


def last_entry(engine: Engine) -> tuple[str, str]:
    with Session(engine) as session:
        last = session.scalars(select(EntryRow).order_by(EntryRow.id.desc()).limit(1)).one()
        return last.what, last.person


def test_somebody_comes_in_and_is_known_as_who_they_are(
    browser: TestClient, stand_in: StandIn, engine: Engine
) -> None:
    assert browser.get("/api/session").json()["provider"] == TITLE
    answer = come(browser, stand_in, "ilse")
    assert (answer.status_code, answer.json()["name"], answer.json()["elsewhere"]) == (
        200,
        "ilse",
        True,
    )
    assert last_entry(engine) == ("sign-in", "ilse")
    assert browser.get(f"{DOMAIN}/strata").status_code == 200
    kept = answer.headers["set-cookie"].lower()
    assert "httponly" in kept
    assert "samesite=strict" in kept
    first = browser.cookies[COOKIE]
    assert come(browser, stand_in, "ilse").status_code == 200
    assert browser.cookies[COOKIE] != first, "each sign-in makes a new token"


def test_a_code_and_the_way_back_are_good_once(browser: TestClient, stand_in: StandIn) -> None:
    back = went(browser, stand_in, "ilse")
    assert browser.post(f"{ELSEWHERE}/back", json=back).status_code == 200
    assert browser.post(f"{ELSEWHERE}/back", json=back).status_code == 403
    went(browser, stand_in, "ilse")
    used = browser.post(f"{ELSEWHERE}/back", json={**back})
    assert used.status_code == 403


@pytest.mark.parametrize("name", ["ann", "nobody.known"])
def test_whoever_was_not_added_to_come_from_there_stays_out(
    browser: TestClient, stand_in: StandIn, engine: Engine, name: str
) -> None:
    refused = come(browser, stand_in, name)
    assert refused.status_code == 403
    assert refused.json()["detail"] == (
        f"Nobody comes in here as {name}. Ask an administrator of Hornfels to add you by this name."
    )
    assert browser.get("/api/session").json()["name"] is None
    assert last_entry(engine) == ("sign-in failed", "somebody unknown")


def test_the_subject_counts_once_it_is_known_and_not_the_name(
    browser: TestClient, stand_in: StandIn
) -> None:
    stand_in.subjects = {"ilse": "7", "ilse.new": "7"}
    assert come(browser, stand_in, "ilse").status_code == 200
    assert come(browser, stand_in, "ilse.new").json()["name"] == "ilse"
    stand_in.subjects = {"ilse": "8"}
    assert come(browser, stand_in, "ilse").status_code == 403, "the name is somebody else's now"


def test_a_password_does_not_open_the_provider_s_door(browser: TestClient) -> None:
    for password in ("", "None", "correct horse"):
        body = {"name": "ilse", "password": password}
        assert browser.post("/api/session", json=body).status_code in (403, 422)


LIES: dict[str, Callable[[dict[str, Any]], None]] = {
    "another client's": lambda c: c.update(aud="another"),
    "several, and we were not the party": lambda c: c.update(aud=[CLIENT, "x"], azp="x"),
    "another provider's": lambda c: c.update(iss="https://elsewhere.example"),
    "over": lambda c: c.update(exp=int(time.time()) - 300),
    "not yet": lambda c: c.update(iat=int(time.time()) + 900),
    "another sign-in's": lambda c: c.update(nonce="another"),
    "no sign-in's": lambda c: c.pop("nonce"),
    "another access token's": lambda c: c.update(at_hash="AAAAAAAAAAAAAAAAAAAAAA"),
    "of nobody": lambda c: c.pop("sub"),
    "of an empty subject": lambda c: c.update(sub=""),
    "of a number": lambda c: c.update(sub=7),
    "without a name": lambda c: c.pop("preferred_username"),
    "with a list for a name": lambda c: c.update(preferred_username=["ilse"]),
    "of a strange moment": lambda c: c.update(auth_time="yesterday"),
}


@pytest.mark.parametrize("lie", LIES)
def test_what_is_not_the_provider_s_word_for_us_lets_nobody_in(
    browser: TestClient, stand_in: StandIn, lie: str
) -> None:
    stand_in.lie = LIES[lie]
    refused = come(browser, stand_in, "ilse")
    assert refused.status_code == 409, refused.text
    assert browser.get("/api/session").json()["name"] is None


@pytest.mark.parametrize("by", ["by_the_secret", "by_another_key", "by_nobody"])
def test_a_token_that_the_provider_did_not_sign_lets_nobody_in(
    browser: TestClient, stand_in: StandIn, by: str
) -> None:
    stand_in.signed = getattr(stand_in, by)
    refused = come(browser, stand_in, "ilse")
    assert (refused.status_code, "cannot be believed" in refused.json()["detail"]) == (409, True)
    stand_in.signed = lambda _: "not a token"
    assert come(browser, stand_in, "ilse").status_code == 409


def test_only_the_browser_that_went_comes_back(browser: TestClient, stand_in: StandIn) -> None:
    back = went(browser, stand_in, "ilse")
    for changed in ({"state": "x"}, {"iss": "https://elsewhere.example"}, {"error": "denied"}):
        assert browser.post(f"{ELSEWHERE}/back", json={**back, **changed}).status_code == 403
    headers = {"origin": "http://evil.example"}
    forged = browser.post(f"{ELSEWHERE}/back", json=back, headers=headers)
    assert forged.status_code == 403
    browser.cookies.clear()
    for cookie in (b"", b"a.b", b"a.b.c.d.e", b"...", b"\xe9"):
        kept = {b"cookie": b"hornfels_way=" + cookie}
        assert browser.post(f"{ELSEWHERE}/back", json=back, headers=kept).status_code == 403


def test_what_weighs_much_asks_the_provider_once_more(
    browser: TestClient, stand_in: StandIn, engine: Engine
) -> None:
    come(browser, stand_in, "ilse")
    asked = {"title": "t", "domain": "*", "rights": ["see"], "days": 1}
    refused = browser.post("/api/session/tokens", json=asked)
    assert refused.headers["needs"] == "password", "they were with the provider an hour ago"
    other = come(browser, stand_in, "somebody.else", again=True)
    assert (other.status_code, "somebody else" in other.json()["detail"]) == (403, True)
    stand_in.lie = lambda claims: claims.update(auth_time=int(time.time()) - 3600)
    stale = come(browser, stand_in, "ilse", again=True)
    assert (stale.status_code, "auth_time" in stale.json()["detail"]) == (403, True)
    assert browser.post("/api/session/tokens", json=asked).status_code == 403
    stand_in.lie = lambda _: None
    assert come(browser, stand_in, "ilse", again=True).status_code == 200
    assert last_entry(engine) == ("shown again", "ilse")
    assert browser.post("/api/session/tokens", json=asked).status_code == 201
    browser.cookies.delete(COOKIE)
    assert come(browser, stand_in, "ilse", again=True).status_code == 403


def test_people_are_sent_to_the_provider_and_taken_back(
    browser: TestClient, stand_in: StandIn
) -> None:
    as_user(browser, "ann")
    added = browser.post("/api/people", json={"name": "carl", "elsewhere": True}).json()
    assert added["one_time"] is None
    change = "/api/people/{}/sign-in"
    body = {"what": "elsewhere", "reason": "One door for all"}
    assert browser.post(change.format("ann"), json=body).status_code == 200
    assert browser.get("/api/session").json()["name"] is None, "their sessions end"
    assert come(browser, stand_in, "ann").json()["name"] == "ann"
    come(browser, stand_in, "ann", again=True)
    ways = {p["name"]: p["elsewhere"] for p in browser.get("/api/people").json()["people"]}
    assert ways == {"ann": True, "ben": False, "carl": True, "ilse": True}
    body = {"what": "reset", "reason": "The provider is gone"}
    one_time = browser.post(change.format("ilse"), json=body).json()["one_time"]
    signed_in = browser.post("/api/session", json={"name": "ilse", "password": one_time})
    assert (signed_in.status_code, signed_in.json()["elsewhere"]) == (200, False)
    assert come(browser, stand_in, "ilse").status_code == 403


def test_a_provider_that_is_away_or_another_one_is_said(
    stand_in: StandIn, browser: TestClient
) -> None:
    app: Any = browser.app
    app.state.provider = Provider("http://127.0.0.1:9", CLIENT, SECRET)
    away = browser.post(ELSEWHERE, json={})
    assert (away.status_code, "nobody answers there" in away.json()["detail"]) == (409, True)
    app.state.provider = Provider(stand_in.issuer + "/", CLIENT, SECRET)
    other = browser.post(ELSEWHERE, json={})
    assert (other.status_code, "calls itself" in other.json()["detail"]) == (409, True)
    app.state.provider = Provider(stand_in.issuer, CLIENT, "another secret")
    refused = come(browser, stand_in, "ilse")
    assert (refused.status_code, SECRET in refused.text) == (403, False)
    app.state.provider = None
    assert browser.post(ELSEWHERE, json={}).status_code == 404
    assert browser.get("/api/session").json()["provider"] == ""


@pytest.mark.parametrize(
    "issuer",
    ["http://provider.example", "ftp://127.0.0.1", "provider.example", "https://p.example?x=1", ""],
)
def test_a_provider_that_others_could_speak_for_is_refused(issuer: str) -> None:
    with pytest.raises(ValueError, match="provider"):
        refuse_issuer(issuer)
