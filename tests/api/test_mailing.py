"""People under the policies are written to: once, in their language, through a real mail server."""

from __future__ import annotations

import io
import ssl
from collections.abc import Iterator
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any
from urllib.parse import quote

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import Engine, update
from sqlalchemy.orm import Session

from api_help import DOMAIN, DRAFT, holding, policy, work_off
from directory_server import certified
from hornfels.core.values.time import moment_from_datetime
from hornfels.demo.tarnholt import entries
from hornfels.formats.dump import Dump, load_dump
from hornfels.formats.ldif import write
from hornfels.service import mailing
from hornfels.settings import read_settings
from hornfels.store.cluster import Cluster
from hornfels.store.models import JobRow, LetterRow, MailingRow
from mail_servers import MailServer, killed_while_handing_over, mail_server, use, use_none

MAILING = f"{DOMAIN}/mailing"
GIVEN: dict[str, Any] = {
    "on": True,
    "kinds": ["expiring", "expired", "must change", "locked", "exposed", "policy changed"],
    "days": [14, 7, 1],
    "by_policy": {},
    "quiet_from": "00:00",
    "quiet_until": "00:00",
    "zone": "UTC",
    "page": "https://hornfels.tarnholt.example/you",
}


@pytest.fixture(scope="module")
def today() -> Dump:
    """The demo's domain as it is today."""
    return load_dump(io.BytesIO(b"".join(write(entries(datetime.now(UTC))))), other_names=True)


@pytest.fixture
def client(engine: Engine, today: Dump) -> Iterator[TestClient]:
    with holding(engine, today) as client:
        yield client


def chosen(client: TestClient, **more: Any) -> Any:
    version = client.get(MAILING).json()["version"]
    mailing = {**GIVEN, **more}
    host = str(mailing.get("page", "")).partition("://")[2].partition("/")[0]
    body = {"mailing": mailing, "version": version, "reason": "So that they know"}
    return client.put(MAILING, json={**body, "confirmed_host": host})


def planned(client: TestClient, **more: Any) -> Any:
    found = client.post(f"{MAILING}/planned", json={"mailing": {**GIVEN, **more}})
    assert found.status_code == 200, found.text
    return found.json()


def written(client: TestClient, engine: Engine) -> str:
    """Have everybody written to who is due; what came of it."""
    assert client.post(f"{MAILING}/now").status_code == 204
    work_off(engine)
    told: str = client.get(MAILING).json()["told"]
    return told


def listed(client: TestClient, account: str = "") -> list[dict[str, Any]]:
    found: list[dict[str, Any]] = client.get(
        f"{MAILING}/letters", params={"account": account}
    ).json()
    return found


def test_whoever_is_due_is_written_to_once(
    client: TestClient, engine: Engine, server: MailServer
) -> None:
    before = planned(client)
    assert before["people"] > 100
    assert {one["kind"] for one in before["by_kind"]} == {"expiring"}, "nothing else is news"
    assert server.came == []
    assert chosen(client).status_code == 200
    assert f"{before['people']:,} handed over." in written(client, engine)
    assert len(server.came) == len(set(server.to())) == before["people"]
    assert written(client, engine) == mailing.NOBODY
    assert len(server.came) == before["people"]
    assert client.get(MAILING).json()["lately"] == {"sent": before["people"]}
    letter = server.came[0]
    assert letter["From"] == "Passwords <passwords@tarnholt.example>"
    assert letter["Auto-Submitted"] == "auto-generated"
    plain, html = letter.get_body(("plain",)), letter.get_body(("html",))
    assert plain
    assert html
    assert "https://hornfels.tarnholt.example/you" in plain.get_content()
    assert '<html lang="' in html.get_content()
    # Everybody in the language they prefer, where there are texts in it.
    german = {str(one["To"]) for one in server.came if one["Content-Language"] == "de"}
    assert german >= {one["address"] for one in before["first"] if one["language"] == "de"}
    assert 0 < len(german) < len(server.came) / 2
    assert any("Ihr Passwort endet" in str(one["Subject"]) for one in server.came)


@pytest.mark.thorough
def test_several_things_are_one_letter(
    client: TestClient, engine: Engine, server: MailServer
) -> None:
    first = planned(client)["first"][0]
    assert chosen(client, kinds=["locked"]).status_code == 200
    with engine.begin() as connection:
        connection.exec_driver_sql(
            "UPDATE accounts SET lockout_time = %s WHERE name = %s",
            (moment_from_datetime(datetime.now(UTC)), first["account"]),
        )
        connection.exec_driver_sql("UPDATE domains SET version = version + 1")
    assert chosen(client).status_code == 200
    written(client, engine)
    (letter,) = [one for one in server.came if str(one["To"]) == first["address"]]
    (row,) = listed(client, first["account"])
    assert sorted(row["about"]) == ["expiring", "locked"]
    assert "2 " in str(letter["Subject"])


@pytest.mark.thorough
def test_what_the_server_says_is_kept_and_followed(
    client: TestClient, engine: Engine, server: MailServer
) -> None:
    never, later, *_ = planned(client)["first"]
    server.says = {
        never["address"]: "550 No such mailbox here",
        later["address"]: "451 Come back later",
    }
    chosen(client)
    told = written(client, engine)
    assert "1 refused by the mail server" in told
    assert "1 to be tried again" in told
    (refused,) = listed(client, never["account"])
    assert (refused["state"], "No such mailbox here" in refused["told"]) == ("refused", True)
    server.says = {}
    assert written(client, engine) == "1 handed over."
    assert server.to().count(later["address"]) == 1
    # Somebody has mended the address.
    assert client.post(f"{MAILING}/letters/{refused['id']}/again").status_code == 204
    work_off(engine)
    assert server.to().count(never["address"]) == 1
    assert client.post(f"{MAILING}/letters/{refused['id']}/again").status_code == 409
    # One that is never taken is given up in the end.
    with Session(engine) as session, session.begin():
        session.execute(update(LetterRow).values(state="waiting", tries=mailing.MOST_TRIES - 1))
    server.says = dict.fromkeys(server.to(), "452 Full")
    assert "refused by the mail server" in written(client, engine)


@pytest.mark.thorough
def test_a_server_that_is_away_loses_no_letter(
    client: TestClient, engine: Engine, monkeypatch: pytest.MonkeyPatch
) -> None:
    use_none(monkeypatch)
    chosen(client)
    many = planned(client)["people"]
    told = written(client, engine)
    assert "does not answer" in told
    assert f"{many:,} of {many:,} letters wait." in told
    assert planned(client)["people"] == 0, "what is made is not made once more"
    with mail_server() as back:
        use(back, monkeypatch)
        assert written(client, engine) == f"{many:,} handed over."
        assert len(set(back.to())) == many


@pytest.mark.thorough
def test_a_letter_that_waited_says_what_is_so_by_then(
    client: TestClient, engine: Engine, monkeypatch: pytest.MonkeyPatch
) -> None:
    one, *_ = planned(client)["first"]
    with mail_server() as server:
        use(server, monkeypatch)
        chosen(client)
    written(client, engine)
    with engine.begin() as connection:
        connection.exec_driver_sql(
            "UPDATE accounts SET password_set = password_set + 600000000 WHERE name = %s",
            (one["account"],),
        )
        connection.exec_driver_sql("UPDATE domains SET version = version + 1")
    with mail_server() as back:
        use(back, monkeypatch)
        written(client, engine)
        states = [row["state"] for row in listed(client, one["account"])]
        assert "dropped" in states
        assert back.to().count(one["address"]) == states.count("sent")


@pytest.mark.thorough
def test_who_is_killed_in_the_middle_sends_nothing_twice(
    client: TestClient, engine: Engine, cluster: Cluster, server: MailServer
) -> None:
    many = planned(client)["people"]
    chosen(client)

    def begin() -> int:
        return client.post(f"{MAILING}/now").status_code

    killed_while_handing_over(cluster, engine, server, begin, "mailing")
    assert client.get(MAILING).json()["told"] == f"{many - 1:,} handed over."
    assert len(server.came) == len(set(server.to())) == many
    (uncertain,) = [row for row in listed(client) if row["state"] == "uncertain"]
    assert "may have gone" in uncertain["told"]


@pytest.mark.thorough
def test_over_tls_and_signed_in(
    client: TestClient, engine: Engine, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    ca, certificate, key = (tmp_path / name for name in ("ca.pem", "cert.pem", "key.pem"))
    certified(ca, tmp_path / "ca-key.pem", "Observatory authority")
    certified(certificate, key, "localhost", by=(ca, tmp_path / "ca-key.pem"))
    context = ssl.SSLContext(ssl.PROTOCOL_TLS_SERVER)
    context.load_cert_chain(certificate, key)
    test = {"mailing": GIVEN, "address": "help@tarnholt.example"}
    with mail_server(context, {"hornfels": "Relay-Secret-9"}) as server:
        use(server, monkeypatch, "starttls")
        monkeypatch.setenv("HORNFELS_SMTP_NAME", "hornfels")
        monkeypatch.setenv("HORNFELS_SMTP_SECRET", "wrong")
        untrusted = client.post(f"{MAILING}/test", json=test)
        assert (untrusted.status_code, "not trusted" in untrusted.text) == (409, True)
        monkeypatch.setenv("HORNFELS_SMTP_AUTHORITIES", str(ca))
        wrong = client.post(f"{MAILING}/test", json=test)
        assert "does not take the name or the secret" in wrong.text
        monkeypatch.setenv("HORNFELS_SMTP_SECRET", "Relay-Secret-9")
        assert client.post(f"{MAILING}/test", json=test).status_code == 204
        (letter,) = server.came
        assert str(letter["Subject"]).startswith("Test: ")
        chosen(client)
        assert "handed over." in written(client, engine)
    assert "Relay-Secret-9" not in client.get(MAILING).text
    assert "Relay-Secret-9" not in client.get("/api/trail").text


def test_other_rules_are_told_to_whom_they_concern(
    client: TestClient, engine: Engine, server: MailServer
) -> None:
    assert client.post(f"{DOMAIN}/drafts", json={}).json()["id"] == 1
    assert client.get(f"{DRAFT}/draft/preview").json()["written_to"] is None
    chosen(client, kinds=["policy changed"])
    assert written(client, engine) == mailing.NOBODY
    night = policy(client, "Night operators")
    settings = {"min_length": 19, "max_age": 20 * 86_400.0}
    longer = {"version": night["version"], "settings": settings}
    assert client.patch(f"{DRAFT}/policies/{night['guid']}", json=longer).status_code == 200
    version = client.get(f"{DRAFT}/draft").json()["version"]
    assert written(client, engine) == mailing.NOBODY, "a draft holds for nobody"
    expected = client.get(f"{DRAFT}/draft/preview").json()["written_to"]
    done = client.post(f"{DRAFT}/draft/publish", json={"version": version})
    assert done.status_code == 200, done.text
    assert "handed over." in written(client, engine)
    assert len(server.came) == expected > 0
    texts = [str(one.get_body(("plain",)).get_content()) for one in server.came]  # type: ignore[union-attr]
    assert all("19" in text for text in texts)
    ended = [text for text in texts if "the one you have has ended" in text]
    assert 0 < len(ended) < len(texts)
    assert not any("stays good" in text for text in ended)
    assert written(client, engine) == mailing.NOBODY


def test_own_texts_come_first_and_do_nothing_but_fill_in(
    client: TestClient, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, server: MailServer
) -> None:
    assert server
    own = tmp_path / "en" / "locked.txt"
    own.parent.mkdir()
    monkeypatch.setenv("HORNFELS_LETTERS", str(tmp_path))
    asked = {"mailing": GIVEN, "account": "ilse.varga", "kind": "locked", "language": "en"}

    def sample() -> Any:
        return client.post(f"{MAILING}/sample", json=asked)

    own.write_text("Subject: Locked out, {{ name }}\n\nRing 4711.\n\n- one\n- two\n")
    found = sample().json()
    assert found["subject"].startswith("Locked out, ")
    at = found["lines"].index("Ring 4711.")
    assert found["lines"][at : at + 4] == ["Ring 4711.", "", "- one", "- two"]
    for wrong, said in (
        ("{{ name.__class__.__mro__ }}", "unsafe"),
        ("{{ colour }}", "colour"),
        ("{% for %}", "line 3"),
        ("{{ name.format }}", "Subject"),
    ):
        head = "" if said == "Subject" else "Subject: S\n\n"
        own.write_text(head + wrong)
        refused = sample()
        assert (refused.status_code, "locked.txt" in refused.text) == (409, True), wrong
        assert said in refused.text
        assert chosen(client).status_code == 409, "nothing begins with a text that cannot be used"


def test_a_letter_is_looked_at_as_mail_programs_show_it(
    client: TestClient, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    own = tmp_path / "en" / "locked.txt"
    own.parent.mkdir()
    own.write_text("Subject: Locked\n\n<script>{{ account }}</script>")
    monkeypatch.setenv("HORNFELS_LETTERS", str(tmp_path))
    page = "https://hornfels.tarnholt.example/you"
    asked = {"account": "ilse.varga", "kind": "locked", "language": "en", "page": page}
    seen = client.get(f"{MAILING}/sample", params={**asked, "days": [3, 1]})
    assert (seen.status_code, seen.headers["content-type"]) == (200, "text/html; charset=utf-8")
    assert "<h1" in seen.text
    assert "&lt;script&gt;ilse.varga" in seen.text
    assert page in seen.text
    policy = seen.headers["content-security-policy"]
    assert policy.startswith("default-src 'none'; style-src 'unsafe-inline'; sandbox")
    for wrong in (
        {"account": "nobody"},
        {"zone": "Mars/Olympus"},
        {"days": ["400"]},
        {"more": "1"},
    ):
        refused = client.get(f"{MAILING}/sample", params={**asked, **wrong})
        assert refused.status_code == 422, wrong
        assert "sandbox" not in refused.headers["content-security-policy"]
    assert client.get(f"{MAILING}/mailbox/1").status_code == 404
    monkeypatch.setenv("HORNFELS_MAILBOX", str(tmp_path))
    for name in ("1", "../en/locked", "*"):
        assert client.get(f"{MAILING}/mailbox/{quote(name, safe='')}").status_code == 404


def test_what_cannot_be_chosen_is_said(client: TestClient, server: MailServer) -> None:
    assert server
    for field, value in (
        ("days", [0]),
        ("days", [1] * 7),
        ("by_policy", {"nothing": [1]}),
        ("quiet_from", "25:00"),
        ("zone", "Mars/Olympus"),
        ("zone", "../../etc/passwd"),
        ("page", "javascript:alert(1)"),
    ):
        refused = chosen(client, **{field: value})
        assert refused.status_code == 422, (field, value)
        assert field in refused.json()["detail"][0]["field"]
    assert chosen(client).status_code == 200
    stale = {"mailing": GIVEN, "version": 0, "reason": "r"}
    assert client.put(MAILING, json=stale).status_code == 409
    nobody = {"mailing": GIVEN, "account": "nobody", "kind": "locked"}
    assert client.post(f"{MAILING}/sample", json=nobody).status_code == 422
    somewhere = {"mailing": GIVEN, "address": "help@tarnholt.example\r\nBcc: all@x.example"}
    assert client.post(f"{MAILING}/test", json=somewhere).status_code == 422


def test_nobody_is_written_to_by_night_nor_without_a_server(
    client: TestClient, engine: Engine, monkeypatch: pytest.MonkeyPatch, server: MailServer
) -> None:
    assert server
    noon = datetime.now(UTC).replace(hour=12, minute=0)
    chosen(client, quiet_from="20:00", quiet_until="07:00")

    def begun(at: datetime) -> bool:
        with Session(engine) as session:
            mailing.begin_due(session, at, read_settings())
            return bool(session.new) or session.query(JobRow).count() > 0

    assert not begun(noon.replace(hour=23))
    assert not begun(noon.replace(hour=3))
    assert begun(noon)
    with Session(engine) as session, session.begin():
        session.execute(update(MailingRow).values(looked_at=noon))
    assert not begun(noon + timedelta(minutes=5))
    assert begun(noon + timedelta(minutes=20))
    monkeypatch.delenv("HORNFELS_SMTP_HOST")
    assert not begun(noon + timedelta(minutes=20))
    assert "No mail server is set" in client.get(MAILING).json()["trouble"]
    assert chosen(client).status_code == 409
