"""What the browser tests share: signing in, and the check for accessibility."""

from __future__ import annotations

from pathlib import Path

from playwright.sync_api import Locator, Page

AXE = Path(__file__).parents[1] / "web" / "node_modules" / "axe-core" / "axe.min.js"
NAME, PASSWORD = "ann", "correct horse"
DOMAIN = "/sky.tarnholt.example"


def sign_in(page: Page, name: str) -> None:
    page.goto("/")
    page.get_by_label("Name").fill(name)
    page.get_by_label("Password").fill(PASSWORD)
    page.get_by_role("button", name="Sign in").click()
    page.wait_for_url("**/strata")
    page.get_by_role("grid").wait_for()


def estate_shown(page: Page, which: str) -> Locator:
    """The switch by which every screen shows live or the draft."""
    return page.get_by_role("radiogroup", name="Which estate the screens show").get_by_role("radio", name=which)


def check_accessibility(page: Page) -> None:
    """No violation of WCAG 2.2 A or AA that axe can see."""
    page.evaluate(AXE.read_text())
    found = page.evaluate(
        "async () => (await axe.run(document, {runOnly: ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa']}))"
        ".violations.map(v => v.id + ': ' + v.nodes.map(n => n.target.join(' ') + ' ' + n.failureSummary).slice(0, 3).join(' | '))"
    )
    assert not found, "\n".join(found)
