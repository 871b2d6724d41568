"""What the browser tests share: signing in, and the check for accessibility."""

from __future__ import annotations

import contextlib
import os
import re
import socket
from collections.abc import Callable, Iterator
from pathlib import Path

from playwright.sync_api import (
    BrowserContext,
    BrowserType,
    Locator,
    Page,
    Route,
    ViewportSize,
    expect,
)

from persons import PASSWORD

AXE = Path(__file__).parents[1] / "web" / "node_modules" / "axe-core" / "axe.min.js"
SLOWER = float(os.environ.get("HORNFELS_SLOWER", 1))
"""How many times slower the page is than this machine."""
PATIENCE = 30_000 * SLOWER
"""Milliseconds that anything may take: far beyond what it does, for machines that stand still at
times.
"""
FLAGS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]
VIEWPORT: ViewportSize = {"width": 1280, "height": 800}
SMALLEST: ViewportSize = {"width": 320, "height": 640}
"""The window of a phone."""
NAME = "ann"
DOMAIN = "/sky.tarnholt.example"


Keep = Callable[[float], contextlib.AbstractContextManager[BrowserContext]]
"""Starts a browser that draws so many pixels for each of the page's."""


@contextlib.contextmanager
def keeping(
    chromium: BrowserType, executable: str, listener: socket.socket, profile: Path, scale: float
) -> Iterator[BrowserContext]:
    """A browser that keeps what it has read of the pages' code, which is half the time of opening
    one, and draws `scale` pixels for each of the page's.
    """
    context = chromium.launch_persistent_context(
        profile,
        executable_path=executable,
        args=FLAGS,
        base_url=f"http://127.0.0.1:{listener.getsockname()[1]}",
        viewport=VIEWPORT,
        device_scale_factor=scale,
    )
    context.set_default_timeout(PATIENCE)
    yield context
    context.close()


class Slow:
    """A slow line: requests to addresses that match wait until they are let go."""

    def __init__(self, page: Page, pattern: str, method: str = "") -> None:
        self._held: list[Route] = []
        self._method, self._open = method, False
        page.route(re.compile(pattern), self._hold)

    def _hold(self, route: Route) -> None:
        if self._open or (self._method and route.request.method != self._method):
            route.continue_()
        else:
            self._held.append(route)

    def let_go(self) -> None:
        self._open = True
        for route in self._held:
            route.continue_()


def sign_in(page: Page, name: str) -> None:
    page.goto("/")
    page.get_by_label("Name").fill(name)
    page.get_by_label("Password", exact=True).fill(PASSWORD)
    page.get_by_role("button", name="Sign in").click()
    page.wait_for_url("**/strata")
    page.get_by_role("grid").wait_for()


def why(page: Page, reason: str) -> None:
    """Say why, where that is asked before something is done."""
    page.get_by_label("Why", exact=True).fill(reason)
    page.keyboard.press("Enter")
    expect(page.get_by_label("Why", exact=True)).to_have_count(0)


def estate_shown(page: Page, which: str) -> Locator:
    """The switch by which every screen shows live or the draft."""
    return page.get_by_role("radiogroup", name="Which estate the screens show").get_by_role(
        "radio", name=which
    )


def saved(page: Page) -> None:
    """Wait until what was changed in the open panel is in the draft."""
    expect(page.get_by_role("button", name=re.compile("^Sav(e to draft|ing)"))).to_have_count(0)


def lengthen(page: Page, policy: str, length: str) -> None:
    """Give a policy another minimum length in a draft, and wait until that is shown."""
    page.get_by_role("button", name=re.compile(rf"^\d+ {policy}\b")).click()
    expect(page.get_by_role("heading", name=policy, level=2)).to_be_visible()
    page.get_by_label("Minimum length", exact=True).fill(length)
    page.get_by_role("button", name="Save to draft").click()
    saved(page)
    expect(estate_shown(page, "Draft")).to_be_checked()


def changes(page: Page) -> None:
    """Go to the draft that is shown."""
    page.get_by_role("link", name="Changes", exact=True).click()
    expect(page.get_by_role("heading", name="Impact")).to_be_visible()


def check_accessibility(page: Page) -> None:
    """No violation of WCAG 2.2 A or AA that axe can see."""
    page.evaluate(AXE.read_text())
    found = page.evaluate(
        "async () => (await axe.run(document, {runOnly: ['wcag2a', 'wcag2aa', 'wcag21a', "
        "'wcag21aa', 'wcag22aa']}))"
        ".violations.map(v => v.id + ': ' + v.nodes.map(n => n.target.join(' ') + ' ' + "
        "n.failureSummary).slice(0, 3).join(' | '))"
    )
    assert not found, "\n".join(found)
