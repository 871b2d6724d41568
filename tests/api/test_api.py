"""The API over the real database, through the real application."""

from __future__ import annotations

import csv
import io
import re
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

import httpx2
import pytest
from fastapi.testclient import TestClient
from sqlalchemy import create_engine
from sqlalchemy.orm import Session

from api_help import DOMAIN, DRAFT, edit, follow, policy
from hornfels.api.app import create_app
from hornfels.formats.dump import Dump
from hornfels.store.cluster import Cluster
from hornfels.store.database import connect
from hornfels.store.estates import save_dump
from persons import as_user, let_in
from served import served


def fields(response: Any) -> dict[str, str]:
    return {d["field"]: d["message"] for d in response.json()["detail"]}


def test_nothing_is_shown_before_signing_in(anonymous: TestClient) -> None:
    assert anonymous.get("/api/session").json()["name"] is None
    for method, path in (
        ("GET", "/api/domains"),
        ("GET", f"{DOMAIN}/strata"),
        ("POST", f"{DOMAIN}/verdicts"),
        ("GET", "/api/settings"),
        ("POST", "/api/loads"),
    ):
        assert anonymous.request(method, path).status_code in (401, 422), path
    assert anonymous.get(f"{DOMAIN}/strata").status_code == 401
    assert (
        anonymous.post("/api/session", json={"name": "ann", "password": "wrong"}).status_code == 403
    )


def test_signing_out_ends_it(client: TestClient) -> None:
    assert client.get("/api/session").json()["name"] == "ann"
    assert client.delete("/api/session").status_code == 204
    assert client.get(f"{DOMAIN}/strata").status_code == 401


def test_other_sites_cannot_write(reader: TestClient) -> None:
    answer = reader.post(
        f"{DOMAIN}/verdicts", json={}, headers={"Origin": "https://elsewhere.example"}
    )
    assert answer.status_code == 403
    assert "frame-ancestors 'none'" in reader.get("/api/session").headers["content-security-policy"]


def test_strata(reader: TestClient) -> None:
    strata = reader.get(f"{DOMAIN}/strata").json()
    assert [layer["precedence"] for layer in strata["layers"]] == [5, 10, 20, 30, 30, 40, 60, 70]
    assert [layer["name"] for layer in strata["layers"] if layer["idle"]] == ["Phrase pilot"]
    assert "universal group" in strata["layers"][-1]["idle"]
    grants, night = strata["layers"][3:5]
    assert (grants["name"], grants["ties"][0]["wins"], night["ties"][0]["contested"]) == (
        "Grants office",
        True,
        6,
    )
    assert sum(p["count"] for p in strata["populations"]) == strata["domain"]["accounts"] == 1184
    kiosk = next(p for p in strata["populations"] if p["source"] == "account")
    assert [(c["direct"], c["holds"]) for c in kiosk["cells"]] == [(False, False), (True, True)]
    sources = [(s["name"], s["at_root"], s["order"]) for s in strata["bedrock"]["sources"]]
    assert sources == [
        ("Observatory account rules", True, 1),
        ("Default Domain Policy", True, 2),
        ("Workshop bench machines", False, 1),
    ]


def test_editing_moves_the_resolution(client: TestClient) -> None:
    night = policy(client, "Night operators")
    done = edit(client, night, precedence=25, settings={"min_length": 16, "max_age": None})
    assert done.status_code == 200
    after = done.json()
    assert (after["governed"], after["ties"], after["changed_by"]) == (66, [], "ann")
    assert after["version"] != night["version"]
    assert (
        after["settings"]["min_length"],
        after["settings"]["max_age"],
        after["settings"]["min_age"],
    ) == (16, None, 86400)
    assert policy(client, "Grants office")["governed"] == 31


def test_two_people_at_once_are_told(client: TestClient) -> None:
    night = policy(client, "Night operators")
    assert edit(client, night, settings={"min_length": 16}).status_code == 200
    as_user(client, "ben")
    lost = edit(client, night, settings={"min_length": 18})
    assert lost.status_code == 409
    assert lost.json()["message"].startswith("ann changed Night operators")
    assert lost.json()["current"]["settings"]["min_length"] == 16
    for late in (
        client.post(
            f"{DRAFT}/policies/{night['guid']}/links",
            json={"dn": "CN=Domain Users,CN=Users,DC=sky,DC=tarnholt,DC=example", "version": 1},
        ),
        client.delete(f"{DRAFT}/policies/{night['guid']}?version=1"),
    ):
        assert late.status_code == 409


@pytest.mark.parametrize(
    ("changes", "field", "words"),
    [
        ({"settings": {"min_length": 256}}, "min_length", "0 to 255"),
        ({"settings": {"lockout_window": 7200}}, "lockout_window", "cannot exceed"),
        ({"settings": {"max_age": 3600}}, "max_age", "longer than the minimum age"),
        ({"settings": {"min_length": None}}, "min_length", "needs a value"),
        ({"settings": {"min_length": "many"}}, "settings.min_length", "Give a whole number."),
        ({"settings": {"min_size": 5}}, "settings.min_size", "There is no such field here."),
        ({"settings": {"max_age": 1e300}}, "max_age", "longer than a directory can hold"),
        ({"precedence": 0}, "precedence", "from 1 to"),
        ({"name": "Keyholders"}, "name", "already a policy named"),
        ({"name": " "}, "name", "Give the policy a name."),
        ({"name": " Nights"}, "name", "cannot begin or end with a space. Take the space away."),
        ({"name": "N" * 65}, "name", "at most 64 characters; this one has 65"),
        ({"name": "Ni\nghts"}, "name", "line breaks or other control characters"),
    ],
)
def test_bad_edits_name_the_field_and_change_nothing(
    client: TestClient, changes: dict[str, Any], field: str, words: str
) -> None:
    night = policy(client, "Night operators")
    refused = edit(client, night, **changes)
    assert refused.status_code == 422
    assert words in fields(refused)[field]
    assert policy(client, "Night operators") == night


def test_what_a_directory_already_holds_does_not_block_other_edits(client: TestClient) -> None:
    kiosk = policy(client, "Kiosk floor")
    assert edit(client, kiosk, settings={"min_length": 6}).status_code == 200


def test_create_link_unlink_and_delete_with_the_guard(client: TestClient) -> None:
    made = client.post(
        f"{DRAFT}/policies",
        json={"name": "Library", "precedence": 45, "settings": {"min_length": 15}},
    ).json()
    assert (made["links"], made["idle"], made["guarded"]) == (
        [],
        "Reaches nobody: it is linked to nothing.",
        True,
    )
    path = f"{DRAFT}/policies/{made['guid']}"
    dn = next(
        h["dn"]
        for h in client.get(f"{DOMAIN}/search", params={"q": "gs-library", "kind": "group"}).json()[
            "hits"
        ]
    )
    linked = client.post(
        f"{path}/links", json={"dn": dn.lower(), "version": made["version"]}
    ).json()
    assert (linked["governed"], linked["links"][0]["name"], linked["links"][0]["dn"]) == (
        7,
        "GS-Library",
        dn,
    )
    assert (
        client.post(
            f"{path}/links", json={"dn": "CN=nobody", "version": linked["version"]}
        ).status_code
        == 422
    )
    bare = client.delete(f"{path}/links", params={"dn": dn, "version": linked["version"]}).json()
    assert (bare["governed"], bare["version"]) == (0, made["version"])
    refused = client.delete(path, params={"version": bare["version"]})
    assert "Lift the guard" in fields(refused)["guarded"]
    lifted = edit(client, bare, guarded=False).json()
    assert client.delete(path, params={"version": lifted["version"]}).status_code == 204
    assert client.get(path).status_code == 404
    assert client.delete(path, params={"version": 4}).status_code == 404


def test_accounts_filter_page_and_explain(reader: TestClient) -> None:
    def names(**query: Any) -> list[str]:
        return [r["name"] for r in reader.get(f"{DOMAIN}/accounts", params=query).json()["rows"]]

    everyone = reader.get(f"{DOMAIN}/accounts", params={"limit": 500, "offset": 1000}).json()
    assert (everyone["total"], len(everyone["rows"])) == (1184, 184)
    assert names(limit=500) == sorted(names(limit=500), key=str.upper)
    assert len(names(q="kiosk")) == 12
    assert names(q="dome NORTH") == ["kiosk-north"]
    assert len(names(policy=policy(reader, "Grants office")["guid"])) == 37
    assert reader.get(f"{DOMAIN}/accounts", params={"policy": "domain"}).json()["total"] == 721
    assert (
        reader.get(f"{DOMAIN}/accounts", params={"group": "GS-Night-Operators"}).json()["total"]
        == 66
    )
    both = reader.get(f"{DOMAIN}/strata").json()["populations"]
    six = next(p for p in both if p["count"] == 6)
    assert len(names(population=six["key"])) == 6
    for query in ({"policy": "00000000-0000-0000-0000-000000000000"}, {"group": "none"}):
        assert reader.get(f"{DOMAIN}/accounts", params=query).status_code == 404
    core = reader.get(f"{DOMAIN}/accounts/kiosk-north").json()
    assert (core["policy_name"], core["source"]) == ("Kiosk floor", "account")
    loser = core["layers"][1]
    assert (loser["outcome"], [s["name"] for s in loser["steps"]]) == (
        "loses",
        ["GS-Dome-Kiosks", "GS-Visiting-Astronomers"],
    )
    assert reader.get(f"{DOMAIN}/accounts/nobody").status_code == 404


def test_accounts_are_asked_for_by_several_things_at_once(reader: TestClient) -> None:
    def asked(**query: Any) -> list[dict[str, Any]]:
        answer = reader.get(f"{DOMAIN}/accounts", params={"limit": 500, **query})
        assert answer.status_code == 200, answer.text
        rows: list[dict[str, Any]] = answer.json()["rows"]
        return rows

    tied = asked(tie=True)
    assert {(r["policy_name"], r["tie"]) for r in tied} == {("Grants office", True)}
    assert {r["through"] for r in tied} == {"GS-Grants-Office"}
    assert all(r["source"] == "account" and r["through"] is None for r in asked(way="account"))
    assert len(asked(locked=True)) == 2
    kept = asked(privileged=True, flag=["never_expires"], enabled=True)
    assert kept
    assert all("Password never expires" in r["flags"] for r in kept)
    ends = [r["expires_at"] for r in asked(expiry="expired", order="expires", descending=True)]
    assert len(ends) > 1
    assert ends == sorted(ends, reverse=True)
    containers = reader.get(f"{DOMAIN}/containers").json()
    assert sum(c["accounts"] for c in containers) == 1184
    one = max(containers, key=lambda c: c["accounts"])
    within = asked(container=one["dn"].lower())
    assert {r["container"] for r in within} == {
        c["dn"] for c in containers if c["dn"].endswith(one["dn"]) and c["accounts"]
    }
    old = asked(set_before="2025-12-01T00:00:00+02:00", order="set")
    assert old
    assert all(r["set_at"] < "2025-12-01" for r in old)
    for bad in (
        {"set_before": "2025-12-01T00:00:00"},
        {"within": 0},
        {"flag": "x"},
        {"order": "colour"},
        {"nonsense": "1"},
        {"way": "x"},
    ):
        assert reader.get(f"{DOMAIN}/accounts", params=bad).status_code == 422, bad


def test_accounts_come_out_as_a_table(client: TestClient) -> None:
    answer = client.get(
        f"{DOMAIN}/accounts.csv",
        params={"policy": policy(client, "Grants office")["guid"], "order": "policy"},
    )
    assert answer.headers["content-type"].startswith("text/csv")
    rows = list(csv.DictReader(io.StringIO(answer.text)))
    assert len(rows) == 37
    assert {r["Policy"] for r in rows} == {"Grants office"}
    assert {r["Through group"] for r in rows} == {"GS-Grants-Office"}
    assert sum(r["Decided by a tie"] == "yes" for r in rows) == 6
    assert client.get(f"{DOMAIN}/accounts.csv", params={"limit": 5}).status_code == 422


def test_policies_and_accounts_read_as_attributes(client: TestClient) -> None:
    night = policy(client, "Night operators")
    held = {
        a["name"]: a for a in client.get(f"{DOMAIN}/policies/{night['guid']}/attributes").json()
    }
    assert held["msDS-MaximumPasswordAge"] == {
        "name": "msDS-MaximumPasswordAge",
        "values": ["-51840000000000"],
        "reads": "60 d",
    }
    assert edit(client, night, settings={"max_age": 2 * 86_400}).status_code == 200
    drafted = {
        a["name"]: a["values"]
        for a in client.get(f"{DRAFT}/policies/{night['guid']}/attributes").json()
    }
    assert drafted["msDS-MaximumPasswordAge"] == ["-1728000000000"]
    assert {a["name"] for a in client.get(f"{DOMAIN}/policies/domain/attributes").json()} >= {
        "minPwdLength",
        "pwdProperties",
    }
    person = {
        a["name"]: a["values"]
        for a in client.get(f"{DOMAIN}/accounts/ilse.varga/attributes").json()
    }
    assert person["msDS-ResultantPSO"] == [night["dn"]]
    for gone in ("policies/00000000-0000-0000-0000-000000000000", "accounts/nobody"):
        assert client.get(f"{DOMAIN}/{gone}/attributes").status_code == 404


def test_an_edit_is_weighed_before_it_is_saved(reader: TestClient) -> None:
    night = policy(reader, "Night operators", DOMAIN)

    def weigh(**body: object) -> dict[str, Any]:
        answer = reader.post(f"{DOMAIN}/what-if/edit", json={"policy": night["guid"], **body})
        assert answer.status_code == 200, answer.text
        found: dict[str, Any] = answer.json()
        return found

    assert weigh()["sentence"] == "Hits nobody today."
    assert weigh(settings={"min_length": 20})["sentence"] == "Hits 60 accounts: stronger for 60."
    assert "weaker for 60" in weigh(settings={"min_length": 20, "complexity": False})["sentence"]
    assert weigh(precedence=29)["sentence"].startswith("Hits 6 accounts: 6 change policy")
    assert [p["field"] for p in weigh(settings={"min_length": 999})["problems"]] == ["min_length"]
    assert weigh(settings={"lockout_threshold": 3})["guess_budget"] != night["guess_budget"]
    assert weigh(policy="domain", settings={"min_length": 12})["sentence"].startswith(
        "Hits 721 accounts"
    )
    assert weigh(policy=None, settings={"min_length": 12})["sentence"] == ""
    assert policy(reader, "Night operators", DOMAIN) == night
    gone = {"policy": "00000000-0000-0000-0000-000000000000"}
    assert reader.post(f"{DOMAIN}/what-if/edit", json=gone).status_code == 404


def test_locked_and_flagged_accounts_show_it(reader: TestClient) -> None:
    rows = reader.get(f"{DOMAIN}/accounts", params={"limit": 500, "q": "k-"}).json()["rows"]
    assert sum(r["locked"] for r in rows) == 1
    assert sum("Password never expires" in r["flags"] for r in rows) == 2
    bent = reader.get(f"{DOMAIN}/accounts/{next(r['name'] for r in rows if r['flags'])}").json()
    assert [
        (s["key"], s["value"], s["bent_by"])
        for s in bent["settings"]
        if s["value"] != s["policy_value"]
    ] == [("max_age", None, "Password never expires")]


def test_a_change_is_weighed_without_being_made(reader: TestClient) -> None:
    night = policy(reader, "Night operators")

    def weigh(**change: object) -> Any:
        return reader.post(f"{DOMAIN}/what-if", json={"guid": night["guid"], **change})

    up = weigh(place=3).json()
    assert (
        up["precedence"],
        up["accounts"],
        up["moves"][0]["before_name"],
        up["moves"][0]["weaker"],
    ) == (
        25,
        6,
        "Grants office",
        ["Maximum age"],
    )
    assert up["sentence"] == (
        "Night operators at 25: 6 accounts change policy, 6 from Grants office to Night operators."
    )
    assert weigh(precedence=45).json()["accounts"] == 14
    assert weigh(place=4).json()["moves"] == []
    dn = "CN=GS-Workshop,OU=Groups,DC=sky,DC=tarnholt,DC=example"
    assert weigh(link=dn).json()["accounts"] == 54
    assert (
        weigh(unlink="CN=GS-Night-Operators,OU=Groups,DC=sky,DC=tarnholt,DC=example").json()[
            "accounts"
        ]
        == 60
    )
    for bad in ({}, {"place": 1, "precedence": 1}, {"precedence": 0}, {"link": "CN=none"}):
        assert weigh(**bad).status_code == 422
    assert policy(reader, "Night operators") == night


def test_findings_are_listed_mended_accepted_and_withdrawn(client: TestClient) -> None:
    def found(kind: str) -> Any:
        return next(
            (f for f in client.get(f"{DRAFT}/findings").json()["findings"] if f["kind"] == kind),
            None,
        )

    tie = found("tie")
    mend = tie["mend"]
    assert mend["label"] == "Give Night operators the number 35"
    assert (
        client.patch(f"{DRAFT}/policies/{mend['guid']}", json=mend["edit"]).json()["precedence"]
        == 35
    )
    assert found("tie") is None
    idle = found("idle")
    accept = f"{DOMAIN}/findings/accepted"
    assert (
        client.post(
            accept, json={"key": idle["key"], "reason": "starts in spring", "until": "2001-01-01"}
        ).status_code
        == 422
    )
    assert (
        client.post(
            accept, json={"key": "none", "reason": "starts in spring", "until": "2999-01-01"}
        ).status_code
        == 404
    )
    assert (
        client.post(
            accept, json={"key": idle["key"], "reason": "starts in spring", "until": "2999-01-01"}
        ).status_code
        == 204
    )
    assert found("idle")["accepted"] == {
        "reason": "starts in spring",
        "until": "2999-01-01",
        "by": "ann",
    }
    assert client.delete(accept, params={"key": idle["key"]}).status_code == 204
    assert found("idle")["accepted"] is None


def test_a_group_tells_what_its_members_get(reader: TestClient) -> None:
    group = reader.get(f"{DOMAIN}/groups/gs-visiting-astronomers").json()
    assert (group["direct"], group["accounts"], group["nested"], group["inside"]) == (
        224,
        236,
        ["GS-Dome-Kiosks"],
        ["DL-Archive-Readers"],
    )
    assert [(s["name"], s["accounts"]) for s in group["shares"]] == [
        ("Visiting astronomers", 210),
        ("Night operators", 14),
        ("Kiosk floor", 12),
    ]
    assert [link["name"] for link in group["links"]] == ["Visiting astronomers"]
    assert reader.get(f"{DOMAIN}/groups/none").status_code == 404


def test_linked_groups_can_be_chosen(client: TestClient) -> None:
    info = client.get("/api/domains").json()[0]
    choice = {"linked_groups": "any", "version": info["version"], "reason": "A Samba domain"}
    assert client.patch(DOMAIN, json=choice).json()["linked_groups"] == "any"
    assert policy(client, "Phrase pilot")["governed"] == 20
    assert client.patch(DOMAIN, json={**choice, "linked_groups": "global"}).status_code == 409


def test_uploads_run_as_jobs(client: TestClient, demo_ldif: bytes) -> None:
    started = client.post("/api/loads?name=new.ldif", content=demo_ldif)
    assert started.status_code == 202
    done = follow(client, started.json()["id"])
    assert (done["state"], done["domain"]) == ("done", "sky.tarnholt.example")
    broken = follow(
        client,
        client.post("/api/loads?name=bad.ldif", content=b"dn: CN=x\nnonsense\n").json()["id"],
    )
    assert (broken["state"], broken["error"]) == (
        "failed",
        "bad.ldif: line 2: no ':' in 'nonsense'; expected 'attribute: value'",
    )
    assert client.get("/api/domains").json()[0]["source"] == "new.ldif"


def test_unknown_places_are_said_to_be(reader: TestClient) -> None:
    for path in (
        "/api/nothing",
        "/api/domains/none/strata",
        f"{DOMAIN}/policies/00000000-0000-0000-0000-000000000000",
    ):
        answer = reader.get(path)
        assert answer.status_code == 404
        assert isinstance(answer.json()["detail"], str)


def test_a_lost_database_is_said_and_survived(home: Path, demo: Dump) -> None:
    own = Cluster(home / "lost", {"fsync": "off"})
    own.start()
    engine = connect(own.url)
    try:
        own.migrate()
        with Session(engine) as session, session.begin():
            save_dump(session, demo, "tarnholt.ldif", "tester")
            let_in(session, "ann")
        port = re.search(r":(\d+)/", own.url)
        assert port
        client = TestClient(create_app(engine), raise_server_exceptions=False)
        client.post("/api/session", json={"name": "ann", "password": "correct horse"})
        assert client.get(f"{DOMAIN}/strata").status_code == 200
        own.stop()
        down = client.get(f"{DOMAIN}/strata")
        assert (down.status_code, "does not answer" in down.json()["detail"]) == (503, True)
        body = {"candidate": "Perigee-2031", "operation": "reset", "accounts": ["ilse.varga"]}
        # Often, since a failure may come back before anybody waits for it.
        assert {client.post(f"{DOMAIN}/verdicts", json=body).status_code for _ in range(200)} == {
            503
        }
        Cluster(home / "lost", {"fsync": "off", "port": port[1]}).start()
        assert client.get(f"{DOMAIN}/strata").status_code == 200
    finally:
        engine.dispose()
        own.stop()


def test_more_requests_at_once_than_connections_wait_for_one_load(
    cluster: Cluster, client: TestClient
) -> None:
    small = create_engine(cluster.url, pool_size=2, max_overflow=0, pool_timeout=20)
    app = create_app(small)
    cookies = dict(client.cookies)

    body = {"candidate": "Perigee-2031", "operation": "reset", "accounts": ["ilse.varga"]}

    with (
        served(app) as port,
        httpx2.Client(base_url=f"http://127.0.0.1:{port}", cookies=cookies, timeout=60) as crowd,
    ):

        def ask(number: int) -> int:
            return (
                crowd.post(f"{DOMAIN}/verdicts", json=body)
                if number % 2
                else crowd.get(f"{DOMAIN}/strata")
            ).status_code

        with ThreadPoolExecutor(8) as pool:
            assert set(pool.map(ask, range(24))) == {200}
    small.dispose()
