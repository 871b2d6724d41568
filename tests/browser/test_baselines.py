"""Baselines in the interface: where the gaps lie, and one of them closed in a draft."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect

from browser_help import DOMAIN, check_accessibility


def test_a_gap_is_seen_understood_and_closed_in_a_draft(page: Page) -> None:
    page.get_by_role("link", name="Baselines").click()
    table = page.get_by_role("table")
    expect(table.get_by_role("row")).to_have_count(7)
    length = table.get_by_role("row", name="at least 15 characters")
    expect(length).to_contain_text("1,015")
    page.get_by_role("button", name="at least 15 characters").focus()
    page.keyboard.press("Enter")
    gaps = page.get_by_role("region", name="Gaps")
    expect(gaps.get_by_role("listitem")).to_have_count(4)
    check_accessibility(page)
    page.get_by_role("button", name="Close it in the draft: Night operators").click()
    expect(length).to_contain_text("955")
    expect(length).to_contain_text("this draft turns it")
    expect(gaps.get_by_role("listitem")).to_have_count(3)
    expect(page.locator(":focus")).to_have_count(1)
    expect(page.get_by_text("live it is not met for 1,015 accounts")).to_be_visible()
    check_accessibility(page)
    page.get_by_role("link", name="Changes", exact=True).click()
    expect(page.get_by_role("region", name="Night operators")).to_contain_text("15 characters")


@pytest.mark.opens("baselines?recommendation=length")
def test_an_exception_has_a_reason_and_an_end(page: Page) -> None:
    page.get_by_role("button", name="Accept as it is …").click()
    page.get_by_label("Reason").fill("Until the new year")
    page.keyboard.press("Enter")
    panel = page.locator("#details")
    expect(panel).to_contain_text("Accepted as it is by ann until")
    expect(page.get_by_text("1 accepted as it is")).to_be_visible()
    expect(page.locator(":focus")).to_have_count(1)
    check_accessibility(page)
    page.get_by_role("button", name="Withdraw").click()
    expect(page.get_by_role("button", name="Accept as it is …")).to_be_visible()


@pytest.mark.opens("baselines?recommendation=not-readable")
def test_what_is_met_says_so_and_another_baseline_is_chosen(page: Page) -> None:
    expect(page.get_by_text("Already met for 1,172 accounts: nothing to do.")).to_be_visible()
    page.get_by_label("Baseline", exact=True).select_option("services")
    expect(page.get_by_role("table").get_by_role("row")).to_have_count(5)
    expect(page.get_by_text("Already met")).to_have_count(0)
    page.goto(f"{DOMAIN}/baselines?baseline=nothing")
    expect(page.get_by_role("alert")).to_contain_text("There is no baseline")


@pytest.mark.opens("baselines")
def test_two_baselines_are_laid_side_by_side(page: Page) -> None:
    page.get_by_label("beside").select_option("Privileged accounts, strict")
    row = page.get_by_role("table").get_by_role("row", name=re.compile("^Minimum length"))
    expect(row).to_contain_text("at least 15 characters")
    expect(row).to_contain_text("asks more ▶")
    check_accessibility(page)
    page.get_by_label("beside").select_option("the domain")
    expect(page.get_by_role("table").get_by_role("row")).to_have_count(7)


def test_reason_and_effect_stand_beside_the_setting_in_the_editor(page: Page) -> None:
    page.get_by_role("button", name=re.compile("^30 Night operators")).click()
    page.get_by_label("Compare with").select_option("NIST SP 800-63B-4, passwords")
    panel = page.locator("#details")
    expect(panel).to_contain_text("✕ minimum length at least 15 characters, for people: not met")
    expect(panel).to_contain_text("Why: Length is what guessing is slowed down by")
    expect(panel).to_contain_text("People: People need phrases instead of words.")
    page.get_by_label("Minimum length", exact=True).fill("15")
    page.get_by_role("button", name="Save to draft").click()
    expect(panel).to_contain_text("✓ minimum length at least 15 characters, for people")
    check_accessibility(page)
