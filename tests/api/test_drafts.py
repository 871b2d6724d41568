"""Drafts through the API: live stays as it is until a publish, which is all or nothing and can be
taken back.
"""

from __future__ import annotations

import os
import signal
import socket
import subprocess
import sys
import time
from pathlib import Path
from typing import Any

import httpx2
import pytest
from fastapi.testclient import TestClient
from sqlalchemy import Engine, text
from sqlalchemy.orm import Session

from api_help import DOMAIN, DRAFT, draft_step, edit, policy
from persons import as_user

WORKSHOP = "CN=GS-Workshop,OU=Groups,DC=sky,DC=tarnholt,DC=example"


def draft(client: TestClient, place: str = DRAFT) -> dict[str, Any]:
    answer: dict[str, Any] = client.get(f"{place}/draft").json()
    return answer


def said(groups: list[dict[str, Any]]) -> list[tuple[str, str, str, str]]:
    return [
        (g["subject"], c["text"], c["before"], c["after"]) for g in groups for c in g["changes"]
    ]


LONGER = ("Night operators", "Minimum length", "14 characters", "16 characters")


def test_live_is_never_edited(reader: TestClient) -> None:
    night = policy(reader, "Night operators", DOMAIN)
    refused = edit(reader, night, DOMAIN, settings={"min_length": 16})
    assert (refused.status_code, refused.json()["detail"]) == (
        409,
        "Live is never edited. Open a draft and make the change there.",
    )
    assert reader.get(f"{DOMAIN}~99/strata").status_code == 404
    assert reader.get(f"{DOMAIN}~x/strata").json()["detail"] == "'x' is no number of a draft."


def test_a_draft_answers_for_itself_and_live_for_live(client: TestClient) -> None:
    night = policy(client, "Night operators")
    assert edit(client, night, precedence=25, settings={"min_length": 16}).status_code == 200
    assert said(draft(client)["groups"]) == [("Night operators", "Precedence", "30", "25"), LONGER]
    assert policy(client, "Night operators", DOMAIN) == policy(
        client, "Night operators", DOMAIN
    ) | {
        "precedence": 30,
        "governed": 60,
    }
    after = policy(client, "Night operators")
    assert (
        after["governed"],
        after["live"]["precedence"],
        after["live"]["settings"]["min_length"],
    ) == (66, 30, 14)
    strata = client.get(f"{DRAFT}/strata").json()
    assert {la["name"]: la["change"] for la in strata["layers"] if la["change"]} == {
        "Night operators": "changed"
    }
    assert sum(p["moved"] for p in strata["populations"]) == 6
    moved = [
        r for r in client.get(f"{DRAFT}/accounts", params={"limit": 500}).json()["rows"] if r["was"]
    ]
    assert {(r["was"], r["policy_name"]) for r in moved} <= {("Grants office", "Night operators")}
    body = {"candidate": "Perigee-Transit-3", "operation": "reset", "accounts": ["ilse.varga"]}
    verdicts = [
        client.post(f"{place}/verdicts", json=body).json()["columns"][0]["accepted"]
        for place in (DOMAIN, DRAFT)
    ]
    assert verdicts == [True, True]
    body["candidate"] = "Perigee-Transi3"
    verdicts = [
        client.post(f"{place}/verdicts", json=body).json()["columns"][0]["accepted"]
        for place in (DOMAIN, DRAFT)
    ]
    assert verdicts == [True, False]


def test_the_impact_counts_people(client: TestClient) -> None:
    keyholders = policy(client, "Keyholders")
    assert (
        edit(
            client,
            keyholders,
            settings={"max_age": 30 * 86400, "min_length": 8, "lockout_threshold": 0},
        ).status_code
        == 200
    )
    told = client.get(f"{DRAFT}/draft/impact").json()
    assert told["accounts"] == 0
    governed = keyholders["governed"]
    by_key = {s["key"]: (s["stronger"], s["weaker"]) for s in told["settings"]}
    assert by_key["min_length"] == (0, governed)
    assert by_key["max_age"] == (governed, 0)
    assert told["no_longer_lockable"] == governed
    assert told["weaker_privileged"] == len(told["weaker_privileged_names"]) > 0
    assert len(told["expiring"]) == 30
    assert client.get(f"{DOMAIN}/draft/impact").status_code == 409


def test_undo_redo_and_dropping_one_change(client: TestClient) -> None:
    night = policy(client, "Night operators")
    after = edit(client, night, settings={"min_length": 16}).json()
    edit(client, after, precedence=35)
    assert [c[1] for c in said(draft_step(client, "undo").json()["groups"])] == ["Minimum length"]
    assert said(draft_step(client, "undo").json()["groups"]) == []
    assert draft_step(client, "undo").status_code == 409
    draft_step(client, "redo")
    assert [c[1] for c in said(draft_step(client, "redo").json()["groups"])] == [
        "Minimum length",
        "Precedence",
    ]
    seen = draft(client)
    left = client.delete(f"{DRAFT}/draft/operations/0", params={"version": seen["version"]}).json()
    assert said(left["groups"]) == [("Night operators", "Precedence", "30", "35")]
    late = client.delete(f"{DRAFT}/draft/operations/0", params={"version": seen["version"]})
    assert late.status_code == 409
    assert "it was changed in another window of yours meanwhile" in late.json()["detail"]


def test_a_publish_wants_approval_where_it_is_required_and_makes_history(
    client: TestClient,
) -> None:
    info = client.get("/api/domains").json()[0]
    assert (
        client.patch(
            DOMAIN, json={"approval_required": True, "reason": "r", "version": info["version"]}
        ).json()["approval_required"]
        is True
    )
    edit(client, policy(client, "Night operators"), settings={"min_length": 16})
    seen = draft(client)
    client.patch(
        f"{DRAFT}/draft",
        json={"version": seen["version"], "title": "Longer nights", "reason": "agreed in May"},
    )
    assert "second person" in draft_step(client, "publish").json()["detail"]
    assert "Somebody else" in draft_step(client, "approve").json()["detail"]
    as_user(client, "ben")
    assert draft_step(client, "approve").json()["approved_by"] == "ben"
    as_user(client, "ann")
    edit(client, policy(client, "Night operators"), settings={"history_length": 12})
    assert draft(client)["approved_by"] is None
    as_user(client, "ben")
    draft_step(client, "approve")
    assert draft_step(client, "publish").status_code == 200
    assert policy(client, "Night operators", DOMAIN)["settings"]["min_length"] == 16
    assert client.get(f"{DRAFT}/draft").status_code == 404
    published, setting, loaded = client.get(f"{DOMAIN}/history").json()
    assert (setting["kind"], setting["reason"]) == ("setting", "r")
    assert (
        published["title"],
        published["reason"],
        published["author"],
        published["approver"],
    ) == ("Longer nights", "agreed in May", "ben", "ben")
    assert LONGER in said(published["groups"])
    between = client.get(
        f"{DOMAIN}/history/compare", params={"before": loaded["id"], "after": published["id"]}
    ).json()
    assert said(between["groups"]) == said(published["groups"])
    back = client.post(f"{DOMAIN}/history/{published['id']}/undo").json()
    place = f"{DOMAIN}~{back['id']}"
    assert (LONGER[0], LONGER[1], LONGER[3], LONGER[2]) in said(draft(client, place)["groups"])
    as_user(client, "ann")
    draft_step(client, "approve", place)
    assert draft_step(client, "publish", place).status_code == 200
    assert policy(client, "Night operators", DOMAIN)["settings"]["min_length"] == 14
    assert client.post(f"{DOMAIN}/history/{loaded['id']}/undo").status_code == 409
    assert client.post(f"{DOMAIN}/history/999/undo").status_code == 404


def test_two_drafts_of_one_setting_conflict_and_are_resolved_one_at_a_time(
    client: TestClient,
) -> None:
    night = policy(client, "Night operators")
    edit(client, night, settings={"min_length": 16})
    edit(client, policy(client, "Keyholders"), settings={"min_length": 22})
    other = f"{DOMAIN}~{client.post(f'{DOMAIN}/drafts', json={'title': 'Other'}).json()['id']}"
    edit(client, policy(client, "Night operators", other), other, settings={"min_length": 18})
    assert draft_step(client, "publish", other).status_code == 200
    seen = draft(client)
    assert (seen["conflicts"], policy(client, "Night operators")["settings"]["min_length"]) == (
        1,
        18,
    )
    assert [c["conflict"] for g in seen["groups"] for c in g["changes"]] == [
        "Night operators was changed meanwhile: now minimum length 18 characters.",
        "",
    ]
    assert "Nothing was published" in draft_step(client, "publish").json()["detail"]
    kept = client.post(f"{DRAFT}/draft/operations/0/keep", json={"version": seen["version"]}).json()
    assert kept["conflicts"] == 0
    assert said(kept["groups"])[0] == (
        "Night operators",
        "Minimum length",
        "18 characters",
        "16 characters",
    )
    assert (
        client.post(
            f"{DRAFT}/draft/operations/0/keep", json={"version": kept["version"]}
        ).status_code
        == 409
    )
    assert draft_step(client, "publish").status_code == 200
    assert policy(client, "Night operators", DOMAIN)["settings"]["min_length"] == 16


def test_policies_are_numbered_anew_added_and_exported(client: TestClient) -> None:
    numbered = client.post(f"{DRAFT}/draft/renumber").json()
    assert (
        said(numbered["groups"])[0][1]
        == "Numbered with gaps, in the same order: nobody's policy changes"
    )
    assert client.get(f"{DRAFT}/draft/impact").json()["accounts"] == 0
    new = {
        "name": "Workshop",
        "precedence": 85,
        "settings": {"min_length": 15},
        "links": [WORKSHOP],
    }
    assert client.post(f"{DRAFT}/policies", json=new).json()["governed"] == 54
    written = client.get(f"{DRAFT}/draft/changes.ldif")
    assert (
        "filename*=UTF-8''sky.tarnholt.example-draft-1.ldif"
        in written.headers["content-disposition"]
    )
    assert "dn: CN=Workshop,CN=Password Settings Container" in written.text
    assert f"msDS-PSOAppliesTo: {WORKSHOP}" in written.text
    assert draft_step(client, "publish").status_code == 200
    made = policy(client, "Workshop", DOMAIN)
    assert (made["governed"], made["mark"], made["guarded"]) == (54, 8, True)


def test_what_ifs_are_weighed_and_never_published(client: TestClient) -> None:
    join = {"member": "CN=GS-Workshop,OU=Groups,DC=sky,DC=tarnholt,DC=example", "join": True}
    join["group"] = "CN=GS-Night-Operators,OU=Groups,DC=sky,DC=tarnholt,DC=example"
    assert client.post(f"{DRAFT}/draft/memberships", json=join).json()["what_ifs"] == 1
    assert client.get(f"{DRAFT}/draft/impact").json()["accounts"] == 54
    assert client.post(f"{DRAFT}/draft/memberships", json=join).status_code == 422
    flag = {"account": "ilse.varga", "flag": "NEVER_EXPIRES", "on": True}
    assert client.post(f"{DRAFT}/draft/flags", json=flag).json()["what_ifs"] == 2
    assert client.get(f"{DRAFT}/accounts/ilse.varga").json()["expiry"] == "never"
    assert client.post(f"{DRAFT}/draft/flags", json=flag | {"account": "nobody"}).status_code == 404
    assert draft_step(client, "publish").json()["detail"] == "The draft holds nothing to publish."
    assert (
        client.delete(f"{DRAFT}/draft", params={"version": draft(client)["version"]}).status_code
        == 204
    )
    assert client.get(f"{DOMAIN}/drafts").json() == []


def _free_port() -> int:
    with socket.create_server(("127.0.0.1", 0)) as listener:
        return int(listener.getsockname()[1])


@pytest.mark.thorough
@pytest.mark.parametrize("victim", ["server", "database session"])
def test_killing_it_in_the_middle_of_a_publish_leaves_nothing_half_done(
    client: TestClient, engine: Engine, victim: str
) -> None:
    edit(client, policy(client, "Night operators"), precedence=33, settings={"min_length": 16})
    edit(client, policy(client, "Keyholders"), name="Key people")
    before = policy(client, "Night operators", DOMAIN)
    with Session(engine) as session, session.begin():
        session.execute(text("UPDATE sessions SET user_name = 'ann'"))
    port = _free_port()
    url = engine.url.render_as_string(hide_password=False)
    server = subprocess.Popen(
        [str(Path(sys.executable).parent / "hornfels"), "serve", "--port", str(port)],
        env={**os.environ, "HORNFELS_DATABASE_URL": url},
        stdout=subprocess.DEVNULL,
        stderr=subprocess.DEVNULL,
    )
    try:
        with httpx2.Client(
            base_url=f"http://127.0.0.1:{port}", cookies=dict(client.cookies)
        ) as browser:
            _wait_for(lambda: _answers(browser))
            version = browser.get(f"{DRAFT}/draft").json()["version"]
            # The history table is held, so that the publish stands still after it has written
            # policies.
            with engine.connect() as holder:
                holder.execute(text("LOCK TABLE history IN EXCLUSIVE MODE"))
                with pytest.raises(httpx2.TimeoutException):
                    browser.post(f"{DRAFT}/draft/publish", json={"version": version}, timeout=2)
                _wait_for(lambda: _waiting(engine) == 1)
                if victim == "server":
                    server.send_signal(signal.SIGKILL)
                    server.wait()
                with Session(engine) as session, session.begin():
                    session.execute(
                        text(
                            "SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE "
                            "wait_event_type = 'Lock' AND pid <> pg_backend_pid()"
                        )
                    )
                _wait_for(lambda: _waiting(engine) == 0)
    finally:
        server.kill()
        server.wait()
    assert policy(client, "Night operators", DOMAIN) == before
    assert [p["kind"] for p in client.get(f"{DOMAIN}/history").json()] == ["loaded"]
    assert draft(client)["conflicts"] == 0
    assert draft_step(client, "publish").status_code == 200
    assert policy(client, "Night operators", DOMAIN)["settings"]["min_length"] == 16
    assert policy(client, "Key people", DOMAIN)["precedence"] == 5


def _answers(browser: httpx2.Client) -> bool:
    try:
        return browser.get("/api/session").status_code == 200
    except httpx2.TransportError:
        return False


def _waiting(engine: Engine) -> int:
    with engine.connect() as connection:
        found = connection.scalar(
            text("SELECT count(*) FROM pg_stat_activity WHERE wait_event_type = 'Lock'")
        )
        return int(found or 0)


def _wait_for(condition: Any) -> None:
    limit = time.monotonic() + 60
    while not condition():
        assert time.monotonic() < limit
        os.sched_yield()
