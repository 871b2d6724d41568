"""A shorter maximum age spread over weeks, where no directory is connected."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from typing import Any

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import Engine
from sqlalchemy.orm import Session

from api_help import DOMAIN, DRAFT, days_on, edit, policy, work_off
from hornfels.service import spreading

TODAY = datetime.now(UTC).date().isoformat()


def shorter(client: TestClient) -> None:
    edit(client, policy(client, "Instrument services"), settings={"max_age": 30 * 86_400})


def planned(client: TestClient, weeks: Any = 3, begins: str = TODAY, place: str = DRAFT) -> Any:
    return client.get(f"{place}/spreads/plan", params={"weeks": weeks, "begins": begins})


def begun(client: TestClient, **more: Any) -> Any:
    seen = planned(client).json()["seen"]
    body = {"weeks": 3, "begins": TODAY, "seen": seen, "reason": "Agreed", **more}
    return client.post(f"{DRAFT}/spreads", json=body)


def test_a_plan_is_begun_as_it_was_seen_and_waits_in_change_records(
    client: TestClient, engine: Engine
) -> None:
    shorter(client)
    plan = planned(client).json()
    by_wave = [sum(wave["told"].values()) for wave in plan["waves"]]
    assert plan["told"] == sum(by_wave) > 30
    assert plan["warning"] == ""
    assert "more than 4 weeks" in planned(client, weeks=9).json()["warning"]
    other = planned(client, weeks=4).json()
    assert other["told"] == plan["told"], "as many, but some in another week"
    assert begun(client, seen=other["seen"]).status_code == 409
    assert client.get(f"{DOMAIN}/spreads").json() == []
    assert begun(client).status_code == 201
    with Session(engine) as session, session.begin():
        spreading.begin_due(session, datetime.now(UTC))
    work_off(engine)
    (spread,) = client.get(f"{DOMAIN}/spreads").json()
    first = spread["waves"][0]
    assert (first["state"], spread["directory"]) == ("done", "waits")
    assert first["said"].startswith(f"{by_wave[0]} of {by_wave[0]} accounts are pending")
    record = client.get(f"{DOMAIN}/history/{first['point']}/unlocking.ldif")
    assert record.text.count("pwdLastSet: 0") == by_wave[0]


def test_it_is_stopped_and_tells_nobody_more(client: TestClient, engine: Engine) -> None:
    shorter(client)
    number = begun(client).json()["id"]
    stop = f"{DOMAIN}/spreads/{number}/stop"
    assert client.post(stop, json={"reason": " "}).status_code == 422
    assert client.post(stop, json={"reason": "Too soon"}).status_code == 204
    assert client.post(stop, json={"reason": "Too soon"}).status_code == 404
    with Session(engine) as session, session.begin():
        spreading.begin_due(session, datetime.now(UTC) + timedelta(days=30))
    work_off(engine)
    (spread,) = client.get(f"{DOMAIN}/spreads").json()
    assert spread["state"] == "stopped"
    assert {wave["state"] for wave in spread["waves"]} == {"waiting"}


@pytest.mark.parametrize("how", ["dropped", "published"])
def test_nobody_is_told_for_a_draft_that_is_none_any_more(
    client: TestClient, engine: Engine, how: str
) -> None:
    shorter(client)
    begun(client)
    version = client.get(f"{DRAFT}/draft").json()["version"]
    done = (
        client.delete(f"{DRAFT}/draft", params={"version": version})
        if how == "dropped"
        else client.post(f"{DRAFT}/draft/publish", json={"version": version})
    )
    assert done.status_code < 300, done.text
    with Session(engine) as session, session.begin():
        spreading.begin_due(session, datetime.now(UTC))
    work_off(engine)
    (spread,) = client.get(f"{DOMAIN}/spreads").json()
    assert spread["state"] == "stopped"
    assert {wave["state"] for wave in spread["waves"]} == {"waiting"}
    entries = client.get("/api/trail").json()["entries"]
    assert any(entry["what"] == "spread stopped" for entry in entries)


def test_waves_that_are_late_come_on_a_day_each(client: TestClient, engine: Engine) -> None:
    shorter(client)
    begun(client)
    days_on(engine, 8)
    for passed, states in (
        (0, ["done", "waiting", "waiting"]),
        (0, ["done", "waiting", "waiting"]),
        (1, ["done", "done", "waiting"]),
        (1, ["done", "done", "waiting"]),
        (5, ["done", "done", "done"]),
    ):
        days_on(engine, passed)
        with Session(engine) as session, session.begin():
            spreading.begin_due(session, datetime.now(UTC))
        work_off(engine)
        (spread,) = client.get(f"{DOMAIN}/spreads").json()
        assert [wave["state"] for wave in spread["waves"]] == states
    assert spread["state"] == "done"


def test_what_cannot_be_planned_is_said(client: TestClient) -> None:
    live = planned(client, place=DOMAIN)
    assert (live.status_code, "choose one first" in live.text) == (409, True)
    shorter(client)
    for weeks, begins, field in (
        (0, TODAY, "weeks"),
        (53, TODAY, "weeks"),
        ("x", TODAY, "weeks"),
        (3, "2020-01-01", "begins"),
        (3, "9999-12-31", "begins"),
        (3, "soon", "begins"),
        (3, "", "begins"),
    ):
        refused = planned(client, weeks, begins)
        assert refused.status_code == 422, (weeks, begins)
        assert field in refused.json()["detail"][0]["field"]


def test_a_draft_that_ends_nothing_sooner_has_nothing_to_spread(client: TestClient) -> None:
    edit(client, policy(client, "Night operators"), settings={"min_length": 20})
    plan = planned(client).json()
    assert (plan["told"], plan["at_once"], plan["warning"]) == (0, 0, "")
    assert begun(client).status_code == 409


def test_what_a_draft_only_tries_out_is_not_spread(client: TestClient) -> None:
    edit(client, policy(client, "Night operators"), settings={"max_age": 20 * 86_400})
    services = policy(client, "Instrument services", DRAFT)["guid"]
    group = next(
        link["dn"]
        for link in policy(client, "Keyholders", DRAFT)["links"]
        if link["kind"] == "group"
    )
    asked = {"policy": services, "limit": 5}
    for row in client.get(f"{DOMAIN}/accounts", params=asked).json()["rows"]:
        member = client.get(f"{DOMAIN}/accounts/{row['name']}").json()["dn"]
        joins = {"member": member, "group": group, "join": True}
        done = client.post(f"{DRAFT}/draft/memberships", json=joins)
        assert done.status_code == 200, done.text
    assert planned(client).json()["told"] == 0, "those who would join have another policy then"
