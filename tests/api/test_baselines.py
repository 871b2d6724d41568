"""Baselines over the API: answers by population, what a draft turns, gaps closed."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient

from api_help import DOMAIN, DRAFT, edit, policy

NIST = "baselines/nist-sp-800-63b-4"


def row(client: TestClient, key: str, path: str = f"{DRAFT}/{NIST}") -> dict[str, Any]:
    rows = client.get(path).json()["rows"]
    found: dict[str, Any] = next(one for one in rows if one["key"] == key)
    return found


def test_the_ones_that_come_along_are_answered_in_full(reader: TestClient) -> None:
    known = reader.get("/api/baselines").json()["baselines"]
    assert [one["name"] for one in known] == ["nist-sp-800-63b-4", "privileged", "services"]
    strata = reader.get(f"{DOMAIN}/strata").json()
    for one in known:
        answer = reader.get(f"{DOMAIN}/baselines/{one['name']}").json()
        assert answer["baseline"] == one
        columns = [(c["key"], c["count"]) for c in answer["columns"]]
        assert columns == [(p["key"], p["count"]) for p in strata["populations"]]
        for found in answer["rows"]:
            assert len(found["cells"]) == len(columns)
            counted = ("met", "not_met", "cannot_tell", "not_applicable")
            assert sum(found[key] for key in counted) == 1184
            assert found["state_live"] is None
            assert sum(gap["accounts"] for gap in found["gaps"]) == found["not_met"]
    assert reader.get(f"{DOMAIN}/baselines/nothing").status_code == 404


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


def test_an_exception_is_accepted_for_a_while_and_withdrawn(client: TestClient) -> None:
    path = f"{DOMAIN}/{NIST}/exceptions"
    body = {"recommendation": "length", "reason": "Until the new year", "until": "2099-01-01"}
    assert client.post(path, json=body).status_code == 204
    held = row(client, "length")
    assert held["state"] == "not met", "it is not met for all that"
    assert held["accepted"] == {"reason": body["reason"], "until": body["until"], "by": "ann"}
    assert row(client, "no-composition")["accepted"] is None
    assert row(client, "length", f"{DRAFT}/baselines/privileged")["accepted"] is None
    # Findings are other things.
    assert not any(f["accepted"] for f in client.get(f"{DOMAIN}/findings").json()["findings"] or ())
    assert client.delete(path, params={"recommendation": "length"}).status_code == 204
    assert row(client, "length")["accepted"] is None
    past = client.post(path, json=body | {"until": "2020-01-01"})
    assert (past.status_code, past.json()["detail"][0]["field"]) == (422, "until")
    assert client.post(path, json=body | {"recommendation": "none"}).status_code == 404


def test_baselines_of_ones_own_are_read_from_a_folder(
    client: TestClient, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setenv("HORNFELS_BASELINES", str(tmp_path))
    ours = tmp_path / "a.yaml"
    text = """
baseline: 1
name: ours
title: Ours
about: For us
recommendations:
  - {key: a, text: Long, for: everybody, wants: {min_length: {at least: 9}}, rationale: x,
     effect: x, source: x}
"""
    ours.write_text(text)
    (tmp_path / "b.yaml").write_text(text)
    (tmp_path / "c.yaml").write_text("baseline: 1\n")
    known = client.get("/api/baselines").json()
    assert [one["name"] for one in known["baselines"]][3:] == ["ours"]
    assert [one["file"] for one in known["files"]] == ["b.yaml", "c.yaml"]
    assert "is called ours" in known["files"][0]["problem"]
    assert known["files"][1]["problem"].startswith("Line 1, column 1")
    first = row(client, "a", f"{DOMAIN}/baselines/ours")
    # Changed, it is another one, and so are its answers.
    ours.write_text(text.replace("at least: 9", "at least: 99"))
    assert row(client, "a", f"{DOMAIN}/baselines/ours")["not_met"] > first["not_met"]
    monkeypatch.setenv("HORNFELS_BASELINES", str(tmp_path / "none"))
    assert client.get("/api/baselines").json()["files"] == []


def test_what_is_asked_of_one_policy_is_told_with_its_reasons(client: TestClient) -> None:
    def asked(guid: str, name: str = NIST) -> dict[str, Any]:
        answer = client.get(f"{DRAFT}/{name}/policies/{guid}")
        assert answer.status_code == 200, answer.text
        return {one["key"]: one for one in answer.json()["asked"]}

    night = policy(client, "Night operators")
    length = asked(night["guid"])["length"]
    assert (length["limits"], length["who"]) == ({"min_length": "≥ 15"}, "people")
    assert (length["accounts"], length["not_met"]) == (60, 60)
    assert length["rationale"]
    assert length["effect"]
    edit(client, night, settings={"min_length": 15})
    assert asked(night["guid"])["length"]["not_met"] == 0
    # Service accounts are not meant by it; of a policy that nobody is under all of it is told.
    assert set(asked(policy(client, "Instrument services")["guid"])) == {"not-readable"}
    pilot = asked(policy(client, "Phrase pilot")["guid"])
    assert (len(pilot), {one["accounts"] for one in pilot.values()}) == (6, {0})
    assert asked("domain")["length"]["accounts"] > 700
    for guid in ("nobody", "00000000-0000-0000-0000-000000000001"):
        assert client.get(f"{DRAFT}/{NIST}/policies/{guid}").status_code == 404


def test_two_baselines_side_by_side(reader: TestClient) -> None:
    answer = reader.get("/api/baselines/nist-sp-800-63b-4/beside/privileged").json()
    rows = {one["topic"]: one for one in answer["rows"]}
    assert rows["Minimum length"]["relation"] == "the second asks more"
    assert rows["Reversible encryption"]["relation"] == "the same"
    assert rows["Lockout threshold"]["relation"] == "the second asks more"
    assert rows["Complexity"]["second"] == []
    assert rows["Exposed passwords"]["relation"] == "other things"
    assert reader.get("/api/baselines/nist-sp-800-63b-4/beside/none").status_code == 404


def test_what_is_not_there_is_said(client: TestClient) -> None:
    for body in (
        {"recommendation": "none", "policy": "domain"},
        {"recommendation": "length", "policy": "nobody"},
        {"recommendation": "length", "policy": "00000000-0000-0000-0000-000000000001"},
    ):
        assert client.post(f"{DRAFT}/{NIST}/gaps", json=body).status_code == 404
