"""Accounts whose passwords others know: compared, told, acted upon, and no hash left anywhere."""

from __future__ import annotations

import contextlib
import logging
import os
import re
from collections import Counter
from collections.abc import Iterator, Mapping
from datetime import UTC, datetime
from pathlib import Path
from typing import Any
from uuid import UUID

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import Engine, text
from sqlalchemy.orm import Session

from api_help import DOMAIN, DRAFT, follow, patient, policy, work_off
from hornfels.core.passwords.digests import nt_hash
from hornfels.demo.exposed import hash_lines, make_corpus
from hornfels.demo.tarnholt import DNS_NAME
from hornfels.formats.corpus import shelf
from hornfels.formats.corpus.building import build
from hornfels.formats.dump import Dump
from hornfels.service import exposure
from hornfels.settings import read_settings
from hornfels.store import jobs
from hornfels.worker.work import do
from persons import as_user, let_in

EXPOSURE = f"{DOMAIN}/exposure"
ILSE, ODILE, ADMIN = "ilse.varga", "odile.quarrie", "Administrator"
CANARY = "Lantern-Canary-7421"
CLIENT = {"title": "dc1", "kind": "hook", "reason": "A new server"}


class Folders:
    """Where corpora and hashes are looked for."""

    def __init__(self, home: Path) -> None:
        self.corpora, self.hashes = home / "corpora", home / "hashes"
        self.file = self.hashes / f"{DNS_NAME}.hashes"
        for folder in (self.corpora, self.hashes):
            folder.mkdir()

    def corpus(self, name: str, *words: str) -> None:
        source = self.corpora / "words"
        source.write_text("".join(f"{word}\n" for word in words))
        build(self.corpora / f"{name}.hfc", "plain", [source])

    def put(self, passwords: Mapping[str, str]) -> None:
        self.put_text("".join(f"{n},{nt_hash(p).hex()}\n" for n, p in passwords.items()))

    def put_text(self, content: str) -> None:
        self.file.unlink(missing_ok=True)
        self.file.touch(0o600)
        self.file.write_text(content)


@pytest.fixture(autouse=True)
def folders(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Folders:
    found = Folders(tmp_path)
    monkeypatch.setenv("HORNFELS_CORPORA", str(found.corpora))
    monkeypatch.setenv("HORNFELS_HASHES", str(found.hashes))
    # Nobody waits here for the second after which a folder is looked through again.
    monkeypatch.setattr(shelf, "_LOOK_EVERY", 0.0)
    return found


def look(client: TestClient) -> dict[str, Any]:
    """Compare, and how the domain stands then."""
    job = client.post(f"{EXPOSURE}/look", json={})
    assert job.status_code == 202, job.text
    follow(client, job.json()["id"])
    found: dict[str, Any] = client.get(EXPOSURE).json()
    return found


def listed(client: TestClient, **asked: str) -> dict[str, Any]:
    """The accounts that are exposed or share, by their names."""
    found = client.get(f"{EXPOSURE}/accounts", params=asked)
    assert found.status_code == 200, found.text
    return {one["name"]: one for one in found.json()["accounts"]}


def reasons(account: Mapping[str, Any]) -> Counter[str]:
    return Counter(f"{one['kind']} {one['list']}".strip() for one in account["reasons"])


def test_the_demo_has_31_exposed_two_groups_and_one_blank(
    client: TestClient, folders: Folders, demo: Dump
) -> None:
    make_corpus(folders.corpora, 30_000)
    folders.put_text(hash_lines(list(demo.estate.accounts.name)).decode())
    found = look(client)
    assert found["trouble"] == ""
    counts = {key: found["now"][key] for key in ("exposed", "listed", "blank", "shared")}
    assert counts == {"exposed": 31, "listed": 31, "blank": 1, "shared": 10}
    assert [(group["size"], len(group["members"])) for group in found["groups"]] == [(7, 7), (3, 3)]
    assert sum(one["exposed"] for one in found["policies"]) == 31
    assert sum(one["accounts"] for one in found["policies"]) == len(demo.estate.accounts)
    for one in found["policies"]:
        assert sum(part["exposed"] for part in one["populations"]) in (0, one["exposed"])
    run = found["runs"][0]
    assert (run["compared"], run["unknown"], run["whole"]) == (len(demo.estate.accounts), 0, True)
    assert len(listed(client)) == 41


def test_what_is_known_of_whom_is_told_to_those_who_may_see_it(
    client: TestClient, folders: Folders, engine: Engine
) -> None:
    folders.corpus("known", "Summer-2026", "orbit")
    folders.corpus("more", "orbit")
    folders.put(
        {ILSE: "orbit", ODILE: "", "kiosk-north": CANARY, "kiosk-west": CANARY, "nobody": "x"}
        | {"svc-dome6": "svc-dome6123"}
    )
    found = look(client)
    assert (found["runs"][0]["compared"], found["runs"][0]["unknown"]) == (5, 1)
    told = {name: reasons(one) for name, one in listed(client).items()}
    assert told == {
        ILSE: Counter(["list known", "list more"]),
        ODILE: Counter(["blank"]),
        "kiosk-north": Counter(["shared"]),
        "kiosk-west": Counter(["shared"]),
        "svc-dome6": Counter(["own name"]),
    }
    assert set(listed(client, kind="blank")) == {ODILE}
    assert set(listed(client, account=ILSE)) == {ILSE}
    night = policy(client, "Night operators", DOMAIN)["guid"]
    assert set(listed(client, policy=night)) == {ILSE, ODILE}
    assert client.get(f"{EXPOSURE}/accounts?policy=none").status_code == 404
    with Session(engine) as session, session.begin():
        let_in(session, "vera", role="viewer")
    as_user(client, "vera")
    seen = client.get(EXPOSURE).json()
    assert seen["now"] == found["now"]
    assert [group["members"] for group in seen["groups"]] == [None]
    assert client.get(f"{EXPOSURE}/accounts").status_code == 403


def test_only_what_was_added_is_compared_with_and_what_was_known_stays_since_then(
    client: TestClient, folders: Folders
) -> None:
    folders.corpus("known", "orbit")
    folders.put({ILSE: "orbit", ODILE: "lantern"})
    look(client)
    since = listed(client)[ILSE]["since"]
    folders.corpus("known+june", "lantern", "orbit")
    found = look(client)
    assert found["runs"][0]["whole"] is False
    assert found["corpora"][0]["files"] == 2
    told = listed(client)
    assert set(told) == {ILSE, ODILE}
    assert told[ILSE]["since"] == since < told[ODILE]["since"]
    # Less than before, so that everything is compared anew.
    (folders.corpora / "known.hfc").unlink()
    (folders.corpora / "known+june.hfc").unlink()
    folders.corpus("known", "lantern")
    assert look(client)["runs"][0]["whole"] is True
    assert set(listed(client)) == {ODILE}
    folders.put({ILSE: "lantern"})
    assert look(client)["runs"][0]["whole"] is True
    assert set(listed(client)) == {ILSE}
    assert [run["exposed"] for run in client.get(EXPOSURE).json()["runs"]] == [1, 1, 2, 1]


def test_what_cannot_be_taken_is_told_and_changes_nothing(
    client: TestClient, folders: Folders
) -> None:
    assert "No such file" in look(client)["trouble"]
    folders.corpus("known", "orbit")
    folders.put({ILSE: "orbit"})
    folders.file.chmod(0o644)
    assert "can be read by others" in look(client)["trouble"]
    folders.file.chmod(0o600)
    assert look(client)["trouble"] == ""
    folders.put_text(f"{ILSE};{nt_hash(CANARY).hex()}\n")
    assert "line 1: an account, a comma" in look(client)["trouble"]
    assert set(listed(client)) == {ILSE}
    folders.put({ILSE: "dome"})
    content = bytearray((folders.corpora / "known.hfc").read_bytes())
    content[130] ^= 1
    (folders.corpora / "known.hfc").write_bytes(content)
    assert "are damaged" in look(client)["trouble"]
    assert set(listed(client)) == {ILSE}


def test_a_password_that_was_set_after_the_file_is_not_the_one_in_it(
    client: TestClient, folders: Folders
) -> None:
    folders.corpus("known", "orbit")
    folders.put({ILSE: "orbit"})
    os.utime(folders.file, (1_000_000_000, 1_000_000_000))
    assert look(client)["runs"][0]["compared"] == 0
    assert listed(client) == {}


def everything(engine: Engine) -> str:
    """All that the database holds, as text."""
    with engine.connect() as connection:
        tables = connection.scalars(
            text(
                "SELECT relname FROM pg_class WHERE relkind = 'r' AND relnamespace = "
                "current_schema()::regnamespace"
            )
        ).all()
        return "\n".join(
            str(row)
            for table in tables
            for row in connection.scalars(text(f'SELECT t::text FROM "{table}" t'))
        )


@pytest.fixture
def log(caplog: pytest.LogCaptureFixture) -> Iterator[pytest.LogCaptureFixture]:
    with caplog.at_level(logging.DEBUG):
        yield caplog


def test_no_hash_and_no_count_is_found_anywhere_afterwards(
    client: TestClient, folders: Folders, engine: Engine, log: pytest.LogCaptureFixture
) -> None:
    folders.corpus("known", *[CANARY] * 74_217, *["orbit"] * 70_000)
    digest = nt_hash(CANARY)
    folders.put({ILSE: CANARY, ODILE: CANARY})
    look(client)
    answers = client.get(EXPOSURE).text + client.get(f"{EXPOSURE}/accounts").text
    folders.put_text(f"{ILSE},{digest.hex()}\n{ODILE} {digest.hex()}\n")
    answers += str(look(client))
    where = answers + log.text + everything(engine)
    assert "known" in where
    for trace in (CANARY, digest.hex(), digest.hex().upper(), str(digest)[2:-1]):
        assert trace not in where
    # Not as a number; among the digits of a hash in the trail it may be by chance.
    assert not re.search(r"(?<![0-9a-f])74,?217(?![0-9a-f])", where)
    inside = [path for path in folders.hashes.parent.rglob("*") if path.is_file()]
    assert [p.name for p in inside if digest.hex().encode() in p.read_bytes()] == [
        folders.file.name
    ]


def order(client: TestClient, policy: str, consequence: str, **more: object) -> Any:
    body = {"consequence": consequence, "reason": "known to others", **more}
    return client.put(f"{EXPOSURE}/orders/{policy}", json=body)


def test_what_becomes_of_them_is_planned_confirmed_and_kept(
    client: TestClient, folders: Folders
) -> None:
    folders.corpus("known", "orbit")
    chosen = (ILSE, ODILE, ADMIN, "kiosk-north")
    folders.put(dict.fromkeys(chosen, "orbit"))
    look(client)
    night = policy(client, "Night operators", DOMAIN)["guid"]
    assert {one["due_at"] for one in listed(client).values()} == {None}
    assert order(client, night, "within", days=0).status_code == 422
    assert order(client, night, "within", days=14).json()["days"] == 14
    assert order(client, "domain", "now").status_code == 200
    assert order(client, "none", "now").status_code == 404
    refused = order(client, "domain", "now", standing=True)
    assert (refused.status_code, "connect the directory" in refused.text) == (409, True)
    told = listed(client)
    assert told[ILSE]["due_at"] > told[ILSE]["since"]
    assert (told[ADMIN]["spared"], told[ADMIN]["due_at"]) == (True, None)
    by_policy = {one["policy"]: one["due"] for one in client.get(EXPOSURE).json()["policies"]}
    assert by_policy[night] == 0
    plan = {"accounts": [ILSE], "reason": "they were told"}
    early = client.post(f"{EXPOSURE}/plan", json=plan)
    assert (early.status_code, "not due any more" in early.text) == (409, True)
    assert order(client, night, "now").status_code == 200
    plan = {"accounts": [ILSE, ODILE], "reason": "they were told"}
    done = client.post(f"{EXPOSURE}/plan", json=plan)
    assert done.status_code == 201, done.text
    found = client.get(EXPOSURE).json()
    assert {(one["account"], one["by"], one["policy_name"]) for one in found["deeds"]} == {
        (ILSE, "ann", "Night operators"),
        (ODILE, "ann", "Night operators"),
    }
    assert all("change records" in one["told"] for one in found["deeds"])
    point = client.get(f"{DOMAIN}/history").json()[0]
    assert (point["kind"], point["reason"]) == ("must change", "they were told")


def test_whoever_is_spared_by_name_is_never_told(client: TestClient, folders: Folders) -> None:
    folders.corpus("known", "orbit")
    folders.put({ILSE: "orbit", ODILE: "orbit"})
    look(client)
    night = policy(client, "Night operators", DOMAIN)["guid"]
    order(client, night, "now")
    spared = {"enforced": False, "spared": [ILSE], "reason": "break glass"}
    assert client.put(f"{DOMAIN}/gate/lifetimes", json=spared).status_code == 200
    told = listed(client)
    assert {name: one["spared"] for name, one in told.items()} == {ILSE: True, ODILE: False}
    assert {name for name, one in told.items() if one["due_at"]} == {ODILE}


def test_a_new_file_or_a_new_corpus_is_compared_by_itself(
    client: TestClient, folders: Folders
) -> None:
    engine = patient(client)

    def begun() -> int:
        with Session(engine) as session, session.begin():
            exposure.begin_due(session, datetime.now(UTC), read_settings())
        work_off(engine)
        return len(client.get(EXPOSURE).json()["runs"])

    assert begun() == 0
    folders.put({ILSE: "orbit"})
    assert [begun(), begun()] == [1, 1]
    folders.corpus("known", "orbit")
    assert [begun(), begun()] == [2, 2]
    assert set(listed(client)) == {ILSE}
    engine.dispose()


def test_a_candidate_that_others_know_is_refused_on_the_bench_and_at_the_gate(
    client: TestClient, folders: Folders
) -> None:
    folders.corpus("known", "Known-Perigee-2031", "Known-Perigee-2031", "orbit")
    folders.corpus("torn", "orbit")
    held = policy(client, "Night operators")
    addition = {"password": [{"exposed": {"lists": ["known"], "max": 1}}]}
    body = {"version": held["version"], "addition": addition}
    assert client.put(f"{DRAFT}/additions/{held['guid']}", json=body).status_code == 200

    def verdict(candidate: str, place: str = DRAFT) -> Any:
        asked = {"accounts": [ILSE], "operation": "reset", "candidate": candidate}
        found = client.post(f"{place}/verdicts", json=asked)
        assert found.status_code == 200, found.text
        rules = found.json()["columns"][0]["rules"]
        return next(one for one in rules if one["rule"] == "exposed")

    (folders.corpora / "torn.hfc").unlink()
    told = verdict("Known-Perigee-2031")
    assert (told["status"], told["detail"]) == ("failed", "seen 2 times in known, at most 1")
    assert verdict("Unheard-Perigee-2031")["status"] == "passed"
    draft = client.get(f"{DRAFT}/draft").json()
    assert client.post(f"{DRAFT}/draft/publish", json={"version": draft["version"]}).is_success
    made = client.post(f"{DOMAIN}/gate/callers", json=CLIENT).json()
    asked = {"account": ILSE, "operation": "reset", "candidate": "Known-Perigee-2031"}
    by = {"Authorization": f"Bearer {made['token']}"}
    answer = client.post("/api/gate/v1/check", json=asked, headers=by).json()
    assert answer["accepted"] is False
    assert "seen 2 times among exposed passwords" in answer["told"]
    (folders.corpora / "known.hfc").unlink()
    assert verdict("Known-Perigee-2031", DOMAIN)["status"] == "not checkable"
    corpora = {one["name"]: one["problem"] for one in client.get(EXPOSURE).json()["corpora"]}
    assert corpora == {"known": "not at hand, though 1 policy asks for it."}


class KilledError(BaseException):
    """As if the worker were killed here."""


@pytest.mark.parametrize("at", [1, 2, 3, 5, 8])
def test_a_comparison_that_is_killed_anywhere_is_done_once(
    client: TestClient,
    folders: Folders,
    engine: Engine,
    monkeypatch: pytest.MonkeyPatch,
    at: int,
) -> None:
    folders.corpus("known", "orbit")
    folders.put({ILSE: "orbit", ODILE: ""})
    job = client.post(f"{EXPOSURE}/look", json={}).json()["id"]
    whole, left = jobs.Progress.__call__, [at]

    def dies(self: jobs.Progress, *given: Any) -> None:
        left[0] -= 1
        if not left[0]:
            raise KilledError
        self._next = 0.0
        whole(self, *given)

    with monkeypatch.context() as patched:
        patched.setattr(jobs.Progress, "__call__", dies)
        with contextlib.suppress(KilledError):
            do(engine, UUID(job))
    assert follow(client, job)["state"] == "done"
    assert set(listed(client)) == {ILSE, ODILE}
    assert len(client.get(EXPOSURE).json()["runs"]) == 1
