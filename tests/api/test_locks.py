"""Locked accounts over the API: seen, explained, unlocked by a change record."""

from __future__ import annotations

import re
from typing import Any

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import Engine
from sqlalchemy.orm import Session

from api_help import DOMAIN, DRAFT
from hornfels.core.lockout.locked import Sighting
from hornfels.formats.dump import Dump
from hornfels.service.demo_domain import store_demo
from hornfels.store import locks
from hornfels.store.estates import save_dump
from persons import as_user

OF_TODAY = "/api/domains/sky.tarnholt.example"


@pytest.fixture
def today(engine: Engine, client: TestClient) -> TestClient:
    """The demo as `make demo` stores it, with locks of the last hours."""
    with Session(engine) as session, session.begin():
        store_demo(session)
    return client


def standing(client: TestClient, place: str = OF_TODAY) -> Any:
    answer = client.get(f"{place}/locks")
    assert answer.status_code == 200, answer.text
    return answer.json()


def test_who_is_locked_since_when_and_under_which_policy(today: TestClient) -> None:
    found = standing(today)
    assert found["locked_total"] == len(found["locked"])
    one = found["locked"][0]
    assert one["name"].startswith("k-")
    assert (one["policy_name"], one["tries"], one["asked"]) == ("Keyholders", 4, None)
    assert one["since"]
    assert standing(today, DRAFT)["locked"] == found["locked"], "a draft locks nobody"


def test_a_device_that_keeps_trying_is_named(today: TestClient) -> None:
    (pattern,) = standing(today)["patterns"]
    assert pattern["kind"] == "again"
    assert pattern["locks"] == 9
    assert re.search(r"was locked 9 times in 7 days, \d+ min apart or so", pattern["sentence"])


def test_an_account_has_the_locks_that_were_seen(today: TestClient) -> None:
    name = standing(today)["patterns"][0]["accounts"][0]
    earlier = today.get(f"{OF_TODAY}/locks/of/{name}").json()
    assert [one["tries"] for one in earlier] == [5] * 10, "that of the first load too"
    assert [one["at"] for one in earlier] == sorted((one["at"] for one in earlier), reverse=True)
    assert today.get(f"{OF_TODAY}/locks/of/ilse.varga").json() == []
    assert today.get(f"{OF_TODAY}/locks/of/nobody").status_code == 404


def test_who_is_close_to_the_threshold_is_told_when_that_is_forgotten(today: TestClient) -> None:
    found = standing(today)
    assert found["close_total"] == len(found["close"])
    for one in found["close"]:
        assert 1 <= one["left"] <= 2
        assert one["tries"] >= 1
        assert one["forgotten_at"]


def test_another_password_is_asked_for_like_an_unlocking(today: TestClient) -> None:
    asked = {"accounts": ["ilse.varga", "ilse.varga"], "reason": "It was on a note"}
    made = today.post(f"{OF_TODAY}/locks/must-change", json=asked)
    assert (made.status_code, made.json()["told"]) == (201, None)
    point = today.get(f"{OF_TODAY}/history").json()[0]
    assert (point["kind"], point["title"], point["unlocked"]) == (
        "must change",
        "Another password at the next sign-in for ilse.varga",
        ["ilse.varga"],
    )
    records = today.get(f"{OF_TODAY}/history/{point['id']}/unlocking.ldif").text
    assert "replace: pwdLastSet\npwdLastSet: 0\n" in records
    unknown = today.post(
        f"{OF_TODAY}/locks/must-change", json={"accounts": ["ilse.varga", "x"], "reason": "r"}
    )
    assert unknown.json()["detail"][0]["field"] == "accounts.1"


def test_unlocking_is_kept_in_history_and_comes_out_as_a_change_record(today: TestClient) -> None:
    as_user(today, "ben")
    names = [one["name"] for one in standing(today)["locked"]]
    made = today.post(
        f"{OF_TODAY}/locks/unlockings",
        json={"accounts": names, "reason": " called in, known voice "},
    )
    assert made.status_code == 201, made.text
    point = made.json()["point"]
    for one in standing(today)["locked"]:
        assert (one["asked"]["by"], one["asked"]["point"]) == ("ben", point), "still locked here"
    kept = today.get(f"{OF_TODAY}/history").json()[0]
    assert (kept["kind"], kept["reason"], kept["author"]) == (
        "unlocking",
        "called in, known voice",
        "ben",
    )
    assert (kept["unlocked"], kept["can_undo"]) == (names, False)
    records = today.get(f"{OF_TODAY}/history/{point}/unlocking.ldif").text
    assert records.count("changetype: modify\nreplace: lockoutTime\nlockoutTime: 0\n-\n") == len(
        names
    )
    assert "# called in, known voice" in records


def test_a_point_of_another_kind_unlocks_nobody(client: TestClient) -> None:
    point = client.get(f"{DOMAIN}/history").json()[0]["id"]
    assert client.get(f"{DOMAIN}/history/{point}/unlocking.ldif").status_code == 404
    assert client.post(f"{DOMAIN}/history/{point}/undo").status_code == 409


def test_nobody_is_unlocked_who_is_not_locked_or_without_a_reason(
    today: TestClient, subtests: pytest.Subtests
) -> None:
    cases: list[Any] = [
        ({"accounts": ["ilse.varga"], "reason": "x"}, "accounts.0"),
        ({"accounts": ["nobody"], "reason": "x"}, "accounts.0"),
        ({"accounts": [], "reason": "x"}, "accounts"),
        ({"accounts": ["nobody"], "reason": "  "}, "reason"),
        ({"accounts": ["nobody"]}, "reason"),
    ]
    for body, field in cases:
        with subtests.test(body=body, field=field):
            points = len(today.get(f"{OF_TODAY}/history").json())
            refused = today.post(f"{OF_TODAY}/locks/unlockings", json=body)
            assert refused.status_code == 422
            assert refused.json()["detail"][0]["field"] == field
            assert len(today.get(f"{OF_TODAY}/history").json()) == points


def test_locks_are_remembered_from_load_to_load(engine: Engine, demo: Dump) -> None:
    with Session(engine) as session, session.begin():
        domain = save_dump(session, demo, "first", "ann")
        seen = locks.sightings(session, domain.id, 0)
        assert len(seen) == 2
        save_dump(session, demo, "again", "ann")
        assert locks.sightings(session, domain.id, 0) == seen, "the same lock is seen once"
        locks.add(session, domain.id, [(Sighting(seen[0].rid, "other", 5), 3)])
        session.flush()
        held = locks.of_account(session, domain.id, seen[0].rid)
        assert [row.at for row in held] == [seen[0].at, 5]
