"""What guessing costs and the trade-off, over the API."""

from __future__ import annotations

import csv
from typing import Any

from fastapi.testclient import TestClient

from api_help import DOMAIN, DRAFT, edit, policy


def get(client: TestClient, path: str, place: str = DOMAIN, **query: Any) -> Any:
    answer = client.get(f"{place}/{path}", params=query)
    assert answer.status_code == 200, answer.text
    return answer.json()


def figures(sheet: Any) -> dict[str, Any]:
    return {figure["key"]: figure for figure in sheet["figures"]}


def test_every_number_of_a_policy_with_its_formula(reader: TestClient) -> None:
    guid = policy(reader, "Night operators")["guid"]
    sheet = get(reader, "guessing", policy=guid)
    assert sheet["policy_name"] == "Night operators"
    found = figures(sheet)
    assert found["under_day"]["value"] == 4 * 48
    assert found["under_day"]["formula"] == "(T − 1) · ⌊1 d / W⌋"
    assert {"name": "T, lockout threshold", "value": "5"} in found["under_day"]["inputs"]
    other = figures(get(reader, "guessing", policy=guid, skew=1.2, offline=1e12))
    assert other["under_chance"]["value"] > found["under_chance"]["value"]
    assert other["offline"]["value"] < found["offline"]["value"]
    assert figures(get(reader, "guessing"))["under_day"]["value"] is not None


def test_assumptions_out_of_range_are_refused(client: TestClient) -> None:
    odd = ({"skew": 3}, {"size": 0}, {"mistakes": 1}, {"line": 0}, {"line": "nan"}, {"x": 1})
    for path in ("guessing", "tradeoff", "tradeoff.csv", "burden", "burden.csv"):
        answers = [client.get(f"{DOMAIN}/{path}", params=query).status_code for query in odd]
        assert answers == [422] * len(odd)


def test_a_policy_that_is_gone_is_not_found(client: TestClient) -> None:
    gone = {"policy": "00000000-0000-0000-0000-000000000000"}
    for path in ("guessing", "tradeoff", "tradeoff.csv", "burden", "burden.csv"):
        assert client.get(f"{DOMAIN}/{path}", params=gone).status_code == 404


def test_the_plane_shows_live_the_draft_and_every_other_policy(client: TestClient) -> None:
    edit(client, policy(client, "Night operators"), settings={"lockout_threshold": 9})
    plane = get(client, "tradeoff", DRAFT, plane="window")
    marks = [(m["kind"], m["name"], m["threshold"]) for m in plane["marks"]]
    assert marks[0] == ("policy", "Keyholders", 4)
    at = marks.index(("policy", "Night operators", 9))
    assert marks[at + 1] == ("live", "Night operators", 5)
    assert {m["name"] for m in plane["marks"] if m["kind"] == "start"} >= {"Everyone else"}
    assert [m["kind"] for m in plane["marks"]].count("live") == 1
    assert plane["lines"]
    assert all(line["points"] for line in plane["lines"])
    assert [b["threshold"] for b in plane["burdens"]][:2] == [1, 2]
    never = next(m for m in plane["marks"] if m["threshold"] == 0)
    assert (never["span"], never["chance"], never["chance_shown"]) == (None, None, "no limit")


def test_a_mark_says_which_state_of_its_policy_is_seen(client: TestClient) -> None:
    def versions() -> dict[tuple[str, str], int | None]:
        return {
            (m["kind"], m["name"]): m["version"] for m in get(client, "tradeoff", DRAFT)["marks"]
        }

    before = versions()
    night = policy(client, "Night operators")
    assert before["policy", "Night operators"] == night["version"]
    assert before["policy", "Domain policy"] is not None
    edit(client, night, settings={"lockout_threshold": 9})
    after = versions()
    changed = {key for key in after if after[key] != before.get(key)}
    assert changed == {("policy", "Night operators")}
    assert {version for (kind, _), version in after.items() if kind != "policy"} == {None}
    template = b"[System Access]\r\nLockoutBadCount = 7\r\n"
    gpo = client.get(f"{DRAFT}/strata").json()["bedrock"]["sources"][0]["gpo"]
    client.put(f"{DOMAIN}/sources/template", params={"gpo": gpo}, content=template)
    assert versions()["policy", "Domain policy"] is None, "it is edited in its source"


def test_a_mark_put_elsewhere_brings_along_what_hangs_together(client: TestClient) -> None:
    guid = policy(client, "Night operators")["guid"]
    asked = {"policy": guid, "plane": "duration", "threshold": 12, "span": 600.4}
    answer = client.post(f"{DOMAIN}/tradeoff/moved", json=asked).json()
    settings = answer["settings"]
    assert (settings["lockout_threshold"], settings["lockout_duration"]) == (12, 601)
    assert settings["lockout_window"] == 601, "a window is never longer than the lock"
    assert "12 bad tries" in answer["sentence"]
    night = policy(client, "Night operators")
    edit(client, night, settings={k: v for k, v in settings.items() if "lockout" in k})
    assert policy(client, "Night operators")["settings"]["lockout_threshold"] == 12
    window = {**asked, "plane": "window", "span": 7200}
    answer = client.post(f"{DRAFT}/tradeoff/moved", json=window).json()
    assert answer["settings"]["lockout_duration"] == 7200


def test_the_plane_as_a_table(client: TestClient) -> None:
    answer = client.get(f"{DOMAIN}/tradeoff.csv", params={"plane": "window"})
    head, *rows = csv.reader(answer.text.splitlines())
    assert head[:2] == ["Lockout threshold", "Observation window (s)"]
    assert len(rows) == 5000
    assert {float(row[0]) for row in rows} == set(range(1, 51))
    assert all(0 <= float(row[3]) <= 1 for row in rows)


def test_expiries_by_day_live_and_as_a_draft_has_them(client: TestClient) -> None:
    live = get(client, "expiries", days=60)
    assert live["live"] is None
    night = policy(client, "Night operators")
    shorter = {"max_age": 20 * 86_400.0}
    assert edit(client, night, settings=shorter).status_code == 200
    drafted = get(client, "expiries", DRAFT, days=60, calls=50)
    assert drafted["live"] == [
        sum(one["counts"][day] for one in live["policies"]) for day in range(60)
    ]
    assert drafted["ended"] >= drafted["ended_live"] == live["ended"]
    by_day = [sum(one["counts"][day] for one in drafted["policies"]) for day in range(60)]
    assert drafted["calls"] == [round(sum(by_day[n : n + 7]) / 2, 1) for n in range(0, 60, 7)]
    rows = list(csv.reader(client.get(f"{DRAFT}/expiries.csv?days=60").text.splitlines()))
    assert [sum(map(int, row[1:])) for row in rows[1:]] == by_day
    for odd in ({"days": 5}, {"days": "x"}, {"calls": 101}, {"calls": "nan"}, {"x": 1}):
        assert client.get(f"{DOMAIN}/expiries", params=odd).status_code == 422, odd


def test_guess_and_burden_here_as_it_is_live_and_as_baselines_want_it(client: TestClient) -> None:
    night = policy(client, "Night operators")
    shorter = {"max_age": 20 * 86_400, "min_length": 30}
    edit(client, night, settings=shorter)
    told = get(client, "burden", DRAFT, policy=night["guid"], change=10)
    by_kind = {(m["kind"], m["name"]): m for m in told["marks"]}
    here, live = by_kind["policy", "Night operators"], by_kind["live", "Night operators"]
    assert here["minutes"] > live["minutes"]
    assert here["tries"] < live["tries"]
    assert here["changes_shown"] == "18.2"
    assert not [m for m in told["marks"] if m["kind"] == "start"]
    wanted = [m["name"] for m in told["marks"] if m["kind"] == "baseline"]
    assert not set(wanted) & set(told["met"])
    minutes = figures(told)["minutes"]
    assert minutes["value"] == here["minutes"]
    assert {"name": "c, minutes for a change", "value": "10"} in minutes["inputs"]
    ages = next(one for one in told["courses"] if one["varied"] == "age")["points"]
    assert [one["label"] for one in ages] == ["30 d", "60 d", "90 d", "180 d", "365 d"]
    assert ages[0]["minutes"] < here["minutes"], "thirty days cost less than twenty"


def test_baselines_stand_where_their_closed_gaps_put_the_policy(client: TestClient) -> None:
    before = get(client, "burden")
    wanted = next(m for m in before["marks"] if m["kind"] == "baseline")
    baseline = client.get(f"{DOMAIN}/baselines/{wanted['key']}").json()
    open_gaps = [
        one["key"]
        for one in baseline["rows"]
        if any(gap["policy"] == "domain" and gap["changes"] for gap in one["gaps"])
    ]
    assert open_gaps
    for key in open_gaps:
        body = {"recommendation": key, "policy": "domain"}
        answer = client.post(f"{DRAFT}/baselines/{wanted['key']}/gaps", json=body)
        assert answer.status_code == 200, answer.text
    after = get(client, "burden", DRAFT)
    there = next(m for m in after["marks"] if (m["kind"], m["key"]) == ("policy", "domain"))
    assert there["minutes"] == wanted["minutes"]
    assert wanted["name"] in after["met"]


def test_the_marks_as_a_file(client: TestClient) -> None:
    answer = client.get(f"{DOMAIN}/burden.csv", params={"sign_ins": 0})
    rows = list(csv.DictReader(answer.text.splitlines()))
    kiosk = next(row for row in rows if row["Policy"] == "Kiosk floor")
    assert (kiosk["As"], kiosk["Tries"], kiosk["Characters a year"]) == ("here", "", "0")
    assert any(row["As"] == "as a baseline wants it" for row in rows)
