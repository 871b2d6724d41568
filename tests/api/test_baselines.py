"""Baselines over the API: answers by population, what a draft turns, gaps closed."""

from __future__ import annotations

from typing import Any

from fastapi.testclient import TestClient

from api_help import DOMAIN, DRAFT, edit, policy

NIST = "baselines/nist-sp-800-63b-4"


def row(client: TestClient, key: str, path: str = f"{DRAFT}/{NIST}") -> dict[str, Any]:
    rows = client.get(path).json()["rows"]
    found: dict[str, Any] = next(one for one in rows if one["key"] == key)
    return found


def test_the_ones_that_come_along_are_answered_in_full(client: TestClient) -> None:
    known = client.get("/api/baselines").json()
    assert [one["name"] for one in known] == ["nist-sp-800-63b-4", "privileged", "services"]
    strata = client.get(f"{DOMAIN}/strata").json()
    for one in known:
        answer = client.get(f"{DOMAIN}/baselines/{one['name']}").json()
        assert answer["baseline"] == one
        columns = [(c["key"], c["count"]) for c in answer["columns"]]
        assert columns == [(p["key"], p["count"]) for p in strata["populations"]]
        for found in answer["rows"]:
            assert len(found["cells"]) == len(columns)
            counted = ("met", "not_met", "cannot_tell", "not_applicable")
            assert sum(found[key] for key in counted) == 1184
            assert found["state_live"] is None
            assert sum(gap["accounts"] for gap in found["gaps"]) == found["not_met"]
    assert client.get(f"{DOMAIN}/baselines/nothing").status_code == 404


def test_a_gap_is_closed_in_the_draft_which_says_what_it_turns(client: TestClient) -> None:
    before = row(client, "length")
    gap = next(gap for gap in before["gaps"] if gap["name"] == "Night operators")
    assert gap["changes"] == [
        {
            "subject": "Night operators",
            "text": "Minimum length",
            "before": "14 characters",
            "after": "15 characters",
        }
    ]
    body = {"recommendation": "length", "policy": gap["policy"]}
    answer = client.post(f"{DRAFT}/{NIST}/gaps", json=body)
    assert answer.status_code == 200, answer.text
    after = row(client, "length")
    assert after == next(one for one in answer.json()["rows"] if one["key"] == "length")
    assert after["not_met"] == before["not_met"] - gap["accounts"]
    assert (after["state_live"], after["not_met_live"]) == ("not met", before["not_met"])
    assert policy(client, "Night operators")["settings"]["min_length"] == 15
    assert policy(client, "Night operators", DOMAIN)["settings"]["min_length"] == 14
    again = client.post(f"{DRAFT}/{NIST}/gaps", json=body)
    assert (again.status_code, "Nothing to do" in again.json()["detail"]) == (409, True)


def test_the_domain_policy_is_a_policy_too_and_live_is_never_edited(client: TestClient) -> None:
    body = {"recommendation": "length", "policy": "domain"}
    assert client.post(f"{DOMAIN}/{NIST}/gaps", json=body).status_code == 409
    assert client.post(f"{DRAFT}/{NIST}/gaps", json=body).status_code == 200
    assert client.get(f"{DRAFT}/strata").json()["bedrock"]["settings"]["min_length"] == 15


def test_what_is_better_than_wanted_already_stays(client: TestClient) -> None:
    keyholders = policy(client, "Keyholders")
    made = edit(client, keyholders, settings={"history_length": 5, "min_age": 3 * 86400})
    assert made.status_code == 200, made.text
    body = {"recommendation": "history", "policy": keyholders["guid"]}
    assert client.post(f"{DRAFT}/baselines/privileged/gaps", json=body).status_code == 200
    settings = policy(client, "Keyholders")["settings"]
    assert (settings["history_length"], settings["min_age"]) == (24, 3 * 86400)


def test_what_is_not_there_is_said(client: TestClient) -> None:
    for body in (
        {"recommendation": "none", "policy": "domain"},
        {"recommendation": "length", "policy": "nobody"},
        {"recommendation": "length", "policy": "00000000-0000-0000-0000-000000000001"},
    ):
        assert client.post(f"{DRAFT}/{NIST}/gaps", json=body).status_code == 404
