"""By the keyboard alone: what the main tasks cost in keys, where the focus goes, and what happens
when nobody waits.
"""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect

from browser_help import DOMAIN, estate_shown

pytestmark = pytest.mark.browser


class Keys:
    """A keyboard that counts."""

    def __init__(self, page: Page) -> None:
        self.page, self.count = page, 0

    def type(self, text: str) -> None:
        self.count += len(text)
        self.page.keyboard.type(text)

    def press(self, *keys: str) -> None:
        for key in keys:
            self.count += 1
            self.page.keyboard.press(key)

    def tab_to(self, label: str, most: int = 25) -> None:
        """Tab until what is called so has the focus."""
        for _ in range(most):
            if (
                self.page.evaluate(
                    "document.activeElement.labels?.[0]?.textContent ?? "
                    "document.activeElement.textContent"
                )
                == label
            ):
                return
            if self.page.evaluate("document.activeElement.getAttribute('aria-label')") == label:
                return
            self.press("Tab")
        raise AssertionError(f"{label} is not within {most} tabs")


def test_an_account_is_found_and_read(page: Page) -> None:
    keys = Keys(page)
    keys.press("/")
    keys.type("kiosk-n")
    keys.press("Enter")
    core = page.get_by_role("article", name="Core of kiosk-north")
    expect(core).to_contain_text("which wins over any group link")
    expect(page.locator("#details :focus")).to_have_count(1)
    assert keys.count <= 24
    keys.press("Escape")
    expect(core).to_be_hidden()
    expect(page.locator(":focus")).to_have_count(1)
    page.go_back()
    expect(core).to_be_visible()


def test_a_policy_is_edited_weighed_published_and_taken_back(page: Page) -> None:
    keys = Keys(page)
    keys.press("/")
    keys.type("night o")
    keys.press("Enter")
    expect(page.get_by_role("heading", name="Night operators", level=2)).to_be_visible()
    keys.tab_to("Minimum length")
    keys.type("16")
    expect(page.get_by_text("Hits 60 accounts: stronger for 60.")).to_be_visible()
    keys.press("Control+s")
    expect(page.get_by_role("link", name="Review the draft")).to_be_focused()
    keys.press("Enter")
    expect(page.get_by_role("button", name="Publish …")).to_be_focused()
    keys.press("Enter")
    expect(page.get_by_role("button", name="Publish now")).to_be_focused()
    keys.press("Enter")
    expect(page.get_by_role("button", name="Take back in a draft")).to_be_focused()
    expect(page.get_by_role("status").filter(has_text="Published.")).to_be_attached()
    keys.press("Enter")
    expect(page.get_by_role("button", name="Publish …")).to_be_focused()
    expect(page.get_by_text("Minimum length: 16")).to_be_visible()
    keys.press("Enter", "Enter")
    expect(page.get_by_role("button", name="Take back in a draft").first).to_be_focused()
    assert keys.count <= 103


def test_a_new_policy_is_linked(page: Page) -> None:
    keys = Keys(page)
    keys.press("n")
    expect(page.get_by_label("Name", exact=True)).to_be_focused()
    keys.type("Workshop")
    keys.press("Enter")
    expect(page.get_by_role("button", name="+ Link")).to_be_focused()
    keys.press("Enter")
    keys.type("gs-work")
    keys.press("Enter")
    expect(page.get_by_role("link", name="Review the draft")).to_be_focused()
    expect(page.get_by_role("region", name="Linked to")).to_contain_text("GS-Workshop")
    assert keys.count <= 42


def test_boundaries_are_drawn_and_a_trial_is_kept(page: Page) -> None:
    keys = Keys(page)
    keys.press("b")
    keys.type("40719")
    keys.tab_to("Account or policy to try it on")
    keys.type("kiosk-n")
    keys.press("Enter")
    expect(page.get_by_role("table", name="Verdicts")).to_be_visible()
    keys.tab_to("Keep as trial …")
    keys.press("Enter")
    expect(page.get_by_label("What it guards")).to_be_focused()
    keys.type("No digits")
    keys.tab_to("This candidate is invented; nobody uses it")
    keys.press("Space", "Enter")
    expect(page.get_by_role("group", name="Kept trials")).to_be_focused()
    page.get_by_role("radio", name=re.compile("^Trials")).focus()
    keys.press("ArrowLeft")
    keys.tab_to("Draw candidates")
    keys.press("Enter")
    expect(page.get_by_role("table", name="Boundary candidates")).to_be_visible()
    assert keys.count <= 78


def test_a_card_is_printed(page: Page) -> None:
    page.add_init_script("window.print = () => { document.title = 'printed'; }")
    page.reload()
    keys = Keys(page)
    page.get_by_role("grid").wait_for()
    keys.press("/")
    keys.type("ilse")
    keys.press("Enter")
    expect(page.get_by_role("article", name="Core of ilse.varga")).to_be_visible()
    keys.tab_to("Explain it to them")
    keys.press("Enter")
    expect(page.get_by_role("button", name="Print")).to_be_focused()
    keys.press("Enter")
    expect(page).to_have_title("printed")
    assert keys.count <= 33


def test_single_keys_can_be_switched_off_and_everything_can_be_skipped_to(page: Page) -> None:
    page.keyboard.press("?")
    page.get_by_label(re.compile("^Single keys act")).uncheck()
    page.keyboard.press("Escape")
    page.keyboard.press("d")
    expect(estate_shown(page, "Live")).to_be_checked()
    page.reload()
    page.get_by_role("grid").wait_for()
    page.keyboard.press("/")
    expect(page.get_by_role("combobox", name="Find account, group or policy")).not_to_be_focused()
    page.get_by_role("link", name="Skip to the screen").focus()
    page.keyboard.press("Enter")
    expect(page.get_by_role("main")).to_be_focused()


def test_the_panel_comes_before_the_bench_and_explains_itself_to_the_keyboard(page: Page) -> None:
    keys = Keys(page)
    page.get_by_role("button", name=re.compile(r"^\d+ Keyholders\b")).focus()
    keys.press("Enter")
    expect(page.get_by_role("heading", name="Keyholders", level=2)).to_be_visible()
    keys.tab_to("Minimum length")
    expect(page.get_by_role("tooltip")).to_contain_text(
        "The fewest characters a password may have."
    )
    keys.press("Tab")
    expect(page.get_by_role("tooltip")).to_contain_text(
        "Asks for characters of three of the five groups"
    )
    keys.tab_to("Candidate password", most=60)
    keys.press("Shift+Tab", "Shift+Tab")
    expect(page.locator("#details :focus")).to_have_count(1)


@pytest.mark.thorough
def test_the_story_holds_when_every_answer_takes_its_time_and_nobody_waits(page: Page) -> None:
    session = page.context.new_cdp_session(page)
    session.send(
        "Network.emulateNetworkConditions",
        {"offline": False, "latency": 400, "downloadThroughput": -1, "uploadThroughput": -1},
    )
    page.keyboard.press("/")
    page.keyboard.type("night operators")
    page.keyboard.press("Enter")
    length = page.get_by_label("Minimum length", exact=True)
    length.focus()
    page.keyboard.press("Control+a")
    page.keyboard.type("16")
    page.keyboard.press("Control+s")
    page.keyboard.press("Control+a")
    page.keyboard.type("17")
    page.keyboard.press("Control+s")
    expect(estate_shown(page, "Draft")).to_be_checked()
    expect(length).to_have_value("17")
    page.keyboard.press("Control+s")
    review = page.get_by_role("link", name="Review the draft")
    expect(review).to_be_focused()
    page.keyboard.press("b")
    page.keyboard.type("Perigee-2031")
    page.get_by_role("combobox", name="Account or policy to try it on").focus()
    page.keyboard.type("ilse.varga")
    page.keyboard.press("Enter")
    page.get_by_label("Candidate password", exact=True).press("End")
    page.keyboard.type("-Transit")
    verdict = page.get_by_role("table", name="Verdicts").get_by_role(
        "row", name=re.compile("^Length")
    )
    expect(verdict).to_contain_text("20 ≥ 17")
    review.focus()
    page.keyboard.press("Enter")
    expect(page.get_by_role("button", name="Publish …")).to_be_focused()
    page.keyboard.press("Enter")
    expect(page.get_by_role("button", name="Publish now")).to_be_focused()
    page.keyboard.press("Enter")
    page.keyboard.press("Enter")
    expect(page.get_by_role("button", name="Take back in a draft")).to_be_focused()
    page.goto(f"{DOMAIN}/strata")
    expect(
        page.get_by_role("button", name=re.compile(r"^30 Night operators .*17 ch"))
    ).to_be_visible()
