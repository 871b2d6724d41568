"""From nothing to the first domain, and the words that are ours."""

from __future__ import annotations

import re
from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page, expect
from sqlalchemy import Engine
from sqlalchemy.orm import Session

from api_help import work_off
from browser_help import NAME, PATIENCE, VIEWPORT, check_accessibility
from hornfels.api.app import create_app
from hornfels.store.database import connect
from persons import PASSWORD, let_in
from served import served

pytestmark = pytest.mark.browser


@pytest.fixture
def empty(engine: Engine, browser: Browser) -> Iterator[Page]:
    """A browser before an installation without any domain."""
    with Session(engine) as session, session.begin():
        let_in(session, NAME)
    with served(create_app(engine)) as port:
        context = browser.new_context(base_url=f"http://127.0.0.1:{port}", viewport=VIEWPORT)
        context.set_default_timeout(PATIENCE)
        yield context.new_page()
        context.close()


def test_an_empty_installation_leads_to_the_first_domain(
    empty: Page, engine: Engine, demo_ldif: bytes, tmp_path: Path
) -> None:
    dump = tmp_path / "dump.ldif"
    dump.write_bytes(demo_ldif)
    # Before the key: whether the browser asks us or its person is settled when it is pressed.
    empty.on("filechooser", lambda chooser: chooser.set_files(dump))
    empty.goto("/")
    expect(empty.get_by_label("Name")).to_be_focused()
    empty.keyboard.type(NAME)
    empty.keyboard.press("Tab")
    empty.keyboard.type(PASSWORD)
    empty.keyboard.press("Enter")
    expect(empty.get_by_text("No domain is here yet.")).to_be_visible()
    choose = empty.get_by_role("button", name="Choose a file …")
    expect(choose).to_be_focused()
    check_accessibility(empty)
    expect(choose).to_be_focused()
    empty.keyboard.press("Enter")
    expect(empty.get_by_text("Waiting")).to_be_visible()
    patient = connect(engine.url.render_as_string(hide_password=False), patient=True)
    work_off(patient)
    patient.dispose()
    empty.get_by_role("link", name=re.compile("sky.tarnholt.example")).first.click()
    expect(empty.get_by_role("grid")).to_be_visible()


@pytest.mark.parametrize("word", ["strata", "population", "bedrock", "exempt", "Bench"])
def test_our_own_words_are_explained_where_they_first_stand(page: Page, word: str) -> None:
    asked = page.get_by_role("button", name=word, exact=True)
    asked.focus()
    expect(page.get_by_role("tooltip")).to_be_visible()
    page.keyboard.press("Escape")
    expect(page.get_by_role("tooltip")).to_be_hidden()
    asked.click()
    expect(page.get_by_role("tooltip")).to_be_visible()
