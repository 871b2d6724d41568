"""Verdicts, advice and trials over the API."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from typing import Any

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import Engine
from sqlalchemy.orm import Session

from api_help import DOMAIN, DRAFT, edit, follow, policy, read_templates
from hornfels.api.bench_schemas import AttemptAnswer
from hornfels.service.demo_domain import store_demo
from hornfels.store.models import SessionRow
from persons import as_user

BASE = {"operation": "change", "accounts": ["ilse.varga"], "now": "2026-03-02T09:00:00Z"}


def attempt(client: TestClient, candidate: str, place: str = DOMAIN, **more: object) -> Any:
    answer = client.post(f"{place}/verdicts", json={**BASE, "candidate": candidate, **more})
    assert answer.status_code == 200, answer.text
    AttemptAnswer.model_validate(answer.json())
    return answer.json()


def rule(column: Any, key: str) -> Any:
    return next(r for r in column["rules"] if r["rule"] == key)


def test_verdicts_side_by_side(reader: TestClient) -> None:
    answer = attempt(reader, "Perigee-2031", accounts=["ilse.varga", "svc-spectro3", "nobody"])
    assert (answer["length"], answer["unknown"]) == (12, ["nobody"])
    night, service = answer["columns"]
    assert night["rules"][0] == {
        "rule": "length",
        "label": "Length",
        "status": "failed",
        "detail": "12 of 14",
        "repair": "2 more characters",
        "noted": False,
        "path": "",
    }
    assert night["told"] == (
        "Refused. It is too short: it has 12 characters and needs at least 14. Add 2 more "
        "characters."
    )
    assert [r["status"] for r in service["rules"]] == [
        "failed",
        "not asked",
        "not asked",
        "not checkable",
        "passed",
    ]


def test_policies_with_word_lists_are_tried_before_any_account(
    engine: Engine, anonymous: TestClient
) -> None:
    """Their lists come from the database, which is never asked on the event loop."""
    with Session(engine) as session, session.begin():
        store_demo(session)
    as_user(anonymous, "ann")
    guids = [layer["guid"] for layer in anonymous.get(f"{DOMAIN}/strata").json()["layers"]]
    columns = attempt(anonymous, "Perigee-2031", accounts=[], policies=[*guids, "domain"])[
        "columns"
    ]
    assert [column["policy"] for column in columns] == [*guids, "domain"]
    assert {column["account"] for column in columns} == {None}


def test_the_strip_tells_groups_and_units_but_no_character(reader: TestClient) -> None:
    answer = attempt(reader, "aÄ1-中😀€")
    assert [(p["group"], p["units"]) for p in answer["strip"]] == [
        ("lower", 1),
        ("upper", 1),
        ("digit", 1),
        ("symbol", 1),
        ("caseless", 1),
        (None, 2),
        (None, 1),
    ]
    assert answer["length"] == sum(p["units"] for p in answer["strip"])
    assert answer["lenient_elsewhere"]


def test_circumstances_of_the_trial(reader: TestClient) -> None:
    earlier = [None, "Perigee-Transit-31", "Other-Transit-2030"]
    column = attempt(
        reader, "Perigee-Transit-31", previous=earlier, password_set="2026-03-02T08:00:00Z"
    )["columns"][0]
    assert rule(column, "history")["detail"] == "2nd of 24 remembered"
    assert (
        rule(column, "history")["repair"] == "choose another; free again after 23 other passwords"
    )
    assert rule(column, "minimum_age")["repair"] == "wait 23 h"
    later = attempt(
        reader, "Perigee-Transit-32", previous=earlier, password_set="2026-03-01T09:00:00Z"
    )["columns"][0]
    assert (later["accepted"], later["certain"]) == (True, True)


def test_a_policy_is_tried_without_an_account(reader: TestClient) -> None:
    kiosk = policy(reader, "Kiosk floor")
    answer = attempt(
        reader, "abc", accounts=[], policies=[kiosk["guid"], "domain", "none"], operation="reset"
    )
    assert answer["unknown"] == ["none"]
    assert [(c["account"], c["policy_name"]) for c in answer["columns"]] == [
        (None, "Kiosk floor"),
        (None, "Domain policy"),
    ]


def test_flags_are_told(reader: TestClient) -> None:
    rows = reader.get(f"{DOMAIN}/accounts", params={"limit": 500, "q": "k-"}).json()["rows"]
    name = next(r["name"] for r in rows if r["flags"])
    column = attempt(reader, "x", accounts=[name])["columns"][0]
    assert [f["flag"] for f in column["flags"]] == ["Password never expires"]


def test_the_draft_answers_beside_live_and_at_once(client: TestClient) -> None:
    night = policy(client, "Night operators")
    assert not attempt(client, "Perigee-2031", DRAFT, operation="reset")["columns"][0]["accepted"]
    assert edit(client, night, settings={"min_length": 12}).status_code == 200
    assert attempt(client, "Perigee-2031", DRAFT, operation="reset")["columns"][0]["accepted"]
    assert not attempt(client, "Perigee-2031", operation="reset")["columns"][0]["accepted"]


def test_signing_out_ends_verdicts_at_once(client: TestClient) -> None:
    attempt(client, "x")
    cookies = dict(client.cookies)
    assert client.delete("/api/session").status_code == 204
    client.cookies.update(cookies)
    assert client.post(f"{DOMAIN}/verdicts", json={**BASE, "candidate": "x"}).status_code == 401


def test_what_changes_elsewhere_is_seen_when_the_moment_is_over(
    client: TestClient, engine: Engine, monkeypatch: pytest.MonkeyPatch
) -> None:
    attempt(client, "x")
    with Session(engine) as session, session.begin():
        session.query(SessionRow).delete()
    attempt(client, "x")
    monkeypatch.setattr("hornfels.api.snapshot_cache.LIFETIME", 0.0)
    client.get("/api/session")
    assert client.post(f"{DOMAIN}/verdicts", json={**BASE, "candidate": "x"}).status_code == 401


def test_the_audit_length_of_the_templates_is_noted(client: TestClient) -> None:
    read_templates(client)
    column = attempt(client, "Perigee-2031", accounts=[], policies=["domain"], operation="reset")[
        "columns"
    ][0]
    assert (column["accepted"], rule(column, "audit_length")["noted"]) == (True, True)
    assert (
        column["told"]
        == "Accepted. It is let through but noted, because it is shorter than 14 characters."
    )


def test_many_candidates_on_many_accounts(reader: TestClient) -> None:
    body = {
        **BASE,
        "operation": "reset",
        "candidates": ["Perigee-Transit-31", "short"],
        "accounts": ["ilse.varga", "kiosk-north"],
    }
    answer = reader.post(f"{DOMAIN}/verdicts/many", json=body).json()
    assert answer["accounts"] == body["accounts"]
    assert [[v["accepted"] for v in row] for row in answer["verdicts"]] == [
        [True, True],
        [False, True],
    ]
    assert answer["verdicts"][1][0]["refused_by"] == ["length", "complexity"]
    refused = reader.post(
        f"{DOMAIN}/verdicts/many", json={**body, "accounts": ["ilse.varga", "nobody"]}
    )
    assert (refused.status_code, refused.json()["detail"][0]["field"]) == (422, "accounts.1")
    assert (
        reader.post(
            f"{DOMAIN}/verdicts/many", json={**body, "candidates": ["x"] * 1001}
        ).status_code
        == 422
    )


@pytest.mark.parametrize("who", [{"account": "ilse.varga"}, {"policy": "domain"}])
def test_suggestions_are_accepted(reader: TestClient, who: dict[str, str]) -> None:
    made = reader.post(f"{DOMAIN}/suggestions", json=who).json()
    assert [s["kind"] for s in made] == ["phrase", "blocks"]
    for suggestion in made:
        tried: dict[str, Any] = (
            {"accounts": [who["account"]]}
            if "account" in who
            else {"accounts": [], "policies": ["domain"]}
        )
        assert attempt(reader, suggestion["text"], operation="reset", **tried)["columns"][0][
            "accepted"
        ]
        assert suggestion["bits"] >= 50
    assert reader.post(f"{DOMAIN}/suggestions", json={}).status_code == 422
    assert reader.post(f"{DOMAIN}/suggestions", json={"account": "nobody"}).status_code == 404


def test_boundaries_do_what_they_say(reader: TestClient) -> None:
    found = reader.post(
        f"{DOMAIN}/boundaries", json={"account": "ilse.varga", "operation": "change"}
    ).json()
    assert [c["rule"] for c in found["candidates"]] == [
        None,
        "length",
        "complexity",
        "own_name",
        "history",
        "minimum_age",
    ]
    now = datetime(2026, 3, 2, 9, tzinfo=UTC)
    for c in found["candidates"]:
        previous = [None] * (c["back"] - 1) + [c["text"]] if c["back"] else []
        set_at = (now - timedelta(seconds=c["set_ago"])).isoformat()
        column = attempt(reader, c["text"], previous=previous, password_set=set_at)["columns"][0]
        assert [r["rule"] for r in column["rules"] if r["status"] == "failed"] == (
            [c["rule"]] if c["rule"] else []
        )
    assert (
        reader.post(
            f"{DOMAIN}/boundaries", json={"policy": "none", "operation": "reset"}
        ).status_code
        == 404
    )


def test_the_card_speaks_to_its_reader(reader: TestClient) -> None:
    card = reader.get(f"{DOMAIN}/card", params={"account": "ilse.varga"}).json()
    assert (card["policy_name"], [line["rule"] for line in card["must"]]) == (
        "Night operators",
        ["length", "complexity", "own_name", "history"],
    )
    assert "“ilse.varga”" in card["must"][2]["text"]
    # It was set in spring and has expired long since: no card says that it lasts until a past day.
    assert card["expires_at"] is None
    assert card["later"][0] == (
        "Your present password has expired. You are asked for a new one the next time you sign in."
    )
    general = reader.get(f"{DOMAIN}/card", params={"policy": "domain"}).json()
    assert (general["account"], general["expires_at"]) == (None, None)
    assert reader.get(f"{DOMAIN}/card").status_code == 422
    assert reader.get(f"{DOMAIN}/card", params={"account": "nobody"}).status_code == 404


NEW = {
    "title": "Kiosk accounts must not accept digits alone",
    "candidate": "40719",
    "kind": "group",
    "target": "gs-dome-kiosks",
    "expected": "refused",
    "invented": True,
}


def test_a_trial_is_kept_run_and_dropped(client: TestClient) -> None:
    made = client.post(f"{DOMAIN}/trials", json=NEW).json()
    assert (made["met"], made["accounts"], made["target_name"], made["said"]) == (
        False,
        12,
        "GS-Dome-Kiosks",
        f"For {made['account']} it is accepted.",
    )
    kiosk = policy(client, "Kiosk floor")
    assert edit(client, kiosk, settings={"min_length": 6}).status_code == 200
    drafted = client.get(f"{DRAFT}/trials").json()
    assert (drafted["unmet"], drafted["trials"][0]["met"], drafted["trials"][0]["met_live"]) == (
        0,
        True,
        False,
    )
    assert client.get(f"{DOMAIN}/trials").json()["unmet"] == 1
    assert client.delete(f"{DOMAIN}/trials/{made['id']}").status_code == 204
    assert client.delete(f"{DOMAIN}/trials/{made['id']}").status_code == 404
    for path in (f"{DOMAIN}/trials/99999999999", f"{DOMAIN}~99999999999/trials/1"):
        assert client.delete(path).status_code == 404
    assert client.get(f"{DOMAIN}/trials").json()["trials"] == []


@pytest.mark.parametrize(
    ("changes", "field"),
    [
        ({"invented": False}, "invented"),
        ({"target": "none"}, "target"),
        ({"kind": "account", "target": "none"}, "target"),
        ({"candidate": "a\0b"}, "candidate"),
        ({"expected": "accepted", "rule": "length"}, "rule"),
        ({"title": " "}, "title"),
        ({"kind": "everybody"}, "kind"),
    ],
)
def test_bad_trials_are_refused_by_field(
    reader: TestClient, changes: dict[str, object], field: str
) -> None:
    refused = reader.post(f"{DOMAIN}/trials", json={**NEW, **changes})
    assert refused.status_code == 422
    assert [d["field"] for d in refused.json()["detail"]] == [field]
    assert reader.get(f"{DOMAIN}/trials").json()["trials"] == []


def test_publishing_can_require_trials_to_be_met(client: TestClient) -> None:
    client.post(f"{DOMAIN}/trials", json=NEW)
    info = client.get("/api/domains").json()[0]
    assert client.patch(
        DOMAIN, json={"trials_required": True, "reason": "r", "version": info["version"]}
    ).json()["trials_required"]
    night = policy(client, "Night operators")
    assert edit(client, night, settings={"min_length": 16}).status_code == 200

    def publish() -> Any:
        version = client.get(f"{DRAFT}/draft").json()["version"]
        return client.post(f"{DRAFT}/draft/publish", json={"version": version})

    refused = publish()
    assert refused.status_code == 409
    assert (
        "1 of 1 trials is not met. “Kiosk accounts must not accept digits alone”: For kiosk-"
        in refused.json()["detail"]
    )
    assert (
        edit(client, policy(client, "Kiosk floor"), settings={"min_length": 6}).status_code == 200
    )
    assert publish().status_code == 200
    assert client.get(f"{DOMAIN}/trials").json()["unmet"] == 0


def test_trials_outlive_a_reload_and_name_what_is_gone(
    client: TestClient, demo_ldif: bytes
) -> None:
    client.post(f"{DOMAIN}/trials", json=NEW)
    without = demo_ldif.replace(b"CN=GS-Dome-Kiosks", b"CN=GS-Dome-Lobby").replace(
        b"GS-Dome-Kiosks", b"GS-Dome-Lobby"
    )
    job = client.post("/api/loads?name=again.ldif", content=without).json()["id"]
    assert follow(client, job)["state"] == "done"
    trial = client.get(f"{DOMAIN}/trials").json()["trials"][0]
    assert (trial["met"], trial["accounts"]) == (None, 0)
    assert "Nobody is there any more" in trial["said"]


def test_the_demo_brings_trials_of_which_one_is_not_met(
    engine: Engine, anonymous: TestClient
) -> None:
    with Session(engine) as session, session.begin():
        store_demo(session)
    as_user(anonymous, "ann")
    found = anonymous.get(f"{DOMAIN}/trials").json()
    assert [t["met"] for t in found["trials"]] == [False, True, True, True, True]
