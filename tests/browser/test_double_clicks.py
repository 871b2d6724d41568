"""Each button that writes is double-clicked on a slow line: the server writes once."""

from __future__ import annotations

import re
from collections import Counter

import pytest
from playwright.sync_api import Locator, Page, expect
from sqlalchemy import Engine, select
from sqlalchemy.orm import Session

from browser_help import DOMAIN
from hornfels.store.models import EntryRow

pytestmark = pytest.mark.browser

LATENCY = 400
"""Milliseconds that each answer takes."""


class Clicks:
    """Double clicks, each compared with what the audit log has of it."""

    def __init__(self, page: Page, engine: Engine) -> None:
        self.page, self.engine = page, engine

    def _entries(self) -> list[EntryRow]:
        with Session(self.engine, expire_on_commit=False) as session:
            return list(session.scalars(select(EntryRow).order_by(EntryRow.id)))

    def double(self, button: Locator, done: Locator, count: int = 1) -> None:
        """Double-click a button; once `done` is there, `count` times, one entry tells of it."""
        before = len(self._entries())
        button.dblclick()
        expect(done).to_have_count(count)
        # Whatever the second click sent has its answer by then.
        self.page.wait_for_load_state("networkidle")
        written = Counter((one.what, one.detail) for one in self._entries()[before:])
        assert written, f"{button} writes nothing"
        assert set(written.values()) == {1}, written

    def button(self, name: str) -> Locator:
        return self.page.get_by_role("button", name=name, exact=True)


@pytest.fixture
def clicks(page: Page, engine: Engine) -> Clicks:
    session = page.context.new_cdp_session(page)
    session.send("Network.enable")
    session.send(
        "Network.emulateNetworkConditions",
        {
            "offline": False,
            "latency": LATENCY,
            "downloadThroughput": -1,
            "uploadThroughput": -1,
        },
    )
    return Clicks(page, engine)


@pytest.mark.thorough
def test_drafts(clicks: Clicks) -> None:
    page, button = clicks.page, clicks.button
    page.get_by_role("button", name=re.compile(r"^\d+ Night operators")).click()
    page.get_by_label("Minimum length", exact=True).fill("16")
    clicks.double(button("Save to draft"), page.locator("#review-draft"))
    button("+ Policy").click()
    page.get_by_label("Name", exact=True).fill("Library readers")
    clicks.double(button("Create"), page.get_by_role("heading", name="Library readers", level=2))
    page.get_by_role("switch", name="Guarded against deletion").click()
    expect(button("Delete")).to_be_enabled()
    button("Delete").click()
    clicks.double(
        button("Delete Library readers"),
        page.get_by_role("button", name=re.compile(r"^\d+ Library readers")),
        count=0,
    )
    page.get_by_role("link", name="Changes", exact=True).click()
    page.get_by_label("Reason").fill("The night crew asked")
    page.get_by_label("Reason").blur()
    button("Publish …").click()
    clicks.double(button("Publish now"), button("Take back in a draft"))
    clicks.double(button("Take back in a draft"), page.get_by_role("radio", name="This draft"))
    clicks.double(
        page.get_by_role("button", name=re.compile("^Take out: Night operators")),
        page.get_by_text("Nothing is changed in this draft yet."),
    )
    button("Drop the draft").click()
    clicks.double(button("Drop it for good"), page.get_by_text("No draft is open."))
    page.get_by_label("New draft").fill("Winter")
    clicks.double(button("Open"), page.get_by_text("Nothing is changed in this draft yet."))


@pytest.mark.opens("accounts?view=locked")
def test_accounts(clicks: Clicks) -> None:
    page, button = clicks.page, clicks.button
    page.get_by_label("All of them").check()
    page.get_by_label("Reason").fill("Called in and was recognised")
    record = page.get_by_role("link", name="Change record (LDIF)")
    clicks.double(page.get_by_role("button", name=re.compile("^Unlock")), record)
    page.goto(f"{DOMAIN}/accounts?account=ilse.varga")
    button("Have the password changed …").click()
    page.get_by_label("Why", exact=True).fill("On a note at the dome")
    clicks.double(button("Have it changed"), record)


@pytest.mark.opens("strata?policy=findings")
def test_findings_and_trials(clicks: Clicks) -> None:
    page, button = clicks.page, clicks.button
    panel = page.get_by_role("complementary", name="Details")
    panel.get_by_role("button", name="Accept …").first.click()
    panel.get_by_label("Reason").fill("Known to the board")
    clicks.double(
        panel.get_by_role("button", name="Accept", exact=True),
        panel.get_by_role("radio", name="Accepted 1"),
    )
    page.keyboard.press("Escape")
    page.get_by_role("combobox", name="Account or policy to try it on").fill("kiosk-north")
    page.get_by_role("option", name=re.compile("^kiosk-north")).first.click()
    page.get_by_label("Candidate password", exact=True).fill("40719")
    button("Keep as trial …").click()
    form = page.get_by_role("dialog", name="Keep as a trial")
    form.get_by_label("What it guards").fill("No digits alone")
    form.get_by_label("This candidate is invented; nobody uses it").check()
    clicks.double(form.get_by_role("button", name="Keep the trial"), form, count=0)


@pytest.mark.opens("people")
def test_users(clicks: Clicks) -> None:
    page, button = clicks.page, clicks.button
    page.get_by_label("Name to sign in with").fill("dora")
    clicks.double(button("Add somebody"), page.get_by_role("heading", name="dora", level=2))
    row = page.get_by_role("row", name=re.compile("^dora"))
    page.get_by_label("Why", exact=True).fill("Joins the night crew")
    clicks.double(button("Give it"), row.filter(has_text="viewer"))
    page.get_by_label("Why", exact=True).fill("Left again")
    clicks.double(button("Shut out"), row.filter(has_text="shut out"))
    page.goto(f"{DOMAIN}/own")
    page.get_by_label("What the token is for").fill("nightly export")
    clicks.double(button("Make a token"), button("I have it"))
    button("I have it").click()
    tokens = page.get_by_role("region", name="Tokens").get_by_role("listitem")
    clicks.double(tokens.get_by_role("button", name="Drop"), tokens, count=0)
