"""The drill over the API: stories at accounts and under policies."""

from __future__ import annotations

from typing import Any

import pytest
from fastapi.testclient import TestClient

from api_help import DOMAIN, DRAFT, edit, policy

MONDAY = "3 bad in 10 min, good after 2 h, unlock"


def drill(client: TestClient, place: str = DOMAIN, **asked: object) -> Any:
    answer = client.post(f"{place}/drill", json=asked)
    assert answer.status_code == 200, answer.text
    return answer.json()


def test_one_story_at_an_account_and_under_a_policy(reader: TestClient) -> None:
    answer = drill(reader, story=MONDAY, accounts=["ilse.varga", "nobody"], policies=["domain"])
    assert answer["unknown"] == ["nobody"]
    assert answer["story"] == "3 bad every 5 min, good after 2 h, unlock"
    assert [(e["at"], e["event"]) for e in answer["events"]][2:] == [
        (600, "bad"),
        (7800, "good"),
        (7810, "unlock"),
    ]
    night, bedrock = answer["columns"]
    assert (night["account"], night["policy_name"], night["threshold"]) == (
        "ilse.varga",
        "Night operators",
        5,
    )
    assert (bedrock["account"], bedrock["policy"]) == (None, "domain")
    assert night["said"] == "Does not lock: 3 of 5 bad tries at most."
    assert [s["bad_count"] for s in night["steps"]] == [1, 2, 3, 0, 0]
    assert night["steps"][2]["counts_until"] == 600 + 1800
    assert [(r["first"], r["count"], r["event"]) for r in night["runs"]] == [
        (0, 3, "bad"),
        (3, 1, "good"),
        (4, 1, "unlock"),
    ]


def test_events_that_were_placed_are_put_in_order_and_written_down(reader: TestClient) -> None:
    events = [{"at": 90.5, "event": "good"}, {"at": 0, "event": "bad"}, {"at": 1, "event": "bad"}]
    answer = drill(reader, events=events, accounts=["ilse.varga"])
    assert answer["story"] == "2 bad every 1 s, good after 1 min 29.5 s"
    assert [e["at"] for e in answer["events"]] == [0, 1, 90.5]


def test_a_draft_is_drilled_as_it_would_be(client: TestClient) -> None:
    edit(client, policy(client, "Night operators"), settings={"lockout_threshold": 3})
    live, draft = (
        drill(client, place, story="4 bad, good after 1 h", accounts=["ilse.varga"])["columns"][0]
        for place in (DOMAIN, DRAFT)
    )
    assert live["said"] == "Does not lock: 4 of 5 bad tries at most."
    assert draft["said"] == "Locks at 20 s after 3 bad tries and opens at 30 min 20 s."
    assert draft["locks"] == [{"start": 20, "tries": 3, "end": 1820, "by_hand": False}]
    assert [(r["count"], r["outcome"], r["locks"]) for r in draft["runs"]] == [
        (3, "refused", True),
        (1, "locked", False),
        (1, "accepted", False),
    ]


def test_every_ready_made_story_can_be_asked_for_and_has_its_lesson(reader: TestClient) -> None:
    stories = reader.get("/api/stories").json()
    assert len(stories) == 5
    for story in stories:
        answer = drill(reader, ready=story["key"], accounts=["ilse.varga"])
        assert answer["events"]
        (column,) = answer["columns"]
        assert column["lesson"]
        told = drill(reader, story=answer["story"], lesson=story["key"], accounts=["ilse.varga"])
        assert told["columns"] == answer["columns"], "the same story, and the same lesson"


def test_a_story_happens_to_nobody_yet(reader: TestClient) -> None:
    assert drill(reader, ready="slow")["columns"] == []


def test_a_story_that_cannot_be_is_refused_with_its_place(
    reader: TestClient, subtests: pytest.Subtests
) -> None:
    cases: list[Any] = [
        ({"story": "bad, 3 bda"}, "story", "Part 2, “3 bda”: Say what happens"),
        ({"ready": "tuesday"}, "ready", "There is no such story"),
        ({"events": [{"at": 9e7, "event": "bad"}]}, "events", "from 0 to"),
        ({"events": [{"at": -1, "event": "bad"}]}, "events.0.at", ""),
        ({"events": [{"at": 0, "event": "worse"}]}, "events.0.event", ""),
        ({"story": "bad", "events": []}, "", "one of them"),
        ({}, "", "one of them"),
    ]
    for asked, field, problem in cases:
        with subtests.test(asked=asked, field=field, problem=problem):
            refused = reader.post(f"{DOMAIN}/drill", json=asked)
            assert refused.status_code == 422
            fields = refused.json()["detail"]
            assert [f["field"] for f in fields] == [field]
            assert problem in fields[0]["message"]


def keep(client: TestClient, **trial: object) -> Any:
    body = {"title": "Devices", "kind": "account", "target": "ilse.varga", **trial}
    return client.post(f"{DOMAIN}/trials", json=body)


def test_a_story_is_kept_as_a_trial_and_runs_on_every_draft(client: TestClient) -> None:
    made = keep(client, story="bad tries every 5 min for 15 min", expected="stays_open")
    assert made.status_code == 201, made.text
    trial = made.json()
    assert (trial["story"], trial["candidate"]) == ("4 bad every 5 min", "")
    assert (trial["met"], trial["said"]) == (True, "As expected.")
    edit(client, policy(client, "Night operators"), settings={"lockout_threshold": 3})
    answer = client.get(f"{DRAFT}/trials").json()
    (found,) = answer["trials"]
    assert (answer["unmet"], found["met"], found["met_live"]) == (1, False, True)
    assert found["said"] == (
        "For ilse.varga it locks at 10 min after 3 bad tries and opens at 40 min."
    )
    locks = keep(client, story="9 bad", expected="locks").json()
    assert locks["met"] is True


def test_a_trial_that_cannot_be_kept_is_refused(
    reader: TestClient, subtests: pytest.Subtests
) -> None:
    cases: list[Any] = [
        ({"story": "3 bda", "expected": "locks"}, "story", "Say what happens"),
        ({"story": ",", "expected": "locks"}, "story", "Nothing happens"),
        ({"story": "bad", "expected": "refused"}, "", "locks or stays open"),
        ({"candidate": "x", "invented": True, "expected": "locks"}, "", "accepted or refused"),
        ({"candidate": "x", "expected": "refused"}, "invented", "Only an invented candidate"),
        (
            {"candidate": "x", "invented": True, "story": "bad", "expected": "locks"},
            "",
            "one of them",
        ),
        ({"expected": "locks"}, "", "one of them"),
        ({"story": "bad", "expected": "locks", "rule": "length"}, "rule", "for a refusal"),
    ]
    for trial, field, problem in cases:
        with subtests.test(trial=trial, field=field, problem=problem):
            refused = keep(reader, **trial)
            assert refused.status_code == 422
            (told,) = refused.json()["detail"]
            assert told["field"] == field
            assert problem in told["message"]
