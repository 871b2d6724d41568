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

from api_help import DOMAIN, DRAFT
from good_requests import requests

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


@pytest.mark.first_case
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
