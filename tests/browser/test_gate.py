"""The gate in the browser: who may ask, what came of it, what becomes of passwords on their day."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect
from sqlalchemy import Engine, update
from sqlalchemy.orm import Session

from browser_help import DOMAIN
from hornfels.core.values.time import DAY
from hornfels.store.models import DomainRow

pytestmark = [pytest.mark.browser, pytest.mark.opens("sources")]


def test_a_caller_is_let_in_asks_and_is_taken_out(page: Page) -> None:
    page.get_by_role("region", name="Gate").get_by_role("button", name="Gate …").click()
    who = page.get_by_role("region", name="Who asks")
    expect(who).to_contain_text("judged here only")
    name = who.get_by_label("What it is called")
    name.fill("dc1")
    # What is typed is there when one comes back.
    page.get_by_role("button", name="Close panel").click()
    page.get_by_role("button", name="Gate …").click()
    expect(name).to_have_value("dc1")
    who.get_by_label("Reason").fill("A new server")
    name.press("Enter")
    token = who.locator("code").filter(has_text=re.compile("^hfg_"))
    expect(token).to_be_visible()
    expect(name).to_have_value("")
    expect(who).to_contain_text("It has not asked yet")
    name.fill("DC1")
    who.get_by_label("Reason").fill("Once more")
    name.press("Enter")
    expect(who.get_by_role("alert")).to_contain_text("already")

    by = {"Authorization": f"Bearer {token.inner_text()}"}
    for account, candidate in (
        ("ilse.varga", "Ilse.Varga-2031"),
        ("tarek.okonjo", "Zq7-umbra-mosaic"),
    ):
        asked = {"account": account, "operation": "reset", "candidate": candidate}
        answer = page.request.post("/api/gate/v1/check", data=asked, headers=by)
        assert answer.ok
    page.reload()
    record = page.get_by_role("region", name="What came of it")
    expect(record).to_contain_text("ilse.varga ✕ refused: Own name inside")
    record.get_by_label("Answers about this account").fill("tarek.okonjo")
    expect(record).to_contain_text("tarek.okonjo ✓ accepted")
    expect(record).not_to_contain_text("ilse.varga")

    who.get_by_role("button", name="Take out dc1").click()
    page.get_by_label("Why").fill("Replaced")
    page.get_by_label("Why").press("Enter")
    expect(who).to_contain_text("Nobody yet")
    expect(page.locator(":focus")).to_have_count(1)


def test_days_are_shown_and_enforced_only_where_somebody_writes(page: Page, engine: Engine) -> None:
    bands = {"bands": [{"length": 8, "lifetime": 60 * DAY}]}
    with Session(engine) as session, session.begin():
        session.execute(update(DomainRow).values(addition=bands, version=DomainRow.version + 1))
    page.goto(f"{DOMAIN}/accounts?account=Administrator")
    password = page.get_by_role("region", name="Password")
    expect(password).to_contain_text("Set")
    # Somebody has to be able to sign in, whatever comes of it.
    expect(password).not_to_contain_text("by its length")
    page.goto(f"{DOMAIN}/accounts?account=aiko.brekkeland")
    expect(password).to_contain_text(
        re.compile(r"Ends \d+ \w+ \d+ by its length: .* not set through")
    )
    page.goto(f"{DOMAIN}/sources?gate={DOMAIN[1:]}")
    lifetimes = page.get_by_role("region", name="Lifetimes by length")
    expect(lifetimes).to_contain_text(re.compile(r"[\d,]+ passwords end by a band. Of 0 the gate"))
    lifetimes.get_by_role("radio", name="has to be changed").click()
    expect(lifetimes).to_contain_text("△ To have them changed")
    expect(lifetimes.get_by_label("Why")).to_have_count(0)
    lifetimes.get_by_role("radio", name="is only shown").click()
    spared = lifetimes.get_by_label("Never for the built-in administrator")
    spared.fill("ilse.varga, nobody.here")
    page.reload()
    expect(spared).to_have_value("ilse.varga, nobody.here")
    lifetimes.get_by_label("Why").fill("They hold the keys")
    lifetimes.get_by_role("button", name="Save").click()
    expect(lifetimes.get_by_role("alert")).to_contain_text("There is no account “nobody.here”")
    spared.fill("ilse.varga")
    lifetimes.get_by_label("Why").press("Enter")
    expect(lifetimes.get_by_label("Why")).to_have_count(0)
    expect(spared).to_have_value("ilse.varga")
    expect(page.locator(":focus")).to_have_count(1)
