"""Reports: what is in them, for whom it stands alone, and what of a publish is told."""

from __future__ import annotations

import re
from datetime import UTC, datetime
from html.parser import HTMLParser
from typing import Any
from xml.etree import ElementTree

from fastapi.testclient import TestClient
from sqlalchemy import Engine, select
from sqlalchemy.orm import Session

from api_help import DOMAIN, DRAFT, draft_step, edit, policy
from hornfels.core.exposure.known import KINDS
from hornfels.service.snapshots import Snapshots
from hornfels.store import exposure, letters
from hornfels.store.exposure import Exposure
from hornfels.store.letters import About, Draft, State
from hornfels.store.models import LetterRow
from persons import as_user

VOID = {"meta", "br", "path", "rect", "circle", "img", "hr", "input", "link"}


class Page(HTMLParser):
    """A page's text by heading, what it would fetch or run, and whether its tags are closed."""

    def __init__(self, source: str) -> None:
        super().__init__()
        self.open: list[str] = []
        self.parts: dict[str, str] = {"": ""}
        self.reaching: list[str] = []
        self._heading = ""
        self.feed(source)
        self.close()
        assert self.open == []

    def handle_starttag(self, tag: str, attrs: Any) -> None:
        self.reaching += [value for key, value in attrs if key in ("src", "href") and value]
        self.reaching += [tag] if tag in ("script", "iframe", "object", "link") else []
        if tag not in VOID:
            self.open.append(tag)
        if tag in ("h1", "h2"):
            self._heading = ""
            self._naming = True

    def handle_startendtag(self, tag: str, attrs: Any) -> None:
        pass

    def handle_endtag(self, tag: str) -> None:
        if tag in VOID:
            return
        assert self.open.pop() == tag

    def handle_data(self, data: str) -> None:
        if self.open and self.open[-1] in ("h1", "h2"):
            self._heading += data
            self.parts.setdefault(self._heading, "")
        elif self.open and self.open[-1] != "style":
            self.parts[self._heading] = self.parts.get(self._heading, "") + " " + data

    def part(self, heading: str) -> str:
        return re.sub(r"\s+", " ", self.parts[heading])


def report(client: TestClient, path: str = f"{DOMAIN}/report", **asked: Any) -> Page:
    answer = client.get(path, params=asked)
    assert answer.status_code == 200, answer.text
    assert answer.headers["content-type"] == "text/html; charset=utf-8"
    assert answer.headers["content-disposition"].startswith("attachment;")
    page = Page(answer.text)
    assert page.reaching == [], "it stands alone"
    return page


def publish(client: TestClient, length: int, reason: str) -> None:
    edit(client, policy(client, "Night operators"), settings={"min_length": length})
    version = client.get(f"{DRAFT}/draft").json()["version"]
    client.patch(f"{DRAFT}/draft", json={"version": version, "title": "Longer", "reason": reason})
    as_user(client, "ben")
    assert draft_step(client, "approve").status_code == 200
    as_user(client, "ann")
    version = client.get(f"{DRAFT}/draft").json()["version"]
    done = client.post(f"{DRAFT}/draft/publish", json={"version": version})
    assert done.status_code == 200, done.text


def test_a_domain_is_told_of_in_plain_words(client: TestClient) -> None:
    finding = client.get(f"{DOMAIN}/findings").json()["findings"][0]
    until = {"reason": "Until the audit", "until": "2099-01-02"}
    client.post(f"{DOMAIN}/findings/accepted", json={"key": finding["key"], **until})
    page = report(client, baseline=["nist-sp-800-63b-4", "privileged"])
    policies = page.part("Policies, and who is under which")
    for words in (
        "Night operators precedence 30 · 60 accounts",
        "Minimum length 14 characters",
        "Have at least 14 characters.",
        "GS-Dome-Rota Night operators holds here at 30, through their groups",
        "Linked to GU-Phrase-Pilot (a universal group: does not count)",
        "Domain policy · 721 accounts",
        "no fine-grained policy reaches them",
    ):
        assert words in policies
    found = page.part("Findings")
    assert "Accepted by ann until 2 Jan 2099: Until the audit" in found
    assert "NIST SP 800-63B-4, passwords" in page.parts
    assert "✕ not met 33 1,015 0" in page.part("NIST SP 800-63B-4, passwords")
    assert "Night operators" in page.part("Which policy holds where")
    assert "loaded on" in page.part("Changes")
    assert "not live" not in page.part("Password and lockout policies of sky.tarnholt.example")


def test_changes_are_told_with_their_approvals_from_a_day_on(client: TestClient) -> None:
    publish(client, 16, "Agreed in March <b>")
    told = report(client, since="2020-01-01").part("Changes since 1 Jan 2020")
    assert "published on" in told
    assert "by ann, approved by ben Agreed in March <b>" in told
    assert "Minimum length 14 characters 16 characters" in told
    assert report(client, since="2099-01-01").part("Changes since 1 Jan 2099").strip() == "None."


def test_a_draft_says_that_it_is_not_live(client: TestClient) -> None:
    edit(client, policy(client, "Night operators"), settings={"min_length": 17})
    page = report(client, f"{DRAFT}/report")
    head = page.part("Password and lockout policies of sky.tarnholt.example")
    assert "would have it, which is not live" in head
    assert "Have at least 17 characters." in page.part("Policies, and who is under which")


def test_what_is_to_come_is_told_as_the_forecast_has_it(client: TestClient) -> None:
    part = report(client).part("What is to come")
    days = client.get(f"{DOMAIN}/expiries", params={"days": 91}).json()
    by_day = [sum(day) for day in zip(*(one["counts"] for one in days["policies"]), strict=True)]
    weeks = [f"{sum(by_day[at : at + 7]):,}" for at in range(0, 91, 7)]
    assert re.findall(r"from \d+ \w+ \d{4} ([\d,]+)", part) == weeks
    for kind in ("ended", "to_change", "never", "unknown"):
        assert f"{days[kind]:,} " in part
    sheet = client.get(f"{DOMAIN}/burden").json()
    here = next(m for m in sheet["marks"] if (m["kind"], m["key"]) == ("policy", "domain"))
    shown = (here["tries_shown"], here["chance_shown"], here["minutes_shown"])
    assert " ".join(("Domain policy", *shown)) in part


def test_exposure_and_notices_are_told_where_there_are_any(
    client: TestClient, engine: Engine
) -> None:
    before = report(client)
    assert not [one for one in before.parts if one.startswith(("Notices", "Passwords that"))]
    now = datetime.now(UTC)
    with Session(engine) as session, session.begin():
        current = Snapshots(engine).of("sky.tarnholt.example")
        assert current
        accounts = current.estate.accounts
        row = accounts.name.index("ilse.varga")
        rid, set_at = int(accounts.rid[row]), int(accounts.password_set[row])
        found = [
            Exposure(rid, "list", "known", 0, now, set_at),
            Exposure(rid, "blank", "", 0, now, set_at),
        ]
        exposure.keep(session, current.domain_id, found, whole=True)
        counts = dict.fromkeys((*KINDS, "exposed", "groups"), 0)
        exposure.add_run(
            session,
            current.domain_id,
            now,
            whole=True,
            compared=1184,
            unknown=0,
            found=counts,
            stamp={},
        )
        about = (About("expiring", "1:7", 1), About("locked", "2", 1))
        drafts = [Draft(rid, "ilse.varga", f"{n}@tarnholt.example", "en", about) for n in "abc"]
        letters.make(session, current.domain_id, drafts, now)
        states: tuple[State, ...] = ("sent", "sent", "refused")
        for letter, state in zip(session.scalars(select(LetterRow)), states, strict=True):
            letters.become(letter, state, now)
    page = report(client, since=now.date().isoformat())
    assert "Night operators 60 1 1 1 0 0 0" in page.part("Passwords that others know")
    (notices,) = [one for one in page.parts if one.startswith("Notices to people since")]
    told = page.part(notices)
    assert "2 letters handed over to the mail server." in told
    assert "△ 1 refused" in told
    assert "2: the password ends soon 2: the account is locked" in told


def test_a_publish_is_told_of_with_whom_it_hits(client: TestClient) -> None:
    publish(client, 16, "")
    published = client.get(f"{DOMAIN}/history").json()[0]
    page = report(client, f"{DOMAIN}/history/{published['id']}/report")
    assert "approved by ben" in page.part("What was published")
    assert "Minimum length 60 0 0" in page.part("Whom it hits")
    # A later one leaves it as it was.
    assert client.post(f"{DOMAIN}/drafts", json={}).json()["id"] == 2
    place = f"{DOMAIN}~2"
    edit(client, policy(client, "Night operators", place), place, settings={"min_length": 20})
    version = client.get(f"{place}/draft").json()["version"]
    client.post(f"{place}/draft/publish", json={"version": version})
    again = report(client, f"{DOMAIN}/history/{published['id']}/report")
    assert "Minimum length 60 0 0" in again.part("Whom it hits")
    assert "14 characters 16 characters" in again.part("What was published")


def test_who_changes_policy_by_a_publish_is_counted(client: TestClient) -> None:
    edit(client, policy(client, "Night operators"), precedence=4)
    version = client.get(f"{DRAFT}/draft").json()["version"]
    client.post(f"{DRAFT}/draft/publish", json={"version": version})
    published = client.get(f"{DOMAIN}/history").json()[0]
    page = report(client, f"{DOMAIN}/history/{published['id']}/report")
    assert "6 Grants office Night operators" in page.part("Whom it hits")


def test_what_is_no_publish_or_no_baseline_is_refused(client: TestClient) -> None:
    loaded = client.get(f"{DOMAIN}/history").json()[-1]
    answer = client.get(f"{DOMAIN}/history/{loaded['id']}/report")
    assert (answer.status_code, "Nothing was published" in answer.text) == (404, True)
    assert client.get(f"{DOMAIN}/report", params={"baseline": "none"}).status_code == 404
    assert client.get(f"{DOMAIN}/report", params={"since": "soon"}).status_code == 422


def test_the_drawing_stands_alone(client: TestClient) -> None:
    answer = client.get(f"{DRAFT}/strata.svg")
    assert answer.headers["content-type"].startswith("image/svg+xml")
    drawn = ElementTree.fromstring(answer.text)  # noqa: S314 - our own answer
    text = " ".join(part.text or "" for part in drawn.iter("{http://www.w3.org/2000/svg}text"))
    for words in ("Night operators △ tie", "Reaches nobody", "1,184 accounts", "709"):
        assert words in text
    patterns = {one.get("id") for one in drawn.iter("{http://www.w3.org/2000/svg}pattern")}
    assert set(re.findall(r"url\(#(\w+)\)", answer.text)) <= patterns
