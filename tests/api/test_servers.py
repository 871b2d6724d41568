"""Servers that should agree: taken in, compared, corrected, watched."""

from __future__ import annotations

import io
import os
import zipfile
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import Engine

from api_help import DOMAIN
from hornfels.demo import dome_machines
from hornfels.formats.template import read_template, write_template
from hornfels.service.server_folder import read_every_folder
from hornfels.settings import read_settings

SETS = f"{DOMAIN}/server-sets"


def make(client: TestClient, name: str = "Domes") -> str:
    made = client.post(SETS, json={"name": name})
    assert made.status_code == 201, made.text
    return f"{SETS}/{made.json()['id']}"


def take(client: TestClient, group: str, path: str, data: bytes) -> Any:
    answer = client.put(f"{group}/servers/template", params={"path": path}, content=data)
    assert answer.status_code == 200, answer.text
    return answer.json()


def template(length: int, **more: Any) -> bytes:
    wanted: dict[Any, Any] = {"min_length": length} | more
    return write_template(wanted)


@pytest.fixture
def domes(client: TestClient) -> str:
    """Three that say 14 and one that says 8, in a set."""
    group = make(client)
    for name, length in (("A", 14), ("B", 14), ("C", 8), ("D", 14)):
        take(client, group, f"{name}.inf", template(length))
    return group


def coverage(client: TestClient, group: str) -> tuple[int, int, int]:
    found = client.get(group).json()["set"]
    return found["agree"], found["differ"], found["unread"]


def hold(client: TestClient, group: str, way: str, **more: str) -> Any:
    return client.post(f"{group}/held-against", json={"way": way, **more})


def test_the_dome_machines_of_the_demo(client: TestClient) -> None:
    group = make(client, dome_machines.SET)
    for found in dome_machines.readings():
        take(client, group, f"{found.name}.inf", found.file)
    answer = client.get(group).json()
    assert coverage(client, group) == (10, 3, 1)
    states = {one["name"]: one["state"] for one in answer["servers"]}
    assert [name for name, state in states.items() if state == "differs"] == [
        "DOME-03",
        "DOME-09",
        "DOME-12",
    ]
    unread = next(one for one in answer["servers"] if one["state"] == "not read")
    assert (unread["name"], unread["said"]) == ("DOME-07", [])
    assert unread["problem"].startswith("Line ")
    wanted = {one["key"]: one["wanted"] for one in answer["settings"]}
    assert (wanted["min_length"], wanted["max_age"]) == ("14 characters", "365 d")
    third = next(one for one in answer["servers"] if one["name"] == "DOME-03")
    said = dict(zip(wanted, third["said"], strict=True))
    assert {key: text for key, text in said.items() if text is not None} == {
        "min_length": "8 characters",
        "complexity": "off",
    }
    assert answer["days"][-1]["agree"] == 10


def test_whoever_differs_gets_a_corrected_file(client: TestClient, domes: str) -> None:
    answer = client.get(f"{domes}/corrected")
    assert answer.headers["content-type"] == "application/zip"
    with zipfile.ZipFile(io.BytesIO(answer.content)) as archive:
        assert archive.namelist() == ["C.inf", "import.cmd"]
        fixed = archive.read("C.inf")
    assert read_template(fixed)["min_length"] == 14
    take(client, domes, "C.inf", fixed)
    assert coverage(client, domes) == (4, 0, 0)
    nothing = client.get(f"{domes}/corrected")
    assert (nothing.status_code, "nothing to do" in nothing.json()["detail"]) == (409, True)


def test_a_reference_is_chosen_or_agreed_on(client: TestClient, domes: str) -> None:
    assert client.get(domes).json()["held"]["way"] == "most"
    like_c = hold(client, domes, "server", server="c").json()
    assert like_c["held"] | {"at": None} == {
        "way": "server",
        "server": "C",
        "missing": "",
        "by": "",
        "at": None,
    }
    assert coverage(client, domes) == (1, 3, 0)
    # What C says is agreed on; what becomes of C is no matter then.
    agreed = hold(client, domes, "agreed", seen=like_c["seen"]).json()["held"]
    assert (agreed["way"], agreed["by"]) == ("agreed", "ann")
    take(client, domes, "C.inf", template(14))
    assert coverage(client, domes) == (0, 4, 0)
    assert hold(client, domes, "most").json()["held"]["way"] == "most"
    assert coverage(client, domes) == (4, 0, 0)


def test_what_is_agreed_on_is_what_was_seen(client: TestClient, domes: str) -> None:
    seen = client.get(domes).json()["seen"]
    for name in "AB":
        take(client, domes, f"{name}.inf", template(8))
    stale = hold(client, domes, "agreed", seen=seen)
    assert (stale.status_code, "changed meanwhile" in stale.json()["detail"]) == (409, True)
    assert client.get(domes).json()["held"]["way"] == "most"


def test_a_tie_corrects_nobody(client: TestClient) -> None:
    group = make(client)
    for name, length in (("A", 14), ("B", 8)):
        take(client, group, f"{name}.inf", template(length))
    answer = client.get(group).json()
    assert [one["tied"] for one in answer["settings"]] == [True]
    for refused in (
        client.get(f"{group}/corrected"),
        hold(client, group, "agreed", seen=answer["seen"]),
    ):
        told = refused.json()["detail"]
        assert (refused.status_code, "say one thing as another" in told) == (409, True)
    hold(client, group, "server", server="A")
    assert client.get(f"{group}/corrected").status_code == 200


def test_a_reference_that_cannot_be_read_any_more_is_said(client: TestClient, domes: str) -> None:
    hold(client, domes, "server", server="C")
    take(client, domes, "C.inf", b"nonsense")
    held = client.get(domes).json()["held"]
    assert (held["way"], held["server"], held["missing"]) == ("most", "", "C")
    assert coverage(client, domes) == (3, 0, 1)
    refused = hold(client, domes, "server", server="C")
    assert (refused.status_code, "cannot be read" in refused.json()["detail"]) == (409, True)
    assert hold(client, domes, "server", server="Z").status_code == 404
    assert client.delete(f"{domes}/servers", params={"name": "c"}).status_code == 204
    assert client.get(domes).json()["held"]["missing"] == ""
    assert coverage(client, domes) == (3, 0, 0)


def test_what_was_read_of_a_server_is_told_from_the_newest_on(
    client: TestClient, domes: str
) -> None:
    take(client, domes, "folder/of/C.inf", template(9))
    take(client, domes, "c/any.inf", template(9))
    assert [one["name"] for one in client.get(domes).json()["servers"]] == [
        *("A", "B", "C", "D"),
        "folder",
    ]
    take(client, domes, "C.inf", b"[System Access]\nMinimumPasswordLength = many\n")
    take(client, domes, "C.inf", template(14, max_age=None))
    turns = client.get(f"{domes}/servers", params={"name": "C"}).json()["turns"]
    newest, wrong, second, first = turns
    assert [(c["text"], c["before"], c["after"]) for c in newest["changes"]] == [
        ("Minimum length", "9 characters", "14 characters"),
        ("Maximum age", "not set here", "never expires"),
    ]
    assert "not a whole number" in wrong["problem"]
    assert second["changes"][0]["before"] == "8 characters"
    assert (first["is_first"], first["changes"]) == (True, [])
    # The same once more is nothing new.
    take(client, domes, "C.inf", template(14, max_age=None))
    again = client.get(f"{domes}/servers", params={"name": "C"}).json()["turns"]
    assert len(again) == 4


def test_names_are_of_one_case_and_sets_have_one_name(client: TestClient, domes: str) -> None:
    assert take(client, domes, "a.inf", template(14))["name"] == "A"
    assert client.post(SETS, json={"name": "  domes "}).status_code == 409
    other = make(client, "Web")
    assert client.patch(other, json={"name": "DOMES"}).status_code == 409
    assert client.patch(other, json={"name": "web"}).json()["name"] == "web"
    assert client.post(SETS, json={"name": "  "}).status_code == 422
    assert client.delete(other).status_code == 204
    assert client.get(other).status_code == 404
    assert [one["name"] for one in client.get(SETS).json()["sets"]] == ["Domes"]


@pytest.mark.parametrize("path", ["../C.inf", "", "x" * 70, "a\x00b.inf"])
def test_what_is_no_servers_file_is_refused(client: TestClient, domes: str, path: str) -> None:
    answer = client.put(f"{domes}/servers/template", params={"path": path}, content=b"")
    assert answer.status_code == 422, answer.text
    assert coverage(client, domes) == (3, 1, 0)


def test_a_folder_is_watched(
    client: TestClient, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    assert client.get(SETS).json() == {"sets": [], "watched": None}
    monkeypatch.setenv("HORNFELS_SERVERS", str(tmp_path))
    folder = tmp_path / "sky.tarnholt.example"
    domes = folder / "Domes"
    domes.mkdir(parents=True)
    for name, length in (("A", 14), ("B", 14), ("C", 8)):
        (domes / f"{name}.inf").write_bytes(template(length))
    (folder / "lost.inf").write_bytes(b"")

    def look() -> Any:
        answer = client.post(f"{SETS}/watched")
        assert answer.status_code == 200, answer.text
        return answer.json()

    answer = look()
    (group,) = answer["sets"]
    assert (group["name"], group["agree"], group["differ"]) == ("Domes", 2, 1)
    assert [one["place"] for one in answer["watched"]["problems"]] == ["lost.inf"]
    # One is mended, one goes, one is cut off, one has come.
    (domes / "C.inf").write_bytes(template(14))
    (domes / "A.inf").unlink()
    (domes / "B.inf").write_bytes(b"[System Acc")
    (domes / "D.inf").write_bytes(template(14))
    os.utime(domes / "B.inf", (1, 1))
    (group,) = look()["sets"]
    assert (group["agree"], group["differ"], group["unread"]) == (2, 0, 2)
    path = f"{SETS}/{group['id']}"
    problems = {one["name"]: one["problem"] for one in client.get(path).json()["servers"]}
    assert problems["A"] == "Its file is no longer in the folder."
    assert "line 1" in problems["B"].lower()
    look()
    turns = client.get(f"{path}/servers", params={"name": "A"}).json()["turns"]
    assert len(turns) == 2, "gone is gone once"
    # All of it goes; what was sent by hand stays.
    take(client, path, "by hand.inf", template(14))
    for file in domes.iterdir():
        file.unlink()
    domes.rmdir()
    (group,) = look()["sets"]
    assert (group["agree"], group["unread"]) == (1, 4)


def test_a_worker_reads_the_folders_of_all_domains(
    client: TestClient, engine: Engine, tmp_path: Path
) -> None:
    for domain, sets in (("sky.tarnholt.example", 60), ("none.example", 1)):
        for number in range(sets):
            folder = tmp_path / domain / f"Set {number:02}"
            folder.mkdir(parents=True)
            (folder / "A.inf").write_bytes(template(14))
    read_every_folder(engine, read_settings())
    assert client.get(SETS).json()["sets"] == [], "no folder is set"
    # More sets than there can be: what fits is read, and the rest is no reason to stop.
    read_every_folder(engine, read_settings(servers=tmp_path))
    found = client.get(SETS).json()["sets"]
    assert (len(found), {one["agree"] for one in found}) == (50, {1})


def test_a_set_of_another_domain_is_not_there(client: TestClient, domes: str) -> None:
    number = domes.rpartition("/")[2]
    assert client.get(f"/api/domains/none.example/server-sets/{number}").status_code == 404
    assert client.get(f"{SETS}/99").status_code == 404
    assert client.get(f"{SETS}/0").status_code == 422
