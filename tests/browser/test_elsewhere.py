"""Signing in at a provider, in the real interface."""

from __future__ import annotations

from collections.abc import Iterator

import pytest
from playwright.sync_api import Browser, Page, expect
from sqlalchemy import Engine
from sqlalchemy.orm import Session

from browser_help import DOMAIN, check_accessibility
from hornfels.api.app import create_app
from hornfels.service import people
from provider import TITLE, standing_in
from served import served

pytestmark = pytest.mark.browser


@pytest.fixture
def page(demo_stored: None, browser: Browser, engine: Engine) -> Iterator[Page]:  # noqa: ARG001 - chooses the database
    """Nobody is signed in; ilse comes from the provider."""
    with Session(engine) as session, session.begin():
        people.add(session, "ilse", elsewhere=True)
        people.grant(session, "ilse", "*", "administrator")
    with standing_in() as (_, provider), served(create_app(engine, provider=provider)) as port:
        context = browser.new_context(base_url=f"http://127.0.0.1:{port}")
        yield context.new_page()
        context.close()


def say_who(page: Page, name: str) -> None:
    page.get_by_label("Who are you?").fill(name)
    page.get_by_role("button", name="That is me").click()


def test_one_comes_back_to_where_one_wanted_to_go(page: Page) -> None:
    page.goto(f"{DOMAIN}/accounts?view=locked")
    page.get_by_role("button", name=f"Sign in at {TITLE}").click()
    say_who(page, "ilse")
    expect(page.get_by_role("table", name="Locked accounts")).to_be_visible()
    assert page.url.endswith(f"{DOMAIN}/accounts?view=locked")
    page.get_by_role("button", name="Signed in as ilse").click()
    page.get_by_role("menuitem", name="Your sign-in").click()
    expect(page.get_by_text(f"you sign in at {TITLE}")).to_be_visible()
    check_accessibility(page)
    page.get_by_role("button", name="Signed in as ilse").click()
    page.get_by_role("menuitem", name="Sign out").click()
    expect(page.get_by_role("button", name=f"Sign in at {TITLE}")).to_be_visible()


def test_whoever_is_not_known_is_told_whom_to_ask(page: Page) -> None:
    page.goto("/")
    page.get_by_role("button", name=f"Sign in at {TITLE}").click()
    say_who(page, "somebody.else")
    expect(page.get_by_role("alert")).to_contain_text("Nobody comes in here as somebody.else.")
    check_accessibility(page)
    page.get_by_role("link", name="Begin once more").click()
    expect(page.get_by_label("Password", exact=True)).to_be_visible()


def test_what_is_typed_waits_while_another_tab_goes_there(page: Page) -> None:
    page.goto(f"{DOMAIN}/people")
    page.get_by_role("button", name=f"Sign in at {TITLE}").click()
    say_who(page, "ilse")
    # The provider saw them an hour ago.
    page.get_by_label("Name to sign in with").fill("carl")
    page.keyboard.press("Enter")
    asked = page.get_by_role("dialog", name="Show once more who you are")
    check_accessibility(page)
    with page.context.expect_page() as opened:
        asked.get_by_role("link", name=f"Show it at {TITLE}").click()
    say_who(opened.value, "ilse")
    expect(opened.value.get_by_text("This one can be closed.")).to_be_visible()
    expect(page.get_by_role("heading", name="carl")).to_be_visible()
    page.context.clear_cookies()
    page.get_by_label("Why", exact=True).fill("Watches the dome")
    page.get_by_role("button", name="Give it").click()
    over = page.get_by_role("dialog", name="Your session is over")
    with page.context.expect_page() as opened:
        over.get_by_role("link", name=f"Sign in at {TITLE}").click()
    say_who(opened.value, "ilse")
    # It is another session, and the provider did not ask again for it.
    with page.context.expect_page() as opened:
        asked.get_by_role("link", name=f"Show it at {TITLE}").click()
    say_who(opened.value, "ilse")
    expect(page.get_by_text("viewer everywhere").first).to_be_visible()
