"""An import that is held is confirmed once, whatever an impatient person presses."""

from __future__ import annotations

from collections.abc import Iterator

import pytest
from playwright.sync_api import Page, Request, expect
from sqlalchemy import Engine, update
from sqlalchemy.orm import Session

from api_help import work_off
from browser_help import Slow
from dumps import is_policy, ldif, records, without
from hornfels.store.database import connect
from hornfels.store.models import DomainRow

pytestmark = [pytest.mark.browser, pytest.mark.opens("sources")]


@pytest.fixture
def patient(engine: Engine) -> Iterator[Engine]:
    patient = connect(engine.url.render_as_string(hide_password=False), patient=True)
    yield patient
    patient.dispose()


@pytest.fixture
def held(page: Page, patient: Engine, demo_ldif: bytes) -> Page:
    """Sources, with an import that would remove a policy."""
    fewer = ldif(without(records(demo_ldif), is_policy("Kiosk floor")))
    answer = page.request.post("/api/loads?name=fewer.ldif", data=fewer)
    assert answer.ok, answer.text()
    work_off(patient)
    page.reload()
    page.set_viewport_size({"width": 640, "height": 400})
    page.get_by_role("button", name="Confirm losses …").click()
    return page


def test_a_double_click_on_a_slow_line_confirms_once(held: Page, patient: Engine) -> None:
    asked: list[Request] = []
    held.on("request", lambda one: asked.append(one) if "/confirm" in one.url else None)
    line = Slow(held, r"/confirm$")
    reason = held.get_by_label("Why", exact=True)
    expect(reason).to_be_focused()
    reason.press("Enter")
    assert not asked, "nothing is asked for without a reason"
    reason.fill("the kiosks are gone")
    held.get_by_role("button", name="Confirm losses", exact=True).dblclick()
    reason.press("Enter")
    line.let_go()
    expect(reason).to_have_count(0)
    work_off(patient)
    expect(held.get_by_text("is loaded")).to_be_visible()
    assert len(asked) == 1


def test_another_tab_confirmed_first(held: Page, patient: Engine) -> None:
    with Session(patient) as session, session.begin():
        session.execute(update(DomainRow).values(approval_required=True))
    reason = held.get_by_label("Why", exact=True)
    reason.fill("the kiosks are gone")
    other = held.context.new_page()
    other.goto(held.url)
    other.get_by_role("button", name="Confirm losses …").click()
    other.get_by_label("Why", exact=True).fill("gone since May")
    other.keyboard.press("Enter")
    waits = "A second person has to confirm the losses too"
    expect(other.get_by_text(waits)).to_be_visible()
    expect(held.get_by_text(waits)).to_be_visible()
    expect(reason).to_have_value("the kiosks are gone")
    expect(reason).to_be_focused()
    held.keyboard.press("Enter")
    alert = held.get_by_role("alert")
    expect(alert).to_contain_text("The losses were confirmed by one person already")
