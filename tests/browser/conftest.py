"""The real application in Chromium, on the real database with the demo domain."""

from __future__ import annotations

import shutil
from collections.abc import Iterator

import pytest
from playwright.sync_api import Browser, Page, sync_playwright
from sqlalchemy import Engine
from sqlalchemy.orm import Session

from browser_help import DOMAIN, NAME
from hornfels.api.app import create_app
from hornfels.api.guard import COOKIE
from hornfels.formats.dump import Dump
from hornfels.store.estates import save_dump
from persons import let_in, token_for
from served import served


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    chromium = shutil.which("chromium")
    assert chromium, "Chromium is not installed; run 'make setup'"
    with sync_playwright() as playwright:
        flags = ["--no-sandbox", "--disable-gpu", "--disable-background-networking", "--disable-component-update", "--disable-sync"]
        launched = playwright.chromium.launch(executable_path=chromium, args=flags)
        yield launched
        launched.close()


@pytest.fixture
def address(engine: Engine, demo: Dump) -> Iterator[str]:
    with Session(engine) as session, session.begin():
        save_dump(session, demo, "tarnholt.ldif", "tester")
        let_in(session, NAME, "ben")
    with served(create_app(engine)) as port:
        yield f"http://127.0.0.1:{port}"


@pytest.fixture
def anonymous(browser: Browser, address: str) -> Iterator[Page]:
    context = browser.new_context(base_url=address, viewport={"width": 1280, "height": 800})
    context.set_default_timeout(10_000)
    page = context.new_page()
    wrong: list[str] = []
    page.on("pageerror", lambda error: wrong.append(str(error)))
    # Refusals that a test provokes are logged by the browser itself; everything else on the console is a fault.
    page.on("console", lambda m: wrong.append(m.text) if m.type == "error" and "Failed to load resource" not in m.text else None)
    yield page
    context.close()
    assert not wrong


@pytest.fixture
def page(anonymous: Page, address: str, engine: Engine) -> Page:
    """Signed in as ann, by a session made for her: the way through the door has tests of its own."""
    anonymous.context.add_cookies([{"name": COOKIE, "value": token_for(engine, NAME), "url": address}])
    anonymous.goto(f"{DOMAIN}/strata")
    anonymous.get_by_role("grid").wait_for()
    return anonymous
