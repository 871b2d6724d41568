"""The trail: every write leaves an entry, nothing secret stands in it, and what was changed or
taken out shows.
"""

from __future__ import annotations

import json
from datetime import UTC, datetime, timedelta
from typing import Any

import psycopg
import pytest
from fastapi.testclient import TestClient
from sqlalchemy import Engine, func, select, text
from sqlalchemy.exc import ProgrammingError
from sqlalchemy.orm import Session

from api_help import DOMAIN, edit, policy
from good_requests import CANDIDATE, requests
from hornfels.store import people, pruning, trail
from hornfels.store.cluster import Cluster
from hornfels.store.models import EntryRow
from hornfels.store.seal import log_table, sealed
from persons import as_user, let_in

READING = (
    "/verdicts",
    "/verdicts/many",
    "/effects",
    "/suggestions",
    "/boundaries",
    "/drill",
    "/what-if",
    "/moved",
    "/what-if/edit",
    "/adjustments",
    "/proof",
    "/planned",
    "/sample",
)
"""What is asked for by POST and changes nothing."""
KEY = b"k" * 32


def key() -> bytes:
    return KEY


def told(client: TestClient, **query: Any) -> list[dict[str, Any]]:
    found: list[dict[str, Any]] = client.get("/api/trail", params=query).json()["entries"]
    return found


def head(engine: Engine) -> int:
    with Session(engine) as session:
        return trail.head(session)[0]


def whole(engine: Engine) -> str:
    """What is wrong with the trail, empty if nothing is."""
    with Session(engine) as session:
        start, wrong = pruning.beginning(session, key)
        return wrong or trail.first_break(trail.links(session), start)


def test_every_write_leaves_an_entry_and_nothing_secret(client: TestClient, engine: Engine) -> None:
    first, silent, done = head(engine), [], 0
    for method, path, body in requests(client):
        before = head(engine)
        answer = client.request(method, path, json=body)
        if answer.is_success and not path.split("?")[0].endswith(READING):
            done += 1
            if head(engine) == before:
                silent.append(f"{method} {path}")
    assert silent == []
    assert done > 8
    with Session(engine) as session:
        since = session.scalars(select(EntryRow).where(EntryRow.id > first)).all()
        written = json.dumps([[r.about, r.detail, r.person, r.address] for r in since])
    assert CANDIDATE not in written


def test_an_entry_says_who_what_where_before_and_after(client: TestClient) -> None:
    as_user(client, "ben")
    answer = edit(client, policy(client, "Night operators"), settings={"min_length": 16})
    entry = told(client, what="draft changed")[0]
    assert (entry["person"], entry["domain"]) == ("ben", "sky.tarnholt.example")
    assert (entry["address"], entry["request"]) == ("testclient", answer.headers["request-id"])
    assert entry["detail"]["said"] == [
        "Night operators: Minimum length: 14 characters → 16 characters"
    ]
    (change,) = entry["detail"]["after"]
    assert change["changes"]["min_length"] == {"before": 14, "after": 16}


def test_signing_in_failing_and_being_refused_leave_entries(
    anonymous: TestClient, engine: Engine
) -> None:
    def since(first: int) -> list[tuple[str, str]]:
        with Session(engine) as session:
            asked = select(EntryRow.person, EntryRow.what).where(EntryRow.id > first)
            return [(who, what) for who, what in session.execute(asked.order_by(EntryRow.id))]

    first = head(engine)
    good = {"name": "ann", "password": "correct horse"}
    for body in ({**good, "password": "no"}, {**good, "name": "My-pass-1"}, good):
        anonymous.post("/api/session", json=body)
    anonymous.delete("/api/session")
    assert since(first) == [
        ("ann", "sign-in failed"),
        ("somebody unknown", "sign-in failed"),
        ("ann", "sign-in"),
        ("ann", "sign-out"),
    ]
    for _ in range(12):
        anonymous.post("/api/session", json={**good, "password": "no"})
    assert since(first)[4:] == [("ann", "sign-in failed")] * 9 + [
        ("ann", "sign-in locked"),
        ("ann", "sign-in failed"),
    ]
    with Session(engine) as session, session.begin():
        let_in(session, "carl", role="viewer")
    as_user(anonymous, "carl")
    first = head(engine)
    anonymous.post(f"{DOMAIN}/drafts", json={})
    anonymous.get(f"{DOMAIN}/accounts.csv")
    assert since(first) == [("carl", "refused"), ("carl", "exported")]


def test_the_trail_is_filtered_paged_and_exported(client: TestClient, engine: Engine) -> None:
    with Session(engine) as session, session.begin():
        for number in range(120):
            trail.note(session, "counted", f"sheep {number}", domain="field.example", person="ann")
    page = client.get("/api/trail", params={"what": "counted"}).json()
    assert (len(page["entries"]), page["more"]) == (100, True)
    rest = told(client, what="counted", before=page["entries"][-1]["id"])
    assert [e["about"] for e in rest[:2]] == ["sheep 19", "sheep 18"]
    assert [e["about"] for e in told(client, words="sheep 7 79")] == ["sheep 79"]
    assert told(client, person="nobody") == []
    moment = datetime.now(UTC)
    assert told(client, since=(moment + timedelta(hours=1)).isoformat()) == []
    assert told(client, until=(moment - timedelta(days=1)).isoformat(), what="counted") == []
    lines = client.get("/api/trail.jsonl", params={"what": "counted"}).text.splitlines()
    assert json.loads(lines[0])["about"] == "sheep 119"
    assert len(json.loads(lines[0])["digest"]) == 64
    assert told(client)[0]["what"] == "exported"


def test_whoever_reads_the_trail_of_one_domain_reads_that_alone(
    client: TestClient, engine: Engine
) -> None:
    with Session(engine) as session, session.begin():
        let_in(session, "carl", role=None)
        people.grant(session, "carl", "field.example", "administrator")
        trail.note(session, "counted", domain="field.example")
        trail.note(session, "counted", domain="other.example")
        trail.note(session, "counted")
    as_user(client, "carl")
    assert {e["domain"] for e in told(client)} == {"field.example"}
    assert told(client, domain="other.example") == []


@pytest.mark.parametrize(
    "statement",
    [
        "UPDATE trail SET person = 'x'",
        "DELETE FROM trail",
        "TRUNCATE trail",
        "INSERT INTO trail (id, person) VALUES (1, 'x')",
        "ALTER TABLE trail DISABLE TRIGGER ALL",
        "DROP TABLE trail",
        "CREATE OR REPLACE FUNCTION trail_chained() RETURNS trigger LANGUAGE plpgsql AS "
        "'BEGIN RETURN NEW; END'",
        "DELETE FROM trail_stumps",
        "CREATE SCHEMA hornfels_application",
        "CREATE TABLE public.another (id int)",
    ],
)
def test_the_application_cannot_change_the_trail(engine: Engine, statement: str) -> None:
    with Session(engine) as session:
        assert sealed(session)
        with pytest.raises(ProgrammingError, match=r"permission denied|must be owner"):
            session.execute(text(statement))


@pytest.mark.parametrize("shadow", ["hornfels_application.trail", "pg_temp.trail"])
def test_entries_go_to_the_log_whatever_else_has_its_name(
    engine: Engine, cluster: Cluster, shadow: str
) -> None:
    before = head(engine)
    with cluster.as_keeper() as keeper:
        keeper.execute("CREATE SCHEMA hornfels_application AUTHORIZATION hornfels_application")
    try:
        with Session(engine) as session, session.begin():
            session.execute(text(f"CREATE TABLE {shadow} (LIKE public.trail)"))
            permanent = () if shadow.startswith("pg_temp") else (shadow,)
            assert log_table(session).others == permanent
            trail.note(session, "counted")
        assert head(engine) == before + 1
        with Session(engine) as session:
            assert session.scalar(text("SELECT what FROM trail ORDER BY id DESC")) == "counted"
    finally:
        with cluster.as_keeper() as keeper:
            keeper.execute("DROP SCHEMA hornfels_application CASCADE")


@pytest.fixture
def keeper(cluster: Cluster, engine: Engine) -> Any:
    """Whoever owns the trail, behind its back; afterwards it is as it was."""
    with Session(engine) as session, session.begin():
        for number in range(6):
            trail.note(session, "counted", f"sheep {number}", reason="a reason")
    with cluster.as_keeper() as connection:
        connection.execute("CREATE TEMPORARY TABLE kept AS SELECT * FROM trail")
        yield connection
        connection.execute("ALTER TABLE trail DISABLE TRIGGER trail_chained")
        connection.execute("DELETE FROM trail")
        connection.execute("DELETE FROM trail_stumps")
        connection.execute("INSERT INTO trail SELECT * FROM kept")
        connection.execute("ALTER TABLE trail ENABLE TRIGGER trail_chained")


@pytest.mark.parametrize(
    ("statement", "words"),
    [
        ("UPDATE trail SET person = 'x' WHERE id = {n}", "Entry {n} was changed"),
        ("UPDATE trail SET at = at + interval '1 microsecond' WHERE id = {n}", "Entry {n} was"),
        ("UPDATE trail SET detail = detail || ' ' WHERE id = {n}", "Entry {n} was changed"),
        ("UPDATE trail SET digest = sha256('x') WHERE id = {n}", "Entry {n} was changed"),
        ("DELETE FROM trail WHERE id = {n}", "Entry {n} is missing"),
        (
            "DELETE FROM trail WHERE id = {n}; UPDATE trail SET id = id - 1 WHERE id > {n}",
            "Entry {n} was changed",
        ),
    ],
)
def test_an_entry_that_was_changed_or_taken_out_is_named(
    engine: Engine, keeper: psycopg.Connection, statement: str, words: str
) -> None:
    assert whole(engine) == ""
    number = head(engine) - 3
    keeper.execute(statement.format(n=number))
    assert words.format(n=number) in whole(engine)


def test_entries_cut_off_at_the_end_show_against_what_was_kept(
    engine: Engine, keeper: psycopg.Connection
) -> None:
    number = head(engine)
    with Session(engine) as session:
        kept = trail.digest_at(session, number)
        keeper.execute(f"DELETE FROM trail WHERE id > {number - 2}")
        assert whole(engine) == ""
        assert trail.digest_at(session, number) is None
        assert kept


def test_old_entries_go_by_command_and_leave_a_signed_stump(
    engine: Engine, keeper: psycopg.Connection
) -> None:
    with Session(engine) as session:
        count = session.scalar(select(func.count()).select_from(EntryRow))
    later = datetime.now(UTC) + timedelta(seconds=1)
    assert pruning.prune(keeper, datetime(2020, 1, 1, tzinfo=UTC), "root", "r", KEY) == 0
    assert pruning.prune(keeper, later, "root", "over a year", KEY) == count
    assert whole(engine) == ""
    with Session(engine) as session, session.begin():
        trail.note(session, "counted")
    assert whole(engine) == ""
    with Session(engine) as session:
        first, second = session.scalars(select(EntryRow).order_by(EntryRow.id))
    assert (first.what, json.loads(first.detail)) == ("trail pruned", {"reason": "over a year"})
    assert second.previous == first.digest
    keeper.execute("UPDATE trail_stumps SET cut_by = 'somebody else'")
    assert "not signed" in whole(engine)


def test_an_entry_of_what_was_not_done_is_not_there(engine: Engine) -> None:
    before = head(engine)
    with Session(engine) as session:
        trail.head(session)
        trail.note(session, "never")
        session.rollback()
        session.commit()
    assert head(engine) == before
