"""A shorter maximum age is planned over weeks, begun and stopped in the real interface."""

from __future__ import annotations

import re
from datetime import UTC, datetime

import pytest
from playwright.sync_api import Page, expect
from sqlalchemy import Engine
from sqlalchemy.orm import Session

from api_help import work_off
from browser_help import DOMAIN, SMALLEST, check_accessibility
from hornfels.service import spreading

pytestmark = pytest.mark.browser


def test_a_spread_is_planned_begun_and_stopped(page: Page, engine: Engine) -> None:
    page.set_viewport_size(SMALLEST)
    api, origin = f"/api/domains{DOMAIN}", {"origin": re.sub(r"(//[^/]+).*", r"\1", page.url)}
    assert page.request.post(f"{api}/drafts", data={"title": "Shorter"}, headers=origin).ok
    layers = page.request.get(f"{api}/strata").json()["layers"]
    guid = next(one["guid"] for one in layers if one["name"] == "Instrument services")
    held = page.request.get(f"{api}~1/policies/{guid}").json()
    body = {"version": held["version"], "settings": {"max_age": 30 * 86_400}}
    assert page.request.patch(f"{api}~1/policies/{guid}", data=body, headers=origin).ok
    page.goto(f"{DOMAIN}~1/forecast?of=expiries")
    part = page.get_by_role("region", name="Spread over weeks")
    part.get_by_role("button", name="Plan it …").click()
    weeks = part.get_by_role("table", name="Week by week").get_by_role("row")
    expect(weeks).to_have_count(7)
    expect(part).to_contain_text("would be told to choose another one first")
    expect(part).to_contain_text("more than 4 weeks")
    over = part.get_by_role("textbox", name="over weeks")
    over.fill("99")
    expect(part.get_by_role("alert")).to_be_visible()
    expect(part.get_by_role("button", name="Have it begun …")).to_be_disabled()
    over.fill("3")
    expect(weeks).to_have_count(4)
    over.fill("")
    expect(part.get_by_role("button", name="Have it begun …")).to_be_disabled()
    over.fill("3")
    part.get_by_role("textbox", name="From").fill(f"{datetime.now(UTC):%Y-%m-%d}")
    part.get_by_role("button", name="Have it begun …").click()
    check_accessibility(page)
    # What is changed is not what was seen when it was asked for.
    over.fill("4")
    expect(page.get_by_label("Why", exact=True)).to_have_count(0)
    expect(weeks).to_have_count(5)
    part.get_by_role("button", name="Have it begun …").click()
    page.get_by_label("Why", exact=True).fill("Agreed in November")
    page.keyboard.press("Enter")
    expect(part).to_contain_text("Under way for Shorter, begun by ann.")
    with Session(engine) as session, session.begin():
        spreading.begin_due(session, datetime.now(UTC))
    work_off(engine)
    page.reload()
    expect(part).to_contain_text(
        re.compile(r"\d+ of \d+ accounts are pending: no directory is connected")
    )
    page.goto(f"{DOMAIN}~1/changes")
    page.get_by_role("button", name="Publish …").click()
    expect(page.get_by_text("not everybody was told yet")).to_be_visible()
    page.go_back()
    part.get_by_role("button", name="Stop it …").click()
    page.get_by_label("Why", exact=True).fill("Too soon")
    page.keyboard.press("Enter")
    expect(part).to_contain_text("was stopped")
