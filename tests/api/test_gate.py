"""The gate: who may ask, what is answered, what is kept of it and what never is."""

from __future__ import annotations

import json
import uuid
from datetime import UTC, date, datetime, timedelta
from typing import Any

import numpy as np
import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient
from sqlalchemy import Engine, text
from sqlalchemy.orm import Session

from api_help import DOMAIN, DRAFT, edit, policy
from hornfels.core.gate.judging import Gate, Inquiry
from hornfels.core.passwords.additions import Lists, terms_in
from hornfels.core.values.time import DAY as TICKS
from hornfels.core.values.time import datetime_from_moment
from hornfels.formats.rule_set import unpack
from hornfels.service.naming import policy_name
from hornfels.service.snapshots import Snapshots
from hornfels.store.database import connect
from hornfels.store.models import GateAnswerRow, GateEndRow

GATE = "/api/gate/v1"
DAY = 86_400
ADDITION = {
    "password": [{"blocked": {"lists": ["house"]}}, {"run": {"max": 3}}],
    "phrase": [{"words": {"min": 4, "letters": 4}}],
    "bands": [{"length": 8, "lifetime": 60 * DAY}, {"length": 16, "lifetime": 365 * DAY}],
}


class Asker:
    """A caller with its token."""

    def __init__(self, client: TestClient, made: Any) -> None:
        self.client, self.token = client, made["token"]
        listed = client.get(f"{DOMAIN}/gate/callers").json()
        self.number = next(one["id"] for one in listed if one["title"] == made["title"])
        self.by = {"Authorization": f"Bearer {self.token}"}

    def check(self, candidate: str, account: str = "ilse.varga", **more: Any) -> Any:
        asked = {"account": account, "operation": "reset", "candidate": candidate, **more}
        return self.client.post(f"{GATE}/check", json=asked, headers=self.by)

    def record(self) -> list[Any]:
        """What is kept, once all of it is written."""
        assert isinstance(self.client.app, FastAPI)
        self.client.app.state.gatehouse.record.write()
        found: list[Any] = self.client.get(f"{DOMAIN}/gate/answers").json()
        return found


def caller(client: TestClient, title: str = "dc1", kind: str = "hook") -> Asker:
    made = client.post(
        f"{DOMAIN}/gate/callers", json={"title": title, "kind": kind, "reason": "New"}
    )
    assert made.status_code == 201, made.text
    return Asker(client, made.json())


def published(client: TestClient, addition: Any = ADDITION, **settings: object) -> None:
    """The addition of the night operators, live."""
    client.put(f"{DRAFT}/blocked-terms/house?seen=", content="orbit\n")
    if settings:
        edit(client, policy(client, "Night operators"), settings=settings)
    held = policy(client, "Night operators")
    body = {"version": held["version"], "addition": addition}
    assert client.put(f"{DRAFT}/additions/{held['guid']}", json=body).status_code == 200
    draft = client.get(f"{DRAFT}/draft").json()
    done = client.post(f"{DRAFT}/draft/publish", json={"version": draft["version"]})
    assert done.status_code in (200, 201), done.text


@pytest.fixture
def asker(client: TestClient) -> Asker:
    published(client)
    return caller(client)


def test_the_gate_asks_for_the_addition_and_for_what_the_server_leaves_to_it(
    client: TestClient,
) -> None:
    published(client, complexity=False)
    asker = caller(client)
    refused = asker.check("Orbit-lantern-7421").json()
    assert (refused["accepted"], refused["policy"], refused["known"]) == (
        False,
        "Night operators",
        True,
    )
    assert "orbit" in refused["told"].lower()
    assert asker.check("Umbra-lantern-7421").json()["accepted"]
    # Complexity is the server's to check, unless it leaves that to the gate.
    assert asker.check("quiet umbra lantern mosaic").json()["accepted"] is True
    left = asker.check("quiet umbra lantern mosaic", complexity_left=True).json()
    assert not left["accepted"]
    assert {r["rule"] for r in left["rules"] if r["status"] == "failed"} >= {"complexity"}


def test_closeness_is_asked_on_a_change_that_brings_the_present_password(
    client: TestClient,
) -> None:
    published(client, {"password": [{"closeness": {"changed": 4}}]})
    asker = caller(client)
    near = asker.check("Umbra-lantern-7422", operation="change", present="Umbra-lantern-7421")
    assert not near.json()["accepted"]
    assert asker.check("Umbra-lantern-7422", operation="reset").json()["accepted"]


def test_a_new_account_is_judged_by_what_everybody_gets(asker: Asker) -> None:
    found = asker.check("Zoltan-Umbra-7421", "zoltan", display_name="Zoltan Umbra").json()
    assert (found["known"], found["policy"]) == (False, "")
    assert {r["rule"] for r in found["rules"] if r["status"] == "failed"} == {"own_name"}


def test_the_record_has_the_account_and_the_rules_and_never_the_candidate(
    asker: Asker, engine: Engine, caplog: pytest.LogCaptureFixture
) -> None:
    canary = "Orbit-canary-1Zq7"
    asker.check(canary)
    asker.check("Umbra-canary-2Zq7-longer", present="Umbra-canary-1Zq7", operation="change")
    accepted, refused = asker.record()
    assert (refused["outcome"], refused["rules"]) == (
        "refused",
        ["password blocked", "phrase words"],
    )
    assert (accepted["outcome"], accepted["account"], accepted["caller"]) == (
        "accepted",
        "ilse.varga",
        "dc1",
    )
    with Session(engine) as session:
        held = session.scalars(
            text(
                "SELECT t::text FROM gate_answers t UNION ALL SELECT t::text FROM gate_ends t "
                "UNION ALL SELECT t::text FROM trail t"
            )
        ).all()
    assert held
    assert "canary" not in f"{held}{caplog.text}".lower()


def test_nothing_of_a_body_that_is_wrong_is_said_back(asker: Asker) -> None:
    for wrong in (
        {"candidate": "canary\ud800"},
        {"candidate": 7, "canary": 1},
        {"candidate": "canary" * 10_000},
        {"candidate": "ok", "operation": "canary"},
    ):
        answer = asker.client.post(
            f"{GATE}/check",
            content=json.dumps({"account": "ilse.varga", **wrong}),
            headers={**asker.by, "Content-Type": "application/json"},
        )
        assert answer.status_code in (413, 422)
        assert "canary" not in answer.text


def test_a_token_is_for_its_gate_alone_and_ends_with_its_caller(asker: Asker) -> None:
    client = asker.client
    assert client.post(f"{GATE}/check", json={}).status_code == 401
    for token in ("", "hfg_wrong"):
        by = {"Authorization": f"Bearer {token}"}
        assert client.post(f"{GATE}/check", json={}, headers=by).status_code == 401
    client.cookies.clear()
    assert client.get(f"{DOMAIN}/gate/callers", headers=asker.by).status_code == 401
    assert client.get("/api/domains", headers=asker.by).status_code == 401


def test_a_caller_that_is_taken_out_is_answered_no_more(asker: Asker) -> None:
    gone = asker.client.delete(f"{DOMAIN}/gate/callers/{asker.number}?reason=Replaced")
    assert gone.status_code == 204
    assert isinstance(asker.client.app, FastAPI)
    asker.client.app.state.gatehouse._held.forget()
    assert asker.check("Umbra-lantern-7421").status_code == 401
    assert asker.client.get(f"{DOMAIN}/gate/callers").json() == []


def test_names_of_callers_are_there_once_and_say_something(client: TestClient) -> None:
    caller(client)
    for title in ("DC1", "  ", "a\u200bb"):
        body = {"title": title, "kind": "portal", "reason": "New"}
        answer = client.post(f"{DOMAIN}/gate/callers", json=body)
        assert answer.status_code == 422, title
        assert answer.json()["detail"][0]["field"] == "title"


@pytest.mark.parametrize("complexity", [True, False])
def test_the_finding_says_where_an_addition_holds(client: TestClient, complexity: bool) -> None:
    published(client, complexity=complexity)

    def ungated() -> list[str]:
        found = client.get(f"{DOMAIN}/findings").json()["findings"]
        return [f["title"] for f in found if f["key"].startswith("ungated")]

    assert ungated() == ["What Night operators asks besides is judged here only"]
    caller(client, "portal", "portal")
    assert len(ungated()) == 1
    caller(client, "dc1", "hook")
    unasked = "What Night operators asks besides is not enforced by the directory server"
    assert ungated() == ([] if complexity else [unasked])
    caller(client, "dc2", "filter")
    assert ungated() == []
    assert client.get("/api/domains").json()[0]["enforced"] == "everywhere"


def test_rules_that_were_fetched_judge_like_the_gate_itself(asker: Asker) -> None:
    client = asker.client
    got = client.get(f"{GATE}/rules", headers=asker.by)
    same = client.get(f"{GATE}/rules", headers={**asker.by, "If-None-Match": got.headers["ETag"]})
    assert (got.status_code, same.status_code) == (200, 304)
    unpacked = unpack(got.content)
    gate = Gate(unpacked.rules, Lists(terms_in(unpacked.terms)))
    for account in ("ilse.varga", "ILSE.VARGA", "nobody.here", ""):
        for candidate in ("Orbit-lantern-7421", "Umbra-lantern-7421", "umbra", ""):
            answer = gate(Inquiry(account, "reset", candidate))
            said = asker.check(candidate, account).json()
            assert answer.verdict.accepted is said["accepted"]
            assert (answer.policy, answer.known) == (said["policy"], said["known"])


def test_records_of_a_gate_elsewhere_are_kept_once_and_say_how_it_stands(asker: Asker) -> None:
    client = asker.client
    [before] = client.get(f"{DOMAIN}/gate/callers").json()
    assert "not asked yet" in before["trouble"]
    one = {
        "id": str(uuid.uuid4()),
        "at": datetime.now(UTC).isoformat(),
        "account": "ilse.varga",
        "operation": "unknown",
        "outcome": "let through",
    }
    body = {"rules": "old", "otherwise": "accept", "records": [one]}
    for _ in range(2):
        assert client.post(f"{GATE}/records", json=body, headers=asker.by).status_code == 204
    assert [r["outcome"] for r in asker.record()] == ["let through"]
    [standing] = client.get(f"{DOMAIN}/gate/callers").json()
    assert (standing["otherwise"], standing["judges"], standing["unanswered"]) == (
        "accept",
        True,
        1,
    )
    assert "not the present ones" in standing["trouble"]
    rules = client.get(f"{GATE}/rules", headers=asker.by).headers["ETag"].strip('"')
    client.post(f"{GATE}/records", json={**body, "rules": rules}, headers=asker.by)
    assert "got no answer" in client.get(f"{DOMAIN}/gate/callers").json()[0]["trouble"]
    far = {**body, "records": [{**one, "outcome": "accepted", "candidate": "x"}]}
    assert client.post(f"{GATE}/records", json=far, headers=asker.by).status_code == 422


def test_the_day_on_which_a_password_ends_is_kept_and_never_its_length(
    asker: Asker, engine: Engine
) -> None:
    asker.check("Umbra-lantern-7421-long")
    asker.record()
    with Session(engine) as session:
        [end] = session.query(GateEndRow).all()
        [answer] = session.query(GateAnswerRow).all()
    assert end.ends_on == (answer.at.astimezone(UTC) + timedelta(days=365)).date()
    assert answer.rules == []


def test_while_the_database_is_away_the_gate_goes_on_by_what_it_knew(
    asker: Asker, monkeypatch: pytest.MonkeyPatch
) -> None:
    assert asker.check("Umbra-lantern-7421").json()["accepted"]
    app = asker.client.app
    assert isinstance(app, FastAPI)
    house = app.state.gatehouse
    nowhere = connect("postgresql+psycopg://nobody@127.0.0.1:1/none", patient=False)
    monkeypatch.setattr(house, "_engine", nowhere)
    monkeypatch.setattr(house.record, "_engine", nowhere)
    house._held.forget()
    assert not asker.check("Orbit-lantern-7421").json()["accepted"]
    house.record.write()
    monkeypatch.undo()
    assert [r["outcome"] for r in asker.record()] == ["refused", "accepted"]


def test_lengths_that_the_gate_knows_of_are_told_against_a_minimum(
    client: TestClient, engine: Engine
) -> None:
    def told(place: str = DOMAIN, **asked: int) -> Any:
        answer = client.get(f"{place}/expiries/lengths", params=asked)
        assert answer.status_code == 200, answer.text
        return answer.json()

    published(client)
    before = told()
    people = before["unseen"]
    assert (before["shorter"], before["enough"], before["either"]) == (0, 0, 0)
    assert "length audit, which logs" in before["told"]
    current = Snapshots(engine).of("sky.tarnholt.example")
    assert current
    accounts = current.estate.accounts
    under = [
        accounts.name[row]
        for row in np.flatnonzero(current.roster.people).tolist()
        if policy_name(current, int(current.resolution.winner_of_account[row])) == "Night operators"
    ]
    with Session(engine) as session, session.begin():
        for name, days in ((under[0], 60), (under[1], 365)):
            at = int(accounts.password_set[accounts.name.index(name)])
            ends = datetime_from_moment(at + days * TICKS)
            assert ends
            row = GateEndRow(domain_id=current.domain_id, account=name, at=at, ends_on=ends.date())
            session.add(row)
    # One is shorter than 16, the other one is as long at least.
    for least, wanted in ((0, (0, 2, 0)), (15, (0, 1, 1)), (16, (1, 1, 0)), (17, (1, 0, 1))):
        found = told(at_least=least)
        assert (found["shorter"], found["enough"], found["either"]) == wanted, least
        assert found["unseen"] == people - 2
    # Without a number it is what the policy asks, in a draft what that has.
    draft = f"{DOMAIN}~{client.post(f'{DOMAIN}/drafts', json={}).json()['id']}"
    edit(client, policy(client, "Night operators", draft), draft, settings={"min_length": 16})
    assert told(draft)["shorter"] == 1
    assert told()["shorter"] == 0
    for odd in ("at_least=-1", "at_least=300", "at_least=x", "x=1"):
        assert client.get(f"{DOMAIN}/expiries/lengths?{odd}").status_code == 422, odd


def test_lifetimes_are_enforced_only_where_somebody_may_write(client: TestClient) -> None:
    published(client)
    found = client.get(f"{DOMAIN}/gate/lifetimes").json()
    assert (found["enforced"], found["possible"], found["from_gate"]) == (False, False, 0)
    assert found["banded"] > 0
    body = {"enforced": True, "reason": "Length is rewarded"}
    refused = client.put(f"{DOMAIN}/gate/lifetimes", json=body)
    assert refused.status_code == 409
    assert "account that writes" in refused.json()["detail"]
    core = client.get(f"{DOMAIN}/accounts/ilse.varga").json()
    assert date.fromisoformat(core["band_end"]["day"]) < date(2100, 1, 1)
    assert core["band_end"]["from_gate"] is False
