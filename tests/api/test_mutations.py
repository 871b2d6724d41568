"""Good requests with one value of them made odd: each is taken or refused in words, never a
fault.
"""

from __future__ import annotations

import json
from collections.abc import Iterator
from typing import Any
from urllib.parse import quote

import pytest
from fastapi.testclient import TestClient

from api_help import DOMAIN, DRAFT, policy

ODD = [
    float("nan"),
    float("inf"),
    1e308,
    2**31,
    2**63,
    10**400,
    -1,
    True,
    None,
    "",
    "a\0b",
    "\ud800",
    "\u202e\u200b",
    "x" * 5000,
    [None],
    "0001-01-01T00:00:00+14:00",
    "9999-12-31T23:59:59-14:00",
]
UNSTORABLE = ["a\0b", "\ud800"]
INFINITE = ODD[:2]


def requests(client: TestClient) -> list[tuple[str, str, Any]]:
    """One good request for every operation that takes a body."""
    night = policy(client, "Night operators")
    guid, version = night["guid"], night["version"]
    bedrock = client.get(f"{DRAFT}/strata").json()["bedrock"]
    gpo = bedrock["sources"][0]["gpo"]
    bench = {
        "operation": "change",
        "previous": ["Old-one 1"],
        "now": "2026-11-25T09:00:00Z",
        "password_set": "2026-01-25T09:00:00Z",
    }
    one = {"account": "ilse.varga"}
    settings = {"min_length": 9, "max_age": 86400.5}
    return [
        ("POST", "/api/session", {"name": "nobody", "password": "none"}),
        ("POST", "/api/adjustments", {"settings": settings, "changed": "min_length"}),
        ("PATCH", DOMAIN, {"version": 1, "linked_groups": "any", "approval_required": False}),
        ("POST", f"{DOMAIN}/drafts", {"title": "Another"}),
        ("PATCH", f"{DRAFT}/draft", {"version": 1, "title": "Mine", "reason": "Why not"}),
        ("POST", f"{DRAFT}/draft/undo", {"version": 1}),
        ("POST", f"{DRAFT}/draft/publish", {"version": 99}),
        ("POST", f"{DRAFT}/draft/operations/0/keep", {"version": 1}),
        (
            "POST",
            f"{DRAFT}/draft/memberships",
            {"member": "ilse.varga", "group": "gs-visiting-astronomers", "join": True},
        ),
        ("POST", f"{DRAFT}/draft/flags", {**one, "flag": "NOT_DELEGATED", "on": True}),
        (
            "POST",
            f"{DRAFT}/policies",
            {
                "name": "New one",
                "precedence": 77,
                "settings": settings,
                "links": [night["links"][0]["dn"]],
            },
        ),
        (
            "PATCH",
            f"{DRAFT}/policies/{guid}",
            {"version": version, "name": "Nights", "precedence": 78, "settings": settings},
        ),
        (
            "PATCH",
            f"{DRAFT}/policies/domain",
            {"version": bedrock["version"], "settings": settings},
        ),
        ("POST", f"{DRAFT}/policies/{guid}/links", {"version": version, "dn": "CN=none"}),
        (
            "PATCH",
            f"{DRAFT}/sources/template",
            {"gpo": gpo, "settings": {"min_length": 9}, "unset": ["complexity"]},
        ),
        ("PATCH", f"{DRAFT}/sources/link", {"gpo": gpo, "place": 0, "enforced": True}),
        ("POST", f"{DOMAIN}/what-if", {"guid": guid, "precedence": 3}),
        ("POST", f"{DOMAIN}/what-if", {"guid": guid, "place": 0}),
        ("POST", f"{DOMAIN}/what-if", {"guid": guid, "link": "CN=none"}),
        (
            "POST",
            f"{DOMAIN}/verdicts",
            {**bench, "candidate": "Try-me 2", "accounts": ["ilse.varga"], "policies": ["domain"]},
        ),
        (
            "POST",
            f"{DOMAIN}/verdicts/many",
            {"operation": "reset", "candidates": ["Try-me 2"], "accounts": ["ilse.varga"]},
        ),
        ("POST", f"{DOMAIN}/suggestions", {**one, "previous": ["Old-one 1"]}),
        ("POST", f"{DOMAIN}/boundaries", {**one, "operation": "change"}),
        (
            "POST",
            f"{DOMAIN}/trials",
            {
                "title": "T",
                "candidate": "Try-me 2",
                "kind": "account",
                "target": "ilse.varga",
                "expected": "refused",
                "rule": "",
                "invented": True,
            },
        ),
        (
            "POST",
            f"{DOMAIN}/findings/accepted",
            {"key": "none", "reason": "because", "until": "2099-01-01"},
        ),
    ]


def mutated(value: Any, odd: Any) -> Iterator[Any]:
    """The value with each of its parts in turn made odd, and with a part more."""
    yield odd
    if isinstance(value, dict):
        for key in value:
            yield from ({**value, key: inner} for inner in mutated(value[key], odd))
        yield {**value, "surplus": odd}
    elif isinstance(value, list):
        for number in range(len(value)):
            yield from (
                [*value[:number], inner, *value[number + 1 :]]
                for inner in mutated(value[number], odd)
            )


def holds(value: Any, odd: Any) -> bool:
    """Whether the odd value itself stands somewhere."""
    if isinstance(value, dict):
        return any(holds(inner, odd) for inner in value.values())
    return any(holds(inner, odd) for inner in value) if isinstance(value, list) else value is odd


@pytest.mark.parametrize(
    "odd", ODD, ids=lambda odd: repr(odd)[:20].encode("ascii", "backslashreplace").decode()
)
def test_an_odd_value_anywhere_in_a_body_is_no_fault(client: TestClient, odd: Any) -> None:
    for method, path, body in requests(client):
        for changed in mutated(body, odd):
            content = json.dumps(changed).encode()
            answer = client.request(
                method, path, content=content, headers={"Content-Type": "application/json"}
            )
            told = (method, path, content[:300], answer.text[:300])
            assert answer.status_code < 500, told
            if odd in UNSTORABLE or any(odd is one for one in INFINITE):
                assert answer.status_code in (422, 429) or not holds(changed, odd), told
            if answer.status_code == 422:
                assert all(
                    problem["message"].endswith((".", ")")) for problem in answer.json()["detail"]
                ), told


@pytest.mark.parametrize(
    "odd",
    [
        "\0",
        "%",
        "/",
        "~",
        "~0",
        "~99999999999999999999",
        "..",
        ".",
        "\u202e",
        "Ω",
        "x" * 5000,
        " ",
        "?",
        "%2F",
        "1e308",
        "NaN",
    ],
)
def test_an_odd_name_in_an_address_is_no_fault(client: TestClient, odd: str) -> None:
    places = [
        "/api/domains/{}/strata",
        f"{DOMAIN}/accounts/{{}}",
        f"{DOMAIN}/groups/{{}}",
        f"{DOMAIN}/policies/{{}}",
        f"{DOMAIN}~{{}}/strata",
        f"{DOMAIN}/history/{{}}/undo",
        "/api/jobs/{}",
        "/api/{}",
        "/{}",
        "/assets/{}",
        f"{DRAFT}/draft/operations/{{}}/keep",
        f"{DOMAIN}/search?q={{}}",
        f"{DOMAIN}/accounts?group={{}}",
        f"{DOMAIN}/accounts?offset={{}}",
        f"{DOMAIN}/strata?show={{}}",
        f"{DOMAIN}/history/compare?before={{}}&after=1",
        f"{DOMAIN}/card?account={{}}",
        f"{DOMAIN}/card?policy={{}}",
    ]
    for place in places:
        for method in ("GET", "POST", "DELETE"):
            answer = client.request(method, place.format(quote(odd, safe="")))
            assert answer.status_code < 500, (method, place, answer.text)
            if odd == "\0":
                assert answer.status_code == 422, (method, place)
