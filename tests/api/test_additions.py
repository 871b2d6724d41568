"""What policies ask beyond the directory's own rules: set, weighed, judged, published, undone."""

from __future__ import annotations

import io
from typing import Any

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import Engine, func, select
from sqlalchemy.orm import Session

from api_help import DOMAIN, DRAFT, policy
from hornfels.formats.dump import load_dump
from hornfels.store.estates import save_dump
from hornfels.store.models import TermsRow

RULES: list[dict[str, Any]] = [
    {"length": {"min": 16}},
    {"run": {"max": 3}},
    {"blocked": {"lists": ["house"]}},
    {"names": {"reversed": True}},
]
ADDITION = {
    "password": RULES,
    "phrase": [{"words": {"min": 4, "letters": 4}}],
    "bands": [{"length": 8, "lifetime": 5_184_000}],
}


@pytest.fixture
def house(client: TestClient) -> str:
    """A list of blocked terms in the draft; its digest."""
    answer = client.put(
        f"{DRAFT}/blocked-terms/house?seen=", content="Orbit\n\n dome \norbit\nOrbit\n"
    )
    assert answer.status_code == 200, answer.text
    assert answer.json()["count"] == 3
    return str(answer.json()["digest"])


def given(
    client: TestClient, addition: Any, name: str = "Night operators", place: str = DRAFT
) -> Any:
    held = policy(client, name, place)
    return client.put(
        f"{place}/additions/{held['guid']}",
        json={"version": held["version"], "addition": addition},
    )


def judged(client: TestClient, candidate: str, place: str = DRAFT) -> Any:
    asked = {"operation": "reset", "accounts": ["ilse.varga"], "candidate": candidate}
    return client.post(f"{place}/verdicts", json=asked).json()["columns"][0]


def failed(column: Any) -> set[tuple[str, str]]:
    return {(r["path"], r["rule"]) for r in column["rules"] if r["status"] == "failed"}


@pytest.mark.usefixtures("house")
def test_an_addition_is_set_judged_published_and_taken_back(client: TestClient) -> None:
    set_ = given(client, ADDITION)
    assert set_.status_code == 200, set_.text
    assert [one["said"] for one in set_.json()["password"]] == [
        "at least 16 characters long",
        "no more than 3 in a row up or down the alphabet or the digits",
        "no term inside from house",
        "none of the account's own names, nor backwards",
    ]
    refused = judged(client, "my-0rbit-abcde-7Q")
    assert not refused["accepted"]
    assert {("password", "run"), ("password", "blocked"), ("phrase", "words")} <= failed(refused)
    assert "drop 'Orbit'" in next(r["repair"] for r in refused["rules"] if r["rule"] == "blocked")
    assert judged(client, "my-quiet-lantern-7Q")["accepted"]
    phrase = judged(client, "Seven-dome-keeper-quiet")
    assert phrase["accepted"]
    assert failed(phrase) == {("password", "blocked")}
    # Live knows nothing of it until it is published, and then all of it.
    assert judged(client, "my-0rbit-abcde-7Q", DOMAIN)["accepted"]
    changes = client.get(f"{DRAFT}/draft").json()
    said = [change["text"] for group in changes["groups"] for change in group["changes"]]
    assert said == ["New list", "Besides, as a password", "Besides, as a phrase", "Besides, lives"]
    version = changes["version"]
    assert client.post(f"{DRAFT}/draft/publish", json={"version": version}).status_code == 200
    assert not judged(client, "my-0rbit-abcde-7Q", DOMAIN)["accepted"]
    found = client.get(f"{DOMAIN}/findings").json()["findings"]
    assert "What Night operators asks besides is judged here only" in [f["title"] for f in found]
    point = client.get(f"{DOMAIN}/history").json()[0]["id"]
    undone = client.post(f"{DOMAIN}/history/{point}/undo").json()
    back = f"{DOMAIN}~{undone['id']}"
    assert judged(client, "my-0rbit-abcde-7Q", back)["accepted"]
    assert client.get(f"{back}/blocked-terms").json()["lists"] == []


@pytest.mark.usefixtures("house")
def test_what_is_published_stays_when_the_directory_is_read_again(
    client: TestClient, engine: Engine, demo_ldif: bytes
) -> None:
    given(client, ADDITION)
    version = client.get(f"{DRAFT}/draft").json()["version"]
    client.post(f"{DRAFT}/draft/publish", json={"version": version})
    with Session(engine) as session, session.begin():
        save_dump(session, load_dump(io.BytesIO(demo_ldif)), "again.ldif", "tester")
    held = policy(client, "Night operators", DOMAIN)
    kept = client.get(f"{DOMAIN}/additions/{held['guid']}").json()
    assert [list(one["rule"]) for one in kept["password"]] == [list(rule) for rule in RULES]
    assert not judged(client, "my-0rbit-abcde-7Q", DOMAIN)["accepted"]


@pytest.mark.parametrize(
    ("addition", "field", "told"),
    [
        ({"password": []}, "password", "path without rules"),
        ({"password": [{"run": {"max": 0}}]}, "password 1", "has to be 1 at least"),
        ({"phrase": [RULES[0], {"blocked": {"lists": ["none"]}}]}, "phrase 2", "no list “none”"),
        ({"password": [{"walk": {"max": 3, "layouts": ["x"]}}]}, "password 1", "no layout “x”"),
        ({"password": [{"pattern": {"expression": "(?=a)"}}]}, "password 1", "cannot be run"),
        ({"password": None}, "", "asks nothing"),
        (
            {"bands": [{"length": 9, "lifetime": 60}, {"length": 9, "lifetime": 90}]},
            "lifetime",
            "each length once",
        ),
    ],
)
def test_what_cannot_be_in_an_addition_is_told_with_its_place(
    client: TestClient, addition: Any, field: str, told: str
) -> None:
    answer = given(client, addition)
    assert answer.status_code == 422
    (problem,) = answer.json()["detail"]
    assert problem["field"] == field
    assert told in problem["message"]
    weighed = client.post(f"{DRAFT}/additions/domain/effects", json={"addition": addition})
    assert weighed.json()["detail"] == answer.json()["detail"]


def test_two_people_at_one_addition_see_both_sides(client: TestClient) -> None:
    held = policy(client, "Night operators")
    first = {"version": held["version"], "addition": {"password": [RULES[0]]}}
    second = {"version": held["version"], "addition": {"password": [RULES[1]]}}
    assert client.put(f"{DRAFT}/additions/{held['guid']}", json=first).status_code == 200
    answer = client.put(f"{DRAFT}/additions/{held['guid']}", json=second)
    assert answer.status_code == 409
    assert answer.json()["current"]["guid"] == held["guid"]


def test_a_list_that_somebody_else_changed_or_that_is_used_is_not_overwritten(
    client: TestClient, house: str
) -> None:
    place = f"{DRAFT}/blocked-terms/house"
    assert client.put(f"{place}?seen={house}", content="orbit\nlens\n").json()["count"] == 2
    for answer in (
        client.put(f"{place}?seen={house}", content="x"),
        client.delete(f"{place}?seen={house}"),
    ):
        assert answer.status_code == 409
        assert "another one by now" in answer.json()["detail"]
    again = client.put(f"{place}?seen=", content="x")
    assert (again.status_code, "already" in again.json()["detail"]) == (409, True)
    given(client, {"password": [RULES[2]]})
    shown = client.get(f"{DRAFT}/blocked-terms/house").json()
    assert shown["terms"] == ["orbit", "lens"]
    held = client.delete(f"{place}?seen={shown['digest']}")
    assert (held.status_code, "Night operators blocks" in held.json()["detail"]) == (409, True)
    given(client, None)
    assert client.delete(f"{place}?seen={shown['digest']}").status_code == 204
    assert client.get(f"{DRAFT}/blocked-terms").json()["lists"] == []


@pytest.mark.parametrize(
    ("name", "content", "field"),
    [
        ("house", "fine\n\nfine\nb\x07d", "line 4"),
        ("house", b"\xff", "line 1"),
        ("%20house", "a", "name"),
    ],
)
def test_a_list_that_cannot_be_is_refused_with_its_line(
    reader: TestClient, name: str, content: Any, field: str
) -> None:
    answer = reader.put(f"{DRAFT}/blocked-terms/{name}?seen=", content=content)
    assert answer.status_code == 422
    assert answer.json()["detail"][0]["field"] == field


def test_a_long_list_is_taken_whole_and_handed_out_whole(client: TestClient) -> None:
    terms = "".join(f"term{n}\n" for n in range(50_000))
    assert client.put(f"{DRAFT}/blocked-terms/long?seen=", content=terms).json()["count"] == 50_000
    assert len(client.get(f"{DRAFT}/blocked-terms/long").json()["terms"]) == 2_000
    assert client.get(f"{DRAFT}/blocked-terms/long/export").text == terms


def test_terms_that_nothing_leads_to_are_forgotten(client: TestClient, engine: Engine) -> None:
    def kept() -> int:
        with Session(engine) as session:
            return session.scalar(select(func.count()).select_from(TermsRow)) or 0

    place = f"{DRAFT}/blocked-terms/house"
    seen = ""
    for content in ("one", "two", "three"):
        seen = client.put(f"{place}?seen={seen}", content=content).json()["digest"]
    # They can be undone to.
    assert kept() == 3
    version = client.get(f"{DRAFT}/draft").json()["version"]
    assert client.delete(f"{DRAFT}/draft?version={version}").status_code == 204
    assert kept() == 0


def test_a_sample_is_never_echoed(reader: TestClient) -> None:
    secret = "Orbit-Lens-17" * 400
    body = {"addition": {"phrase": [{"words": {"min": 3}}]}, "sample": [secret], "Orbit-Lens-17": 1}
    answer = reader.post(f"{DRAFT}/additions/domain/effects", json=body)
    assert answer.status_code == 422
    assert "Orbit" not in answer.text


def test_terms_of_the_house_are_proposed_from_its_names(reader: TestClient) -> None:
    house = reader.get(f"{DRAFT}/blocked-terms").json()["house"]
    assert house[:1] == ["tarnholt"] or "tarnholt" in house[:3]
    assert "dome" in house
    assert "users" not in house


@pytest.mark.usefixtures("house")
def test_each_rule_says_what_it_does_before_it_is_saved(client: TestClient) -> None:
    asked = {"addition": ADDITION}
    held = policy(client, "Night operators")
    found = client.post(f"{DRAFT}/additions/{held['guid']}/effects", json=asked).json()
    assert found["sample"] == 1000
    by_rule = {one["said"].split(" ")[0]: one for one in found["rules"]}
    assert by_rule["at"]["refused"] > 800
    run = found["rules"][1]
    assert "break up" in run["repair"]
    mine = client.post(
        f"{DRAFT}/additions/{held['guid']}/effects",
        json={**asked, "sample": ["abcdefgh-Lantern-7", "quiet-lantern-seven-Q"]},
    ).json()
    assert (mine["sample"], mine["rules"][1]["refused"], mine["rules"][1]["alone"]) == (2, 1, 1)
    # Nothing of it has changed anything.
    assert client.get(f"{DRAFT}/draft").json()["changes"] == 1


@pytest.mark.usefixtures("house")
def test_suggestions_boundaries_and_the_card_know_the_addition(client: TestClient) -> None:
    given(client, ADDITION)
    who = {"account": "ilse.varga"}
    suggested = client.post(f"{DRAFT}/suggestions", json={**who, "previous": []}).json()
    assert {one["kind"] for one in suggested} == {"phrase", "blocks"}
    for one in suggested:
        assert judged(client, one["text"])["accepted"], one["text"]
    drawn = client.post(f"{DRAFT}/boundaries", json={**who, "operation": "reset"}).json()
    for one in drawn["candidates"]:
        if one["path"]:
            assert {(p, r) for p, r in failed(judged(client, one["text"])) if p == one["path"]} == {
                (one["path"], one["rule"])
            }
    assert {one["rule"] for one in drawn["candidates"]} >= {"run", "blocked", "names", "words"}
    card = client.get(f"{DRAFT}/card?account=ilse.varga").json()
    assert [way["path"] for way in card["ways"]] == ["password", "phrase"]
    assert "Not contain a word that is blocked here" in card["ways"][0]["lines"][2]["text"]
    assert any(line.startswith("The longer it is") for line in card["later"])


def test_a_copy_of_a_policy_asks_the_same(client: TestClient) -> None:
    given(client, {"password": [RULES[0]]})
    held = policy(client, "Night operators")
    new = {"name": "Copy", "precedence": 99, "copy_of": held["guid"]}
    made = client.post(f"{DRAFT}/policies", json=new).json()
    copied = client.get(f"{DRAFT}/additions/{made['guid']}").json()
    assert copied["password"][0]["rule"] == RULES[0]
