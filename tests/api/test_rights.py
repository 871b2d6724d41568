"""Every operation, by every role and nobody, against the table in docs/rights.md."""

from __future__ import annotations

import re
from pathlib import Path
from typing import Any

import pytest
from fastapi import APIRouter
from fastapi.routing import APIRoute
from fastapi.testclient import TestClient
from sqlalchemy import Engine
from sqlalchemy.orm import Session

from api_help import description
from hornfels.api.address import Route
from hornfels.api.app import ROUTERS
from hornfels.api.guard import COOKIE
from hornfels.api.rights import Needs, refuse_undeclared
from hornfels.core.rights.roles import ALLOWED, RIGHTS, ROLES, Role
from hornfels.store import jobs, people
from persons import as_user, let_in

TABLE = Path(__file__).parents[2] / "docs" / "rights.md"
COLUMNS = ("nobody", "no role", *ROLES)
_MARKS = {"●": True, "·": False}
DOMAIN = "sky.tarnholt.example"


def told() -> dict[str, dict[str, bool]]:
    """What the page says, by operation."""
    rows = re.findall(r"^\| `([A-Z]+ [^`]+)` \|(.+)\|$", TABLE.read_text(), re.MULTILINE)
    return {
        operation: dict(zip(COLUMNS, (_MARKS[c.strip()] for c in cells.split("|")), strict=True))
        for operation, cells in rows
    }


def operations() -> list[tuple[str, str]]:
    found = description()["paths"]
    return [(method.upper(), path) for path, methods in found.items() for method in methods]


def served(client: TestClient, method: str, path: str) -> bool:
    """Whether the operation is let through, whatever it then says of what is missing."""
    place = re.sub(r"\{(\w+)\}", lambda m: DOMAIN if m[1] == "domain" else "1", path)
    place = place.replace("/jobs/1", "/jobs/00000000-0000-0000-0000-000000000000")
    answer = client.request(method, place)
    if answer.status_code == 401:
        return False
    words = ("may not", "sign in yourself")
    return not (answer.status_code == 403 and any(one in answer.json()["detail"] for one in words))


@pytest.mark.thorough
def test_every_operation_is_for_whom_the_table_says(anonymous: TestClient, engine: Engine) -> None:
    with Session(engine) as session, session.begin():
        let_in(session, "no role", role=None)
        for role in ROLES:
            let_in(session, role, role=role)
    found: dict[str, dict[str, bool]] = {}
    listed = operations()
    for who in COLUMNS:
        anonymous.cookies.clear()
        for method, path in listed:
            if who != "nobody" and not anonymous.cookies:
                as_user(anonymous, who)
            found.setdefault(f"{method} {path}", {})[who] = served(anonymous, method, path)
            if (method, path) == ("DELETE", "/api/session"):
                anonymous.cookies.clear()
    assert found == told()


def declared() -> dict[str, list[Needs]]:
    """Return the rights that each operation needs, as its route declares them."""
    return {
        f"{method} {route.path}": [
            held.dependency for held in route.dependencies if isinstance(held.dependency, Needs)
        ]
        for router in ROUTERS
        for route in router.routes
        if isinstance(route, APIRoute)
        for method in route.methods or ()
    }


@pytest.mark.first_case
@pytest.mark.parametrize("role", ROLES)
def test_a_token_does_what_its_maker_may_do_and_nothing_in_person(
    anonymous: TestClient, engine: Engine, role: Role
) -> None:
    with Session(engine) as session, session.begin():
        let_in(session, role, role=role)
    as_user(anonymous, role)
    # A token never gives rights to anybody.
    rights = [right for right in RIGHTS if right in ALLOWED[role] and right != "people"]
    asked = {"title": "all", "domain": "*", "rights": rights, "days": 1}
    token = anonymous.post("/api/session/tokens", json=asked).json()["text"]
    anonymous.cookies.clear()
    anonymous.headers["Authorization"] = f"Bearer {token}"
    page = told()
    never = {
        operation
        for operation, needed in declared().items()
        if any(one.in_person or one.right == "people" for one in needed)
    }
    assert len(never) > 10
    for method, path in operations():
        operation = f"{method} {path}"
        if operation == "DELETE /api/session" or path.startswith(("/api/you", "/api/gate/")):
            continue
        expected = page[operation][role] and operation not in never
        assert served(anonymous, method, path) is expected, operation


def test_a_route_that_does_not_say_whom_it_is_for_is_not_served() -> None:
    router = APIRouter(route_class=Route)
    router.add_api_route("/api/open-to-all", lambda: None)
    with pytest.raises(RuntimeError, match="/api/open-to-all does not say"):
        refuse_undeclared(router.routes)


def test_a_role_holds_in_its_domain_and_nowhere_else(anonymous: TestClient, engine: Engine) -> None:
    with Session(engine) as session, session.begin():
        let_in(session, "carl", "dora", role=None)
        people.grant(session, "carl", DOMAIN, "viewer")
        people.grant(session, "dora", "elsewhere.example", "administrator")
    as_user(anonymous, "carl")
    assert [d["rights"] for d in anonymous.get("/api/domains").json()] == [["see"]]
    assert anonymous.get(f"/api/domains/{DOMAIN}/strata").status_code == 200
    as_user(anonymous, "dora")
    assert anonymous.get("/api/domains").json() == []
    refused = anonymous.get(f"/api/domains/{DOMAIN}~7/strata")
    assert refused.status_code == 403
    assert refused.json()["detail"] == (
        f"You may not look at it in {DOMAIN}: that takes the role viewer or help desk or author or "
        "approver or administrator. ann, ben can give it."
    )
    # Whether a domain is there at all is not told either.
    unknown = anonymous.get("/api/domains/nowhere.example/strata")
    assert unknown.json()["detail"] == refused.json()["detail"].replace(DOMAIN, "nowhere.example")
    assert anonymous.get("/api/people").json()["domains"] == ["elsewhere.example"]
    asked = {"domain": DOMAIN, "role": "administrator", "held": True, "reason": "r"}
    for name in ("dora", "carl"):
        assert anonymous.post(f"/api/people/{name}/roles", json=asked).status_code == 403
    assert anonymous.post("/api/people", json={"name": "eve"}).status_code == 403


def test_what_one_may_do_is_gone_when_the_role_is(anonymous: TestClient, engine: Engine) -> None:
    with Session(engine) as session, session.begin():
        let_in(session, "carl", role="author")
    as_user(anonymous, "carl")
    mine = anonymous.cookies[COOKIE]
    assert anonymous.post(f"/api/domains/{DOMAIN}/drafts", json={}).status_code == 201
    as_user(anonymous, "ann")
    taken = {"domain": "*", "role": "author", "held": False, "reason": "r"}
    assert anonymous.post("/api/people/carl/roles", json=taken).json()["waits"] is False
    anonymous.cookies.set(COOKIE, mine)
    assert anonymous.post(f"/api/domains/{DOMAIN}/drafts", json={}).status_code == 403
    as_user(anonymous, "ann")
    anonymous.post("/api/people/carl/sign-in", json={"what": "shut", "reason": "r"})
    anonymous.cookies.set(COOKIE, mine)
    assert anonymous.get("/api/settings").status_code == 401


@pytest.mark.parametrize("what", ["drafts", "trials"])
def test_others_work_is_dropped_by_an_administrator_only(
    client: TestClient, engine: Engine, what: str
) -> None:
    with Session(engine) as session, session.begin():
        let_in(session, "carl", role="author")
    place = f"/api/domains/{DOMAIN}"
    trial = {
        "title": "T",
        "candidate": "ab",
        "kind": "account",
        "target": "ilse.varga",
        "expected": "refused",
        "rule": "",
        "invented": True,
    }
    client.post(f"{place}/trials", json=trial)
    path = f"{place}~1/draft?version=1" if what == "drafts" else f"{place}/trials/1"
    as_user(client, "carl")
    refused = client.delete(path)
    assert (refused.status_code, "ann" in refused.json()["detail"]) == (403, True)
    as_user(client, "ben")
    assert client.delete(path).status_code == 204


def test_a_token_does_what_it_is_for_and_ends(client: TestClient, engine: Engine) -> None:
    place = f"/api/domains/{DOMAIN}"
    asked = {"title": "nightly", "domain": DOMAIN, "rights": ["see"], "days": 30}
    made = client.post("/api/session/tokens", json=asked).json()
    text = made["text"]
    shown: dict[str, Any] = client.get("/api/session/tokens").json()[0]
    assert (shown["title"], shown["used_at"], text in str(shown)) == ("nightly", None, False)
    client.cookies.clear()
    script = {"Authorization": f"Bearer {text}"}
    assert client.get(f"{place}/strata", headers=script).status_code == 200
    assert [d["rights"] for d in client.get("/api/domains", headers=script).json()] == [["see"]]
    assert client.post(f"{place}/drafts", json={}, headers=script).status_code == 403
    assert client.get("/api/domains/other.example/strata", headers=script).status_code == 403
    again = client.post("/api/session/tokens", json=asked, headers=script)
    assert again.status_code == 403, "a token makes no tokens"
    for method, path in (
        ("GET", "/api/session/all"),
        ("DELETE", "/api/session/all"),
        ("GET", "/api/session/tokens"),
        ("GET", "/api/acts"),
        ("DELETE", "/api/acts/1"),
    ):
        answer = client.request(method, path, headers=script)
        assert (answer.status_code, "sign in yourself" in answer.json()["detail"]) == (403, True)
    with Session(engine) as session, session.begin():
        mine = jobs.start(session, "load", "ann", arguments={"name": "x"}).id
    assert client.post(f"/api/jobs/{mine}/cancel", headers=script).status_code == 404
    assert "other.example" not in client.get("/api/metrics", headers=script).text
    as_user(client, "ann")
    assert client.get("/api/session/tokens").json()[0]["used_at"]
    beyond = client.post("/api/session/tokens", json={**asked, "rights": ["people"]})
    assert beyond.json()["detail"][0]["field"] == "rights"
    assert client.delete(f"/api/session/tokens/{shown['id']}").status_code == 204
    client.cookies.clear()
    assert client.get(f"{place}/strata", headers=script).status_code == 401
    with Session(engine) as session:
        dumped = str(session.connection().exec_driver_sql("SELECT * FROM tokens").all())
    assert text not in dumped
