"""Policy files over the API: handed out, planned, made into drafts."""

from __future__ import annotations

from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from api_help import DOMAIN, DRAFT, policy

FILE = f"{DOMAIN}/policy-file"


def lengthened(text: str) -> bytes:
    """The file with three characters more for the keyholders."""
    assert "    min_length: 20\n" in text
    return text.replace("    min_length: 20\n", "    min_length: 23\n", 1).encode()


def drafts(client: TestClient) -> int:
    return len(client.get(f"{DOMAIN}/drafts").json())


def test_what_is_handed_out_changes_nothing(client: TestClient) -> None:
    before = drafts(client)
    kept = {"kind": "group", "target": "GS-Workshop", "title": "Twelve are too few"}
    kept |= {"candidate": "Orbit-Len-17", "expected": "refused", "rule": "length"}
    assert client.post(f"{DOMAIN}/trials", json=kept | {"invented": True}).status_code == 201
    answer = client.get(FILE)
    assert answer.headers["content-type"].startswith("text/plain")
    assert "sky.tarnholt.example.yaml" in answer.headers["content-disposition"]
    assert answer.text.endswith("""
trials:
  - title: Twelve are too few
    candidate: Orbit-Len-17
    group: GS-Workshop
    expect: refused
    refused_by: length
""")
    plan = client.post(f"{FILE}/plan", content=answer.content)
    assert plan.json() == {"changes": [], "new_trials": 0}
    taken = client.post(FILE, content=answer.content)
    assert taken.json() == {"draft": None, "new_trials": 0}
    assert drafts(client) == before


def test_a_file_becomes_a_draft_and_its_trials_are_kept(client: TestClient) -> None:
    text, before = client.get(FILE).text, drafts(client)
    body = lengthened(text) + (
        b"\ntrials:\n  - {candidate: Orbit-Lens-17-Under, account: ilse.varga, expect: accepted}\n"
        b"  - {story: 9 bad, account: ilse.varga, expect: locks}\n"
        b"  - {story: 9 bad, account: Ilse.Varga, expect: locks}\n"
    )
    plan = client.post(f"{FILE}/plan", content=body).json()
    assert plan["new_trials"] == 2
    assert plan["changes"] == [
        {
            "subject": "Keyholders",
            "text": "Minimum length",
            "before": "20 characters",
            "after": "23 characters",
        }
    ]
    assert drafts(client) == before
    taken = client.post(FILE, params={"title": "Autumn"}, content=body)
    assert taken.status_code == 200, taken.text
    made = taken.json()
    assert (made["new_trials"], made["draft"]["title"], made["draft"]["changes"]) == (
        2,
        "Autumn",
        1,
    )
    there = f"{DOMAIN}~{made['draft']['id']}"
    assert policy(client, "Keyholders", there)["settings"]["min_length"] == 23
    kept = client.get(f"{DOMAIN}/trials").json()["trials"]
    assert [one["title"] for one in kept] == [
        "account ilse.varga: accepted",
        "account ilse.varga: locks",
    ]
    # The file of the draft is the file that it was made from, and a second one has another name.
    assert (
        client.get(f"{there}/policy-file").text.split("\ntrials")[0]
        == (lengthened(text).decode().split("\ntrials")[0])
    )
    again = client.post(FILE, params={"title": "Autumn"}, content=lengthened(text)).json()
    assert (again["draft"]["title"], again["new_trials"]) == ("Autumn (2)", 0)


def test_all_that_is_wrong_is_told_with_its_place(client: TestClient) -> None:
    before = drafts(client)
    text = client.get(FILE).text.replace("complexity: on", "complexity: yes", 1)
    body = text.replace("precedence: 5\n", "precedense: 5\n").encode()
    for path in (FILE, f"{FILE}/plan"):
        answer = client.post(path, content=body)
        assert answer.status_code == 422
        assert [one["field"] for one in answer.json()["detail"]] == [
            "line 6, column 15",
            "line 17, column 5",
            "line 18, column 5",
        ]
    assert drafts(client) == before


@pytest.mark.parametrize(
    "secret", ["candidate: 'Orbit-Lens-17'\n    candidate: 5", "Orbit-Lens-17"]
)
def test_no_candidate_is_told_again(client: TestClient, secret: str) -> None:
    body = f"hornfels: 1\ndomain: x\ntrials:\n  - expect: no\n    {secret}".encode()
    answer = client.post(f"{FILE}/plan", content=body)
    assert answer.status_code == 422
    assert "Orbit" not in answer.text


def test_additions_and_blocked_terms_go_out_and_come_back(client: TestClient) -> None:
    text = client.get(FILE).text
    assert "  addition: none\n" in text
    addition = (
        "  addition:\n    password:\n      - blocked: {lists: [house]}\n"
        '      - edge: {last: [digit]}\n    lifetime:\n      - {from: 8, lives: "60 d"}\n'
    )
    changed = text.replace("  addition: none\n", addition, 1)
    missing = client.post(f"{FILE}/plan", content=changed)
    assert "no list “house”" in missing.json()["detail"][0]["message"]
    changed += "\nblocked_terms:\n  common:\n    - summer\n"
    changed += '  house:\n    - orbit\n    - "Straße"\n'
    taken = client.post(FILE, params={"title": "Autumn"}, content=changed.encode()).json()
    assert taken["draft"]["changes"] == 3
    there = f"{DOMAIN}~{taken['draft']['id']}"
    # The same bytes, where nothing but the draft has changed.
    assert client.get(f"{there}/policy-file").text == changed
    assert client.post(f"{there}/policy-file/plan", content=changed.encode()).json()["changes"]
    elsewhere = changed.replace('    - orbit\n    - "Straße"\n', '    {sha256: "%s", terms: 2}\n')
    unknown = client.post(f"{FILE}/plan", content=(elsewhere % ("0" * 64)).encode())
    assert "Upload the list first" in unknown.json()["detail"][0]["message"]


def test_a_file_that_is_too_large_is_not_read(client: TestClient) -> None:
    answer = client.post(FILE, content=b"#" * 4_000_001)
    assert answer.status_code == 413


def test_a_file_is_held_against_live_from_a_draft_too(client: TestClient) -> None:
    client.post(f"{DOMAIN}/drafts", json={"title": ""})
    text = client.get(f"{DRAFT}/policy-file").text
    assert (
        len(client.post(f"{DRAFT}/policy-file/plan", content=lengthened(text)).json()["changes"])
        == 1
    )


@pytest.fixture
def kept(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    """Where the domain's file is kept on the machine."""
    monkeypatch.setenv("HORNFELS_POLICIES", str(tmp_path))
    return tmp_path / "sky.tarnholt.example.yaml"


def test_a_file_on_the_machine_is_watched_and_drift_is_shown_both_ways(
    client: TestClient, kept: Path
) -> None:
    watched = f"{FILE}/watched"
    assert client.get(watched).json() == {"file": None}
    assert client.post(watched).status_code == 404
    text = "# Ours\n" + client.get(FILE).text
    kept.write_text(text)
    found = client.get(watched).json()["file"]
    assert (found["name"], found["behind_since"], found["wrong"]) == (kept.name, None, [])
    assert found["plan"] == {"changes": [], "new_trials": 0}
    # The file goes ahead: it wants what live never was.
    kept.write_bytes(lengthened(text))
    found = client.get(watched).json()["file"]
    assert (len(found["plan"]["changes"]), found["behind_since"]) == (1, None)
    made = client.post(watched).json()["draft"]
    assert made["title"] == f"From {kept.name}"
    draft = f"{DOMAIN}~{made['id']}/draft"
    version = client.get(draft).json()["version"]
    assert client.post(f"{draft}/publish", json={"version": version}).status_code == 200
    assert client.get(watched).json()["file"]["plan"]["changes"] == []
    # Live goes ahead: the file is what live was.
    kept.write_text(text)
    found = client.get(watched).json()["file"]
    assert found["behind_since"] is not None
    assert found["plan"]["changes"][0]["after"] == "20 characters"
    fresh = client.get(f"{watched}/up-to-date")
    assert fresh.content == lengthened(text)


def test_a_watched_file_that_is_wrong_says_so(client: TestClient, kept: Path) -> None:
    kept.write_text("hornfels: 1\ndomain: sky.tarnholt.example\npolices: []\n")
    found = client.get(f"{FILE}/watched").json()["file"]
    assert found["plan"] is None
    assert found["wrong"] == [
        {
            "place": "line 3, column 1",
            "message": "“polices” is no key here; is “policies” meant?",
        }
    ]
    assert client.post(f"{FILE}/watched").status_code == 422
    assert client.get(f"{FILE}/watched/up-to-date").status_code == 409
    kept.unlink()
    kept.symlink_to(kept)
    assert client.get(f"{FILE}/watched").status_code == 409


def test_the_schema_is_there_for_editors(client: TestClient) -> None:
    schema = client.get("/api/policy-file.schema.json").json()
    assert schema["$defs"]["PolicyPart"]["required"] == ["name", "precedence"]
