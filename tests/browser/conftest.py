"""The real application in Chromium, on the real database with the demo domain."""

from __future__ import annotations

import shutil
import socket
from collections.abc import Iterator

import pytest
from playwright.sync_api import (
    Browser,
    BrowserContext,
    BrowserType,
    Page,
    expect,
    sync_playwright,
)
from sqlalchemy import Engine
from sqlalchemy.orm import Session

from browser_help import DOMAIN, FLAGS, NAME, PATIENCE, SLOWER, Keep, keeping
from hornfels.api.app import create_app
from hornfels.api.guard import COOKIE
from persons import let_in_once, token_for
from served import served

expect.set_options(timeout=PATIENCE)


@pytest.fixture(scope="session")
def chromium() -> Iterator[BrowserType]:
    with sync_playwright() as playwright:
        yield playwright.chromium


@pytest.fixture(scope="session")
def executable() -> str:
    found = shutil.which("chromium-headless-shell") or shutil.which("chromium")
    assert found, "Chromium is not installed; run 'make setup'"
    return found


@pytest.fixture(scope="session")
def browser(chromium: BrowserType, executable: str) -> Iterator[Browser]:
    """For contexts of one's own: somebody else at another machine."""
    launched = chromium.launch(executable_path=executable, args=FLAGS)
    yield launched
    launched.close()


@pytest.fixture(scope="session")
def listener() -> Iterator[socket.socket]:
    """One address for all tests: what is kept of a page is kept by its address."""
    with socket.create_server(("127.0.0.1", 0)) as listening:
        yield listening


@pytest.fixture(scope="session")
def keep(
    chromium: BrowserType,
    executable: str,
    listener: socket.socket,
    tmp_path_factory: pytest.TempPathFactory,
) -> Keep:
    """Starts a browser with a profile of its own."""
    return lambda scale: keeping(
        chromium, executable, listener, tmp_path_factory.mktemp("profile"), scale
    )


@pytest.fixture(scope="session")
def kept(keep: Keep) -> Iterator[BrowserContext]:
    """The browser of most tests: coarse, for they look at what is done and not at how it looks."""
    with keep(0.5) as one:
        yield one


@pytest.fixture
def address(demo_stored: None, engine: Engine, listener: socket.socket) -> Iterator[str]:  # noqa: ARG001 - chooses the database
    with Session(engine) as session, session.begin():
        let_in_once(session, "once")
    with served(create_app(engine), listener.dup()) as port:
        yield f"http://127.0.0.1:{port}"


@pytest.fixture
def anonymous(kept: BrowserContext, address: str) -> Iterator[Page]:
    page = kept.new_page()
    if SLOWER > 1:
        kept.new_cdp_session(page).send("Emulation.setCPUThrottlingRate", {"rate": SLOWER})
    wrong: list[str] = []
    page.on("pageerror", lambda error: wrong.append(str(error)))
    # Refusals that a test provokes are logged by the browser itself; everything else on the console
    # is a fault.
    page.on(
        "console",
        lambda m: (
            wrong.append(m.text)
            if m.type == "error" and "Failed to load resource" not in m.text
            else None
        ),
    )
    yield page
    kept.new_cdp_session(page).send(
        "Storage.clearDataForOrigin", {"origin": address, "storageTypes": "cookies,local_storage"}
    )
    for left in kept.pages[1:]:
        left.close()
    assert not wrong


@pytest.fixture
def page(anonymous: Page, address: str, engine: Engine, request: pytest.FixtureRequest) -> Page:
    """Signed in as ann, by a session made for her: the way through the door has tests of its own.
    The strata are shown, or the screen at the address that the test `opens`.
    """
    anonymous.context.add_cookies(
        [{"name": COOKIE, "value": token_for(engine, NAME), "url": address}]
    )
    opens = request.node.get_closest_marker("opens")
    anonymous.goto(f"{DOMAIN}/{opens.args[0] if opens else 'strata'}")
    if not opens:
        anonymous.get_by_role("grid").wait_for()
    return anonymous
