"""Reports that come by mail by themselves, through a real mail server."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from typing import Any

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import Engine, select
from sqlalchemy.orm import Session

from api_help import DOMAIN, edit, policy, work_off
from hornfels.service import report_orders
from hornfels.service.mailing import AGAIN
from hornfels.settings import read_settings
from hornfels.store.cluster import Cluster
from hornfels.store.models import JobRow, ReportOrderRow
from mail_servers import MailServer, killed_while_handing_over, mail_server, use, use_none

ORDER = f"{DOMAIN}/report-order"
CHIEF, AUDIT = "chief@tarnholt.example", "audit@tarnholt.example"
GIVEN: dict[str, Any] = {
    "on": True,
    "to": [CHIEF, AUDIT],
    "every": "week",
    "day": 3,
    "at": "07:00",
    "zone": "UTC",
    "baselines": ["privileged"],
}


def ordered(client: TestClient, **more: Any) -> Any:
    version = client.get(ORDER).json()["version"]
    body = {"order": {**GIVEN, **more}, "version": version, "reason": "The auditors want it"}
    return client.put(ORDER, json=body)


def copies(client: TestClient) -> dict[str, str]:
    return {one["to"]: one["state"] for one in client.get(ORDER).json()["copies"]}


def begun(engine: Engine, at: datetime) -> datetime | None:
    """Which report a worker begins to send at a moment."""
    with Session(engine) as session, session.begin():
        report_orders.begin_due(session, at, read_settings())
        job = session.scalars(select(JobRow).where(JobRow.state == "queued")).one_or_none()
        found = datetime.fromisoformat(job.arguments["due"]) if job else None
        session.rollback()
    return found


def test_a_report_comes_to_everybody_with_what_is_most_worth_knowing(
    client: TestClient, engine: Engine, server: MailServer
) -> None:
    edit(client, policy(client, "Night operators"), settings={"min_length": 23})
    assert ordered(client).status_code == 200
    with Session(engine) as session, session.begin():
        row = session.scalars(select(ReportOrderRow)).one()
        # A file of one's own that is gone by then.
        row.settings = {**row.settings, "baselines": ["privileged", "harbour"]}
    assert client.post(f"{ORDER}/now").status_code == 204
    assert client.post(f"{ORDER}/now").status_code == 409, "one is on its way"
    work_off(engine)
    told = client.get(ORDER).json()
    assert (told["told"], copies(client)) == ("2 handed over.", {CHIEF: "sent", AUDIT: "sent"})
    assert sorted(server.to()) == [AUDIT, CHIEF]
    letter = server.came[0]
    body = letter.get_body(("plain",))
    assert body
    assert "1,184 accounts under 9 policies" in body.get_content()
    assert "It comes every week;" in body.get_content()
    assert "no longer held against harbour:" in body.get_content()
    (report,) = letter.iter_attachments()
    assert str(report.get_filename()).startswith("sky.tarnholt.example-")
    page = report.get_content()
    for part in (
        "What is to come",
        "Privileged accounts, strict",
        "Tries within a password’s life",
    ):
        assert part in page
    assert "23 characters" not in page, "a draft holds for nobody"
    said = [entry["what"] for entry in client.get("/api/trail").json()["entries"]]
    assert {"report ordered", "report at once", "report handed over"} <= set(said)


def test_one_is_sent_when_it_is_due_and_not_before(
    client: TestClient, engine: Engine, server: MailServer
) -> None:
    assert server
    ordered(client, on=False)
    later = datetime.now(UTC) + timedelta(days=30)
    assert begun(engine, later) is None, "none is ordered"
    assert client.get(ORDER).json()["next"] is None
    ordered(client)
    coming = datetime.fromisoformat(client.get(ORDER).json()["next"])
    assert (coming.isoweekday(), coming.hour) == (3, 7)
    assert begun(engine, coming - timedelta(minutes=1)) is None, "what was due before is past"
    assert begun(engine, coming) == coming
    assert begun(engine, coming + timedelta(days=20)) == coming + timedelta(days=14), "the last"
    with Session(engine) as session, session.begin():
        report_orders.begin_due(session, coming, read_settings())
    ordered(client, on=False)
    work_off(engine)
    assert client.get(ORDER).json()["copies"] == [], "by then it is not wanted any more"
    ordered(client)
    with Session(engine) as session, session.begin():
        session.scalars(select(ReportOrderRow)).one().due = coming
    assert begun(engine, coming + timedelta(days=6)) is None


def test_what_a_server_does_not_take_is_said_and_tried_again_where_it_may(
    client: TestClient, engine: Engine, server: MailServer
) -> None:
    server.says = {CHIEF: "451 Try later", AUDIT: "550 Nobody here"}
    ordered(client)
    client.post(f"{ORDER}/now")
    work_off(engine)
    told = client.get(ORDER).json()
    assert told["told"] == "1 refused, 1 tried again later."
    assert [one["told"] for one in told["copies"]] == [
        "The mail server said: 451 Try later",
        "The mail server said: 550 Nobody here",
    ]
    now = datetime.now(UTC)
    assert begun(engine, now) is None
    server.says = {}
    due = begun(engine, now + AGAIN)
    assert due == datetime.fromisoformat(told["due"])
    with Session(engine) as session, session.begin():
        report_orders.begin_due(session, now + AGAIN, read_settings())
    work_off(engine)
    assert copies(client) == {CHIEF: "sent", AUDIT: "refused"}
    assert server.to() == [CHIEF]


@pytest.mark.thorough
def test_a_worker_that_is_killed_while_it_hands_over_sends_nothing_twice(
    client: TestClient, engine: Engine, cluster: Cluster, server: MailServer
) -> None:
    ordered(client)

    def begin() -> int:
        return client.post(f"{ORDER}/now").status_code

    killed_while_handing_over(cluster, engine, server, begin, "report")
    assert copies(client) == {CHIEF: "uncertain", AUDIT: "sent"}
    assert sorted(server.to()) == [AUDIT, CHIEF]


def test_a_server_that_is_away_loses_nothing(
    client: TestClient, engine: Engine, monkeypatch: pytest.MonkeyPatch
) -> None:
    use_none(monkeypatch)
    ordered(client)
    client.post(f"{ORDER}/now")
    work_off(engine)
    told = client.get(ORDER).json()
    assert "does not answer" in told["told"]
    assert set(copies(client).values()) == {"waiting"}
    with mail_server() as back:
        use(back, monkeypatch)
        with Session(engine) as session, session.begin():
            at = datetime.now(UTC) + AGAIN
            report_orders.begin_due(session, at, read_settings())
        work_off(engine)
        assert len(back.came) == 2


def test_what_cannot_be_ordered_is_said(client: TestClient, server: MailServer) -> None:
    assert server
    for field, value in (
        ("to", ["nowhere"]),
        ("to", []),
        ("to", [CHIEF, CHIEF.upper()]),
        ("to", [f"{CHIEF}\r\nBcc: all@x.example"]),
        ("to", [f"a{number}@tarnholt.example" for number in range(51)]),
        ("day", 8),
        ("day", 0),
        ("at", "7"),
        ("zone", "../../etc/passwd"),
        ("baselines", ["none of ours"]),
    ):
        refused = ordered(client, **{field: value})
        assert refused.status_code == 422, (field, value)
        assert refused.json()["detail"][0]["field"] == field
    assert ordered(client, every="month", day=28).status_code == 200
    stale = {"order": GIVEN, "version": 0, "reason": "r"}
    assert client.put(ORDER, json=stale).status_code == 409


def test_nothing_is_ordered_without_a_mail_server(client: TestClient) -> None:
    assert "No mail server is set" in client.get(ORDER).json()["trouble"]
    assert ordered(client).status_code == 409
    assert client.post(f"{ORDER}/now").status_code == 409
    assert ordered(client, on=False).status_code == 200
