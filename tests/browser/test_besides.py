"""What a policy asks beyond the directory's own rules, in the browser."""

from __future__ import annotations

import re
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from browser_help import DOMAIN, estate_shown
from browser_states import lay, layer

pytestmark = pytest.mark.browser


def open_besides(page: Page, name: str) -> None:
    layer(page, name)
    page.get_by_role("region", name="Asked besides").get_by_role("button", name="Open").click()
    expect(page.get_by_role("heading", name="Asked besides", level=2)).to_be_visible()


def test_rules_are_added_weighed_changed_and_judged(page: Page) -> None:
    open_besides(page, "Night operators")
    # A list first, of words of the house and some of one's own.
    lists = page.get_by_role("region", name="Lists of blocked terms")
    lists.get_by_role("button", name="+ List").click()
    form = lists.get_by_role("form", name="New list")
    form.get_by_label("Name").fill("house")
    form.get_by_role("button", name="Add words of the house").click()
    terms = form.get_by_label("Terms, one a line")
    expect(terms).to_have_value(re.compile("tarnholt"))
    terms.fill(terms.input_value() + "\nlantern")
    form.get_by_role("button", name="Save to draft").click()
    expect(lists.get_by_role("button", name="house", exact=True)).to_be_visible()
    expect(estate_shown(page, "Draft")).to_be_checked()

    password = page.get_by_role("region", name="As a password")
    password.get_by_role("button", name="+ Rule").click()
    form = page.get_by_role("form", name="New rule")
    form.get_by_label("Rule").select_option("Blocked terms")
    # What it would do is said before it is added.
    form.get_by_role("button", name="Add to draft").click()
    expect(form.get_by_role("alert")).to_contain_text("choose one at least")
    form.get_by_label("house").check()
    expect(password.get_by_text(re.compile("such as"))).to_be_visible()
    expect(password.get_by_text("No term inside from house")).to_have_count(0)
    form.get_by_role("button", name="Add to draft").click()
    expect(password.get_by_text("No term inside from house")).to_be_visible()
    expect(page.locator(":focus")).to_have_count(1)

    password.get_by_role("button", name="+ Rule").click()
    form.get_by_label("At least").fill("twenty")
    form.get_by_label("At least").press("Enter")
    expect(form.get_by_role("alert")).to_contain_text("a whole number is needed")
    form.get_by_label("At least").fill("18")
    form.get_by_label("At least").press("Enter")
    expect(password.get_by_text("At least 18 characters long")).to_be_visible()
    password.get_by_role("button", name="Change: at least 18 characters long").click()
    form = page.get_by_role("form", name="Rule", exact=True)
    form.get_by_label("At least").fill("16")
    form.get_by_role("button", name="Save to draft").click()
    expect(password.get_by_text("At least 16 characters long")).to_be_visible()

    lay(page, "my-L4ntern-of-2031", ("ilse.varga",))
    verdicts = page.get_by_role("table", name="Verdicts")
    expect(verdicts.get_by_role("row", name="Blocked terms")).to_contain_text("drop 'lantern'")
    expect(verdicts.get_by_role("row", name="As a password")).to_contain_text("not kept")
    expect(verdicts).to_contain_text("Hornfels what stands below")
    page.get_by_label("Candidate password").fill("my-Reading-of-2031")
    expect(verdicts.get_by_role("row", name="As a password")).to_contain_text("✓ kept")

    password.get_by_role("button", name="Take out: at least 16").click()
    expect(password.get_by_text("At least 16")).to_have_count(0)
    page.keyboard.press("Escape")
    expect(page.get_by_role("region", name="Asked besides")).to_contain_text("No term inside")


@pytest.mark.opens("strata?policy=domain&besides=1")
def test_a_rule_outlives_leaving_and_lifetimes_stand_in_order(page: Page, tmp_path: Path) -> None:
    password = page.get_by_role("region", name="As a password")
    password.get_by_role("button", name="+ Rule").click()
    form = page.get_by_role("form", name="New rule")
    form.get_by_label("Rule").select_option("Pattern")
    form.get_by_label("Expression").fill("(?=20)")
    page.goto(f"{DOMAIN}/accounts")
    expect(page.get_by_role("button", name="1 unsaved")).to_be_visible()
    page.goto(f"{DOMAIN}/strata?policy=domain&besides=1")
    expect(form.get_by_label("Expression")).to_have_value("(?=20)")
    form.get_by_role("button", name="Add to draft").click()
    expect(form.get_by_role("alert").last).to_contain_text("cannot be run")
    form.get_by_label("Expression").fill("20[0-9][0-9]$")
    form.get_by_role("button", name="Add to draft").click()
    expect(password.get_by_text("Not matching 20[0-9][0-9]$")).to_be_visible()

    mine = tmp_path / "mine.txt"
    mine.write_text("Lantern-2031\nQuiet-orbit-seven\n")
    page.get_by_label("Hold them against a list").set_input_files(mine)
    expect(page.get_by_text("Of the 2 passwords in mine.txt, 50 % are refused")).to_be_visible()

    lifetimes = page.get_by_role("region", name="Lifetime by length")
    for length, lives in (("16", "365 d"), ("8", "60 d")):
        lifetimes.get_by_role("textbox", name="From").fill(length)
        lifetimes.get_by_role("textbox", name="characters on").fill(lives)
        lifetimes.get_by_role("textbox", name="characters on").press("Enter")
        expect(lifetimes.get_by_role("listitem").filter(has_text=lives)).to_be_visible()
    expect(lifetimes.get_by_role("listitem")).to_have_text(
        [re.compile("From 8 .* 60 d"), re.compile("From 16 .* 365 d")]
    )
    lifetimes.get_by_role("textbox", name="From").fill("20")
    lifetimes.get_by_role("textbox", name="characters on").fill("1 d")
    lifetimes.get_by_role("button", name="Add").click()
    expect(page.get_by_text("cannot live shorter")).to_be_visible()


def test_a_rule_is_changed_where_it_stands_by_then(page: Page) -> None:
    """In another tab the rule before it is taken out meanwhile, then the rule itself."""
    open_besides(page, "Night operators")
    password = page.get_by_role("region", name="As a password")
    for least in ("18", "19"):
        password.get_by_role("button", name="+ Rule").click()
        form = page.get_by_role("form", name="New rule")
        form.get_by_label("At least").fill(least)
        form.get_by_label("At least").press("Enter")
        expect(password.get_by_text(f"At least {least} characters long")).to_be_visible()
    other = page.context.new_page()
    other.goto(page.url)
    there = other.get_by_role("region", name="As a password")
    password.get_by_role("button", name="Change: at least 19").click()
    form = page.get_by_role("form", name="Rule", exact=True)
    form.get_by_label("At least").fill("21")
    there.get_by_role("button", name="Take out: at least 18").click()
    expect(there.get_by_role("listitem")).to_have_count(1)
    # Whoever has not seen it yet is told, and what was typed is still there.
    form.get_by_role("button", name="Save to draft").click()
    expect(password.get_by_text("At least 18")).to_have_count(0)
    expect(form.get_by_label("At least")).to_have_value("21")
    form.get_by_role("button", name="Save to draft").click()
    expect(password.get_by_role("listitem")).to_have_text([re.compile("^At least 21 ")])
    other.reload()
    password.get_by_role("button", name="Change: at least 21").click()
    form.get_by_label("At least").fill("22")
    there.get_by_role("button", name="Take out: at least 21").click()
    expect(there.get_by_role("listitem")).to_have_count(0)
    form.get_by_role("button", name="Save to draft").click()
    expect(password.get_by_text("is gone: this one would be added")).to_be_visible()
    page.get_by_role("form", name="New rule").get_by_role("button", name="Add to draft").click()
    expect(password.get_by_text("At least 22 characters long")).to_be_visible()
