"""Jobs: done once however often they are begun, taken up again when their worker is gone, stopped,
swept.
"""

from __future__ import annotations

import sys
import threading
from collections.abc import Iterator
from datetime import timedelta
from pathlib import Path
from uuid import UUID

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import Engine, func, select, text, update
from sqlalchemy.orm import Session

from api_help import DOMAIN, DRAFT, edit, follow, policy, work_off
from hornfels.api.app import create_app
from hornfels.formats.dump import Dump
from hornfels.service import long_answers
from hornfels.store import jobs, uploads
from hornfels.store.cluster import Cluster
from hornfels.store.database import connect
from hornfels.store.estates import save_dump
from hornfels.store.models import AccountRow, JobRow, PointRow, UploadPartRow, UploadRow
from hornfels.worker.loading import load
from hornfels.worker.work import do
from persons import as_user, let_in
from workers import another_worker, forget_heartbeats, lives

COMMAND = Path(sys.executable).parent / "hornfels"
DOMAIN_ENTRY = (
    b"dn: DC=wide,DC=example\nobjectClass: domainDNS\nobjectSid: S-1-5-21-1-2-3\nminPwdLength: "
    b"7\nmsDS-Behavior-Version: 7\n\n"
)


def dump_of(accounts: int) -> bytes:
    return DOMAIN_ENTRY + b"".join(
        (
            b"dn: CN=Person %d,DC=wide,DC=example\nobjectClass: user\nsAMAccountName: "
            b"person%d\nobjectSid: S-1-5-21-1-2-3-%d\n\n"
        )
        % (n, n, n + 2000)
        for n in range(accounts)
    )


def begin(engine: Engine, data: bytes, name: str = "wide.ldif") -> UUID:
    with Session(engine) as session, session.begin():
        upload = uploads.begin(session, name)
        parts = [data[start : start + uploads.PART] for start in range(0, len(data), uploads.PART)]
        for number, part in enumerate(parts):
            uploads.add(session, upload, number, part)
        uploads.finish(session, upload, len(data))
        return jobs.start(
            session,
            "load",
            "ann",
            arguments={"name": name, "linked_groups": "global"},
            upload=upload,
        ).id


def row(engine: Engine, job: UUID) -> JobRow:
    with Session(engine, expire_on_commit=False) as session:
        return session.get_one(JobRow, job)


def count(engine: Engine, table: type) -> int:
    with Session(engine) as session:
        return session.scalar(select(func.count()).select_from(table)) or 0


@pytest.fixture
def engine(engine: Engine) -> Engine:
    """With ann, who may load."""
    with Session(engine) as session, session.begin():
        let_in(session, "ann")
    return engine


@pytest.fixture
def patient(cluster: Cluster) -> Iterator[Engine]:
    engine = connect(cluster.url, patient=True)
    yield engine
    engine.dispose()


@pytest.mark.thorough
def test_a_job_whose_worker_is_killed_again_and_again_is_done_in_the_end_and_once(
    engine: Engine, cluster: Cluster
) -> None:
    job = begin(engine, dump_of(20_000))
    for killed in range(3):
        worker = another_worker(cluster)
        while not ((found := row(engine, job)).taken == killed + 1 and found.done > 0):
            assert found.state in jobs.ACTIVE
            assert lives(worker)
        worker.kill()
        worker.wait()
        forget_heartbeats(engine)
    worker = another_worker(cluster)
    while row(engine, job).state in jobs.ACTIVE:
        assert lives(worker)
    worker.terminate()
    worker.wait()
    ended = row(engine, job)
    assert (ended.state, ended.taken, ended.result) == ("done", 4, {"domain": "wide.example"})
    assert (count(engine, AccountRow), count(engine, PointRow), count(engine, UploadPartRow)) == (
        20_000,
        1,
        0,
    )


def test_a_job_that_is_done_twice_at_once_is_stored_once(engine: Engine, patient: Engine) -> None:
    """As when a worker is taken for gone and lives on."""
    job, together = begin(engine, dump_of(10)), threading.Barrier(2)

    def at_once(engine: Engine, row: JobRow) -> None:
        together.wait(30)
        load(engine, row)

    threads = [
        threading.Thread(target=do, args=(patient, job, {"load": at_once})) for _ in range(2)
    ]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert (row(engine, job).state, row(engine, job).taken) == ("done", 2)
    assert (count(engine, PointRow), count(engine, AccountRow)) == (1, 10)


def test_a_job_is_stopped_in_the_middle_and_begun_again(engine: Engine, patient: Engine) -> None:
    job = begin(engine, dump_of(10))

    def stopped_meanwhile(engine: Engine, found: JobRow) -> None:
        with Session(engine) as session, session.begin():
            jobs.cancel(jobs.find(session, found.id, for_writing=True))
        load(engine, found)

    do(patient, job, {"load": stopped_meanwhile})
    assert (row(engine, job).state, count(engine, PointRow)) == ("cancelled", 0)
    with Session(engine) as session, session.begin():
        found = jobs.find(session, job, for_writing=True)
        assert jobs.can_retry(found)
        jobs.retry(session, found)
    work_off(patient)
    assert (row(engine, job).state, count(engine, PointRow)) == ("done", 1)


def test_a_waiting_job_is_stopped_at_once(engine: Engine, patient: Engine) -> None:
    job = begin(engine, dump_of(1))
    with Session(engine) as session, session.begin():
        jobs.cancel(jobs.find(session, job, for_writing=True))
    work_off(patient)
    assert (row(engine, job).state, row(engine, job).taken) == ("cancelled", 0)


def test_jobs_of_one_kind_and_domain_are_done_one_at_a_time(
    engine: Engine, patient: Engine
) -> None:
    begun = [begin(engine, dump_of(1), f"{n}.ldif") for n in range(4)]
    order: list[str] = []

    def alone(engine: Engine, found: JobRow) -> None:
        order.append(f"begin {found.arguments['name']}")
        load(engine, found)
        order.append(f"end {found.arguments['name']}")

    work_off(patient, kinds={"load": alone})
    assert order == [f"{what} {n}.ldif" for n in range(4) for what in ("begin", "end")]
    assert {row(engine, job).state for job in begun} == {"done"}


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"dn: DC=x\nnonsense\n", "broken.ldif: line 2: no ':' in 'nonsense'"),
        (
            "dn: DC=x\n".encode("utf-16")[:-1],
            "broken.ldif: line 1: the file is UTF-16 text and broken here",
        ),
        (b"", "the dump has no domain object"),
        (
            DOMAIN_ENTRY + b"dn: CN=a\\00b,DC=wide,DC=example\nobjectClass: user\n",
            "line 7: 'CN=a\\00b,DC=wide,DC=example' is not a distinguished name: it holds a NUL",
        ),
        (
            DOMAIN_ENTRY.replace(b": 7\n\n", b": 9999999999\n\n"),
            "line 5: 9999999999 does not fit a 32-bit number",
        ),
    ],
)
def test_a_file_that_cannot_be_read_ends_its_job_in_words(
    engine: Engine, patient: Engine, data: bytes, words: str
) -> None:
    job = begin(engine, data, "broken.ldif")
    work_off(patient)
    assert row(engine, job).state == "failed"
    assert words in row(engine, job).error
    assert count(engine, PointRow) == 0


def test_another_server_that_starts_leaves_running_jobs_alone(engine: Engine) -> None:
    job = begin(engine, dump_of(1))
    with Session(engine) as session, session.begin():
        jobs.take(session, job)
    with TestClient(create_app(engine)):
        assert row(engine, job).state == "running"


def test_what_is_in_no_queue_is_handed_over_again(engine: Engine, patient: Engine) -> None:
    job = begin(engine, dump_of(1))
    with Session(engine) as session, session.begin():
        session.execute(text("DELETE FROM procrastinate_jobs"))
        assert jobs.take_up_lost(session) == 0, "it may just be on its way"
        session.execute(update(JobRow).values(changed_at=func.now() - timedelta(minutes=1)))
        assert jobs.take_up_lost(session) == 1
        assert jobs.take_up_lost(session) == 0
    work_off(patient)
    assert row(engine, job).state == "done"


def test_files_that_nobody_needs_are_swept(engine: Engine) -> None:
    waiting, failed = begin(engine, b"x"), begin(engine, b"x")
    with Session(engine) as session, session.begin():
        jobs.fail(session, failed, "no")
        uploads.begin(session, "cut off")
        jobs.sweep(session)
    assert count(engine, UploadRow) == 3, "nothing is old yet"
    with Session(engine) as session, session.begin():
        session.execute(update(UploadRow).values(at=func.now() - timedelta(hours=2)))
        jobs.sweep(session)
        assert sorted(session.scalars(select(UploadRow.name))) == ["wide.ldif", "wide.ldif"]
        session.execute(update(JobRow).values(changed_at=func.now() - timedelta(days=2)))
        jobs.sweep(session)
    assert (count(engine, JobRow), count(engine, UploadRow)) == (1, 1)
    assert row(engine, waiting).state == "queued"


def test_a_job_is_followed_by_events_until_it_ends(engine: Engine) -> None:
    with TestClient(create_app(engine)) as client:
        as_user(client, "ann")
        job = client.post("/api/loads?name=wide.ldif", content=dump_of(3)).json()["id"]
        thread = threading.Thread(target=follow, args=(client, job))
        with client.stream("GET", f"/api/jobs/{job}/events") as events:
            assert events.headers["content-type"].startswith("text/event-stream")
            thread.start()
            told = [line for line in events.iter_lines() if line.startswith("data:")]
        thread.join()
        assert '"state":"done"' in told[-1]
        assert '"domain":"wide.example"' in told[-1]
        assert client.post(f"/api/jobs/{job}/cancel").status_code == 409
        assert client.post(f"/api/jobs/{job}/retry").status_code == 409
        assert [one["state"] for one in client.get("/api/loads").json()] == ["done"]


def test_work_on_many_accounts_is_done_by_a_worker_once_for_each_state(
    engine: Engine, patient: Engine, demo: Dump, monkeypatch: pytest.MonkeyPatch
) -> None:
    """What a worker finds on many accounts is what the server finds by itself on few."""
    with Session(engine) as session, session.begin():
        save_dump(session, demo, "tarnholt.ldif", "tester")
    new = {
        "title": "T",
        "candidate": "ab",
        "kind": "population",
        "target": "ilse.varga",
        "expected": "accepted",
        "invented": True,
    }
    with TestClient(create_app(engine)) as client:
        as_user(client, "ann")
        client.post(f"{DOMAIN}/drafts", json={})
        few = client.get(f"{DOMAIN}/findings").json()
        assert client.post(f"{DOMAIN}/trials", json=new).json()["met"] is False
        told = client.get(f"{DRAFT}/trials").json()
        monkeypatch.setattr(long_answers, "MANY", 100)
        for _ in range(2):
            assert client.get(f"{DOMAIN}/findings").json() == {"findings": None}
            waiting = client.get(f"{DRAFT}/trials").json()
            assert (waiting["running"], waiting["trials"][0]["said"]) == (1, "Running …")
        acceptance = {"key": few["findings"][0]["key"], "reason": "Known", "until": "2099-01-01"}
        assert client.post(f"{DOMAIN}/findings/accepted", json=acceptance).status_code == 409
        assert count(engine, JobRow) == 3, (
            "findings live, trials live and in the draft; asked twice and begun once"
        )
        work_off(patient)
        assert client.get(f"{DOMAIN}/findings").json() == few
        assert client.get(f"{DRAFT}/trials").json() == told
        night = policy(client, "Night operators")
        assert edit(client, night, precedence=31).status_code == 200
        assert client.get(f"{DRAFT}/findings").json() == {"findings": None}, (
            "another state is looked at anew"
        )
        assert edit(client, policy(client, "Night operators"), precedence=32).status_code == 200
        assert client.get(f"{DRAFT}/findings").json() == {"findings": None}
        work_off(patient)
        assert client.get(f"{DRAFT}/findings").json()["findings"]
        with Session(engine) as session:
            states = session.scalars(
                select(JobRow.state).where(JobRow.kind == "findings").order_by(JobRow.created_at)
            ).all()
        assert states == ["done", "cancelled", "done"]


@pytest.mark.parametrize("many", [False, True])
def test_publishing_asks_trials_of_what_will_be_live_and_a_worker_where_there_are_many_accounts(
    engine: Engine, patient: Engine, demo: Dump, monkeypatch: pytest.MonkeyPatch, many: bool
) -> None:
    """A trial that is met only by what the draft tries out stays unmet for publishing."""
    with Session(engine) as session, session.begin():
        save_dump(session, demo, "tarnholt.ldif", "tester")
    if many:
        monkeypatch.setattr(long_answers, "MANY", 100)
    workshop, operators = (
        f"CN=GS-{name},OU=Groups,DC=sky,DC=tarnholt,DC=example"
        for name in ("Workshop", "Night-Operators")
    )
    new = {
        "title": "Short ones",
        "candidate": "Xk7#Qm2!Wv",
        "kind": "group",
        "target": workshop,
        "expected": "refused",
    }
    with TestClient(create_app(engine)) as client:
        as_user(client, "ann")
        version = client.get("/api/domains").json()[0]["version"]
        assert (
            client.patch(
                DOMAIN, json={"trials_required": True, "reason": "r", "version": version}
            ).status_code
            == 200
        )
        assert (
            client.post(
                f"{DOMAIN}/trials", json={**new, "rule": "length", "invented": True}
            ).status_code
            == 201
        )
        client.post(f"{DOMAIN}/drafts", json={})
        assert edit(client, policy(client, "Keyholders"), name="Key people").status_code == 200
        join = {"member": workshop, "group": operators, "join": True}
        assert client.post(f"{DRAFT}/draft/memberships", json=join).status_code == 200

        def publish() -> tuple[int, str]:
            version = client.get(f"{DRAFT}/draft").json()["version"]
            answer = client.post(f"{DRAFT}/draft/publish", json={"version": version})
            return answer.status_code, answer.text

        if many:
            status, said = publish()
            assert (status, "still being run" in said) == (409, True)
            work_off(patient)
        assert client.get(f"{DRAFT}/trials").json()["unmet"] == 0
        status, said = publish()
        assert (status, "1 of 1 trials is not met. “Short ones”: For " in said) == (409, True)
        made = {
            "name": "Workshop",
            "precedence": 85,
            "settings": {"min_length": 15},
            "links": [workshop],
        }
        assert client.post(f"{DRAFT}/policies", json=made).status_code == 201
        if many:
            assert publish()[0] == 409
            work_off(patient)
        assert publish()[0] == 200
        assert policy(client, "Workshop", DOMAIN)["governed"] == 54
