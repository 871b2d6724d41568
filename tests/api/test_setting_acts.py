"""Settings that change what applies to whom, or where letters and reports go: with a reason, with
the password, of two people where approval is required, and in the history with their effect.
"""

from __future__ import annotations

from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from typing import Any

import pytest
from fastapi import APIRouter
from fastapi.routing import APIRoute
from fastapi.testclient import TestClient
from sqlalchemy import Engine, update
from sqlalchemy.orm import Session

from api_help import DOMAIN, DRAFT, draft_step, edit, policy
from hornfels.api.address import Route
from hornfels.api.app import ROUTERS
from hornfels.api.rights import Needs, needs, refuse_undeclared
from hornfels.store.models import ConnectionRow, DomainRow, SessionRow
from persons import as_user

DIRECTORY = "/api/directories/sky.tarnholt.example"
Send = Callable[[TestClient, str], Any]


def linked_groups(client: TestClient, reason: str) -> Any:
    version = client.get("/api/domains").json()[0]["version"]
    body = {"linked_groups": "any", "version": version, "reason": reason}
    return client.patch(DOMAIN, json=body)


def notifications(client: TestClient, reason: str) -> Any:
    body = {
        "mailing": {"page": "https://passwords.tarnholt.example/you"},
        "version": 0,
        "reason": reason,
        "confirmed_host": "passwords.tarnholt.example",
    }
    return client.put(f"{DOMAIN}/mailing", json=body)


def report_order(client: TestClient, reason: str) -> Any:
    body = {"order": {"to": ["chief@tarnholt.example"]}, "version": 0, "reason": reason}
    return client.put(f"{DOMAIN}/report-order", json=body)


def exposure_order(client: TestClient, reason: str) -> Any:
    body = {"consequence": "now", "days": 0, "standing": False, "reason": reason}
    return client.put(f"{DOMAIN}/exposure/orders/domain", json=body)


def lifetimes(client: TestClient, reason: str) -> Any:
    body = {"enforced": False, "spared": ["ilse.varga"], "reason": reason}
    return client.put(f"{DOMAIN}/gate/lifetimes", json=body)


def gate_client(client: TestClient, reason: str) -> Any:
    body = {"title": "dc1", "kind": "hook", "reason": reason}
    return client.post(f"{DOMAIN}/gate/callers", json=body)


SETTINGS: dict[str, tuple[Send, str]] = {
    "linked groups": (linked_groups, "20 accounts change policy"),
    "notifications": (notifications, "Emails name https://passwords.tarnholt.example/you"),
    "report order": (report_order, ""),
    "exposure order": (exposure_order, ""),
    "lifetimes": (lifetimes, "1 account excluded"),
    "gate client": (gate_client, ""),
}


def state(client: TestClient) -> list[Any]:
    """Return the present settings."""
    return [
        client.get("/api/domains").json()[0]["linked_groups"],
        client.get(f"{DOMAIN}/mailing").json()["mailing"]["page"],
        client.get(f"{DOMAIN}/report-order").json()["order"]["to"],
        client.get(f"{DOMAIN}/exposure").json()["policies"][-1]["order"]["consequence"],
        client.get(f"{DOMAIN}/gate/lifetimes").json()["spared"],
        [one["title"] for one in client.get(f"{DOMAIN}/gate/callers").json()],
    ]


@pytest.mark.parametrize("name", SETTINGS)
@pytest.mark.parametrize("required", [False, True], ids=["one person", "two people"])
def test_a_setting_takes_a_reason_and_where_it_is_required_a_second_person(
    client: TestClient, engine: Engine, name: str, required: bool
) -> None:
    send, effect = SETTINGS[name]
    with Session(engine) as session, session.begin():
        session.execute(update(DomainRow).values(approval_required=required))
    before = state(client)
    bare = send(client, " ")
    assert bare.status_code == 422, bare.text
    assert bare.json()["detail"][0]["field"] == "reason"
    assert state(client) == before
    assert send(client, "agreed in May").is_success
    if required:
        assert state(client) == before, "nothing happens before a second person agrees"
        (act,) = client.get("/api/acts").json()
        assert (act["reason"], act["details"]) == ("agreed in May", [effect] if effect else [])
        as_user(client, "ben")
        assert client.post(f"/api/acts/{act['id']}/confirm").status_code == 200
    assert state(client) != before
    point = client.get(f"{DOMAIN}/history").json()[0]
    assert (point["kind"], point["author"], point["reason"], point["effect"]) == (
        "setting",
        "ann",
        "agreed in May",
        [effect] if effect else [],
    )
    assert point["approver"] == ("ben" if required else None)


def test_a_directory_is_disconnected_by_two_people(client: TestClient, engine: Engine) -> None:
    with Session(engine) as session, session.begin():
        session.execute(update(DomainRow).values(approval_required=True))
        held = {"servers": [{"host": "dc1.sky.tarnholt.example"}]}
        name = "sky.tarnholt.example"
        session.add(ConnectionRow(dns_name=name, settings=held, changed_by="ann"))
    assert client.delete(f"{DIRECTORY}?reason=moving").status_code == 204
    assert client.get(DIRECTORY).json()["connected"] is True
    as_user(client, "ben")
    (act,) = client.get("/api/acts").json()
    client.post(f"/api/acts/{act['id']}/confirm")
    assert client.get(DIRECTORY).json()["connected"] is False
    point = client.get(f"{DOMAIN}/history").json()[0]
    assert (point["title"], point["author"], point["approver"]) == (
        "The directory of sky.tarnholt.example is disconnected",
        "ann",
        "ben",
    )


@pytest.mark.parametrize(
    ("page", "host", "field"),
    [
        ("http://passwords.tarnholt.example", "passwords.tarnholt.example", "page"),
        ("https://good.example@evil.example/", "evil.example", "page"),
        ("https://evil.example/you", "", "confirmed_host"),
        ("https://evil.example/you", "passwords.tarnholt.example", "confirmed_host"),
        ("https://passwords.tarnholt.example.evil.example", "tarnholt.example", "confirmed_host"),
    ],
)
def test_letters_name_only_a_host_that_was_confirmed(
    client: TestClient, page: str, host: str, field: str
) -> None:
    body = {"mailing": {"page": page}, "version": 0, "reason": "r", "confirmed_host": host}
    refused = client.put(f"{DOMAIN}/mailing", json=body)
    assert refused.status_code == 422
    assert refused.json()["detail"][0]["field"] == field
    assert notifications(client, "r").is_success
    # Once confirmed, the host stays confirmed.
    again = {"mailing": {"page": "https://passwords.tarnholt.example/"}, "version": 1}
    assert client.put(f"{DOMAIN}/mailing", json={**again, "reason": "r"}).is_success


def test_what_counts_takes_the_password_once_more(client: TestClient, engine: Engine) -> None:
    edit(client, policy(client, "Night operators"), settings={"min_length": 16})
    with Session(engine) as session, session.begin():
        long_ago = datetime.now(UTC) - timedelta(minutes=6)
        session.execute(update(SessionRow).values(proved_at=long_ago))
    client.app.state.visitors.forget()  # type: ignore[attr-defined]
    asked = [
        draft_step(client, "approve"),
        client.get("/api/loads/ready"),
        client.post("/api/loads?name=x.ldif", content=b"dn: x\n"),
        client.get("/api/trail.jsonl"),
        client.delete(f"{DIRECTORY}?reason=r"),
        client.post(f"{DOMAIN}/mailing/now"),
        client.post(f"{DOMAIN}/report-order/now"),
        client.post("/api/acts/1/confirm"),
        *(send(client, "r") for send, _ in SETTINGS.values()),
    ]
    for answer in asked:
        assert answer.status_code == 403, answer.request.url
        assert answer.headers["needs"] == "password", answer.request.url
    assert client.get(f"{DRAFT}/draft").status_code == 200


def test_a_route_that_writes_says_whether_it_takes_the_password() -> None:
    router = APIRouter(route_class=Route)
    router.add_api_route("/api/silent", lambda: None, methods=["POST"], dependencies=[needs("see")])
    with pytest.raises(RuntimeError, match="/api/silent writes and does not say"):
        refuse_undeclared(router.routes)
    routes = [route for router in ROUTERS for route in router.routes]
    said = {
        (method, route.path): [
            held.dependency.proof
            for held in route.dependencies
            if isinstance(held.dependency, Needs)
        ]
        for route in routes
        if isinstance(route, APIRoute)
        for method in route.methods or ()
    }
    assert all(set(proofs) - {None} for (method, _), proofs in said.items() if method != "GET")


def test_a_role_is_given_only_in_a_domain_that_is_here(client: TestClient) -> None:
    role = {"domain": "nowhere.example", "role": "author", "held": True, "reason": "r"}
    refused = client.post("/api/people/ben/roles", json=role)
    assert (refused.status_code, refused.json()["detail"][0]["field"]) == (422, "domain")
