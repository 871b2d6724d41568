"""The kit by itself: its page in development, under the laws of the frame."""

from __future__ import annotations

import contextlib
import socket
import subprocess
from collections import defaultdict
from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page, expect

from browser_help import AXE, VIEWPORT
from frame_laws import breaches

pytestmark = pytest.mark.browser

WEB = Path(__file__).parents[2] / "web"


@pytest.fixture(scope="module")
def developed() -> Iterator[str]:
    """The address at which the front end is served as to a developer."""
    with socket.create_server(("127.0.0.1", 0)) as free:
        port = free.getsockname()[1]
    given = ["--host", "127.0.0.1", "--port", str(port), "--strictPort"]
    server = subprocess.Popen(
        [WEB / "node_modules" / ".bin" / "vite", *given],
        cwd=WEB,
        stdout=subprocess.DEVNULL,
        stderr=subprocess.DEVNULL,
    )
    try:
        while not _answers(port):
            with contextlib.suppress(subprocess.TimeoutExpired):
                ended = server.wait(0.05)
                raise AssertionError(f"the development server has ended with status {ended}")
        yield f"http://127.0.0.1:{port}"
    finally:
        server.terminate()
        server.wait()


def _answers(port: int) -> bool:
    with contextlib.suppress(OSError), socket.create_connection(("127.0.0.1", port), 1):
        return True
    return False


@pytest.fixture
def kit(browser: Browser, developed: str) -> Iterator[Page]:
    page = browser.new_page(base_url=developed, viewport=VIEWPORT)
    page.goto("/kit")
    expect(page.get_by_role("heading", name="Kit", exact=True)).to_be_visible()
    page.evaluate("document.fonts.ready")
    yield page
    page.close()


def test_every_part_keeps_the_laws_of_the_frame(kit: Page) -> None:
    kit.get_by_role("button", name="Columns …").click()
    kit.evaluate(AXE.read_text())
    assert breaches(kit, defaultdict(list)) == []


def test_a_long_table_is_read_by_keyboard_and_draws_only_what_is_seen(kit: Page) -> None:
    table = kit.get_by_role("table", name="Accounts")
    table.get_by_role("row", name="account-0", exact=False).first.focus()
    kit.keyboard.press("End")
    expect(table.get_by_role("row", name="account-99999")).to_be_focused()
    assert table.get_by_role("row").count() < 60
    kit.keyboard.press("Home")
    expect(table.get_by_role("row", name="account-0 ")).to_be_focused()
    table.get_by_role("button", name="Account").click()
    expect(table.get_by_role("columnheader", name="Account")).to_have_attribute(
        "aria-sort", "descending"
    )
    expect(table.get_by_role("row", name="account-99999")).to_be_visible()
