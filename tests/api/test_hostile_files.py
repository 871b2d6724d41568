"""Files that were made to stop the work: characters that no column holds, and files that unpack to
far more than they are.
"""

from __future__ import annotations

import gzip
import threading
from pathlib import Path
from typing import Any
from uuid import UUID

import pytest
from fastapi.testclient import TestClient
from hypothesis import given
from hypothesis import strategies as st
from sqlalchemy import Engine, text
from sqlalchemy.orm import Session

from api_help import DOMAIN, follow, patient, work_off
from hornfels.formats import packing
from hornfels.formats.dump import load_dump
from hornfels.formats.ldif import LdifError
from hornfels.service import import_review, server_folder
from hornfels.settings import read_settings
from hornfels.store import jobs
from hornfels.store.models import DomainRow, JobRow
from hornfels.store.storable import json_text, storable
from hornfels.worker import work as worker

TEMPLATE = b"[System Access]\nMinimumPasswordLength = 14\n"


def loaded(client: TestClient, content: bytes) -> dict[str, Any]:
    job = client.post("/api/loads?name=odd.ldif", content=content).json()["id"]
    return follow(client, job)


@pytest.mark.parametrize(
    "content",
    [
        b"\0",
        b"\0" * 5000,
        b"dn: DC=\0x,DC=example\nobjectClass: domainDNS\n\n",
        b"dn:: AAAA\nobjectClass: user\n\n",
        b"\xff\xfe\x00\xd8",
        gzip.compress(b"\0\0\0\n"),
    ],
    ids=["nul", "nuls", "nul in a name", "packed nul", "half a character", "gzip"],
)
def test_an_upload_that_cannot_be_read_ends_in_one_sentence(
    client: TestClient, engine: Engine, content: bytes
) -> None:
    ended = loaded(client, content)
    assert (ended["state"], bool(ended["error"])) == ("failed", True)
    assert "unexpectedly" not in ended["error"]
    with Session(engine) as session:
        assert session.get_one(JobRow, UUID(ended["id"])).taken == 1


def test_a_failure_that_cannot_be_stored_ends_the_job(
    client: TestClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    def fails(*_: object) -> None:
        raise ValueError("no column holds this")

    monkeypatch.setattr("hornfels.worker.loading._fail", fails)
    ended = loaded(client, b"nonsense\n")
    assert (ended["state"], ended["error"]) == ("failed", worker.UNEXPECTED)


def test_a_template_with_nul_is_a_sentence_with_its_line(client: TestClient) -> None:
    made = client.post(f"{DOMAIN}/server-sets", json={"name": "Domes"}).json()
    place = f"{DOMAIN}/server-sets/{made['id']}/servers/template"
    content = TEMPLATE + b"LockoutBadCount = \0\n"
    answer = client.put(place, params={"path": "DOME-01.inf"}, content=content)
    assert answer.status_code == 200, answer.text
    assert "Line 3: a NUL character" in answer.text


def test_one_bad_file_stops_none_of_the_others(
    client: TestClient, engine: Engine, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    folder = tmp_path / "sky.tarnholt.example" / "Domes"
    folder.mkdir(parents=True)
    monkeypatch.setenv("HORNFELS_SERVERS", str(tmp_path))
    (folder / "A-BAD.inf").write_bytes(TEMPLATE + b"LockoutBadCount = \0\n")
    (folder / "B-GOOD.inf").write_bytes(TEMPLATE)
    server_folder.read_every_folder(engine, read_settings())
    shown = client.get(f"{DOMAIN}/server-sets").text
    assert "Domes" in shown
    with engine.connect() as connection:
        kept = connection.exec_driver_sql("SELECT name, problem FROM servers ORDER BY name").all()
    assert [(name, "NUL" in problem) for name, problem in kept] == [
        ("A-BAD", True),
        ("B-GOOD", False),
    ]


values = st.recursive(
    st.text() | st.integers(),
    lambda one: st.lists(one) | st.dictionaries(st.text(), one),
    max_leaves=8,
)


@given(values)
def test_every_text_can_be_stored(migrated: Engine, value: Any) -> None:
    whole = {"value": value}
    bound = storable(repr(value) + str(value))
    with Session(migrated) as session:
        kept = session.scalar(text("SELECT cast(:one AS jsonb)"), {"one": json_text(whole)})
        assert session.scalar(text("SELECT cast(:one AS text)"), {"one": bound}) == bound
    if storable(str(value)) == str(value) and "\\x00" not in repr(value):
        assert kept == whole


class Endless:
    """A stream of line ends, and how many were taken of it."""

    def __init__(self) -> None:
        self.taken = 0

    def read(self, size: int) -> bytes:
        self.taken += size
        return b"\n" * size


def test_a_file_that_goes_on_is_stopped_by_its_bytes() -> None:
    endless = Endless()
    with pytest.raises(LdifError, match=r"more than 0\.00781 GB"):
        load_dump(endless, most_bytes=8 << 20)  # type: ignore[arg-type]
    assert endless.taken < 12 << 20


def test_what_unpacks_to_far_more_than_text_is_refused(
    client: TestClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(packing, "_RATIO_FROM", 1 << 20)
    ended = loaded(client, gzip.compress(b"\n" * (8 << 20)))
    assert "unpacks to more than 200 times its size" in ended["error"]


def test_an_import_is_cancelled_while_it_reads(
    client: TestClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Line ends alone are no entries, by which progress was counted before."""
    content = gzip.compress(b"\n" * (4 << 20), 1)
    job = client.post("/api/loads?name=long.ldif", content=content).json()["id"]
    told: list[str] = []
    whole = jobs.Progress.__call__

    def cancels(self: jobs.Progress, step: str, done: int = 0, of: int = 0) -> None:
        if not told:
            told.append(client.post(f"/api/jobs/{job}/cancel").json()["state"])
        self._next = 0.0
        whole(self, step, done, of)

    monkeypatch.setattr(jobs.Progress, "__call__", cancels)
    ended = follow(client, job)
    assert (told, ended["state"]) == (["running"], "cancelled")


def test_a_job_that_takes_too_long_ends(
    client: TestClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setenv("HORNFELS_JOB_HOURS", "1e-9")
    ended = loaded(client, b"dn: x\n\n")
    assert (ended["state"], "took longer than" in ended["error"]) == ("failed", True)


def test_two_imports_are_done_side_by_side(client: TestClient, engine: Engine) -> None:
    begun = [
        client.post(f"/api/loads?name={name}.ldif", content=b"dn: x\n").json()["id"]
        for name in "ab"
    ]
    with Session(engine) as session:
        lanes = [session.get_one(JobRow, UUID(one)).key for one in begun]
    assert sorted(lanes) == ["lane 0", "lane 1"]
    meeting = threading.Barrier(2)

    def meets(own: Engine, job: JobRow) -> None:
        meeting.wait(30)
        with Session(own) as session, session.begin():
            jobs.fail(session, job.id, "met the other")

    own = patient(client)
    work_off(own, kinds={"load": meets})
    own.dispose()
    for one in begun:
        assert client.get(f"/api/jobs/{one}").json()["error"] == "met the other"


def test_a_domain_that_changes_after_its_losses_were_seen_is_looked_at_again(
    client: TestClient, engine: Engine, demo_ldif: bytes, monkeypatch: pytest.MonkeyPatch
) -> None:
    looked: list[int] = []
    review = import_review.review

    def changes(session: Session, *given: Any) -> Any:
        found = review(session, *given)
        if not looked:
            with Session(engine) as other, other.begin():
                domain = other.query(DomainRow).one()
                domain.settings = {**domain.settings, "min_length": 40}
                domain.version += 1
        looked.append(1)
        return found

    monkeypatch.setattr(import_review, "review", changes)
    ended = loaded(client, demo_ldif)
    assert (len(looked), ended["state"]) == (2, "held")
    assert any("Minimum length" in one for one in ended["losses"])
