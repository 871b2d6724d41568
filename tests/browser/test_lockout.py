"""Lockout in the browser: the drill, unlocking, and the forecast of what guessing costs."""

from __future__ import annotations

import re
from pathlib import Path

import pytest
from playwright.sync_api import Locator, Page, expect

from browser_help import SMALLEST, Slow, check_accessibility, estate_shown
from browser_states import drill

pytestmark = pytest.mark.browser


def events(page: Page) -> Locator:
    return page.get_by_role("group", name="Time line").get_by_role("button")


def words(page: Page) -> Locator:
    return page.get_by_label("The story in words")


def of(page: Page, name: str) -> Locator:
    return page.get_by_role("region", name=name)


def test_a_device_locks_one_account_and_not_the_other(page: Page) -> None:
    drill(page)
    expect(words(page)).to_have_value("25 bad every 5 min")
    night = of(page, "ilse.varga")
    expect(night).to_contain_text("Locks at 20 min after 5 bad tries and opens at 50 min.")
    expect(of(page, "svc-spectro3")).to_contain_text("Never locks")
    expect(page.get_by_text("so the threshold of 5 only decides when")).to_be_visible()
    read = night.get_by_role("row", name=re.compile("The account is locked"))
    expect(read.first).to_contain_text("25 min")


def test_a_story_is_typed_and_shown_as_it_is_understood(page: Page) -> None:
    drill(page, "3 bad in 10 min, good after 2 h, unlock")
    understood = "Understood: 3 bad every 5 min, good after 2 h, unlock"
    expect(page.get_by_text(understood)).to_be_visible()
    expect(of(page, "ilse.varga")).to_contain_text("Does not lock: 3 of 5 bad tries at most.")
    words(page).fill("3 bad in 10 min, goood")
    expect(page.get_by_role("alert")).to_contain_text("Part 2, “goood”: Say what happens")
    expect(of(page, "ilse.varga")).to_have_count(0)
    words(page).fill("5 bad")
    expect(of(page, "ilse.varga")).to_contain_text("Locks at 40 s after 5 bad tries")
    page.reload()
    page.get_by_role("radio", name="Drill").click()
    expect(words(page)).to_have_value("5 bad")


def test_events_are_placed_by_a_click_and_dragged(page: Page) -> None:
    drill(page, "4 bad every 10 min")
    expect(events(page)).to_have_count(4)
    page.get_by_title("Click to add good here").click(position={"x": 300, "y": 10})
    expect(events(page)).to_have_count(5)
    good = page.get_by_role("button", name=re.compile("^Good try at"))
    before = good.bounding_box()
    assert before
    page.mouse.move(before["x"] + 8, before["y"] + 8)
    page.mouse.down()
    for step in range(1, 21):
        page.mouse.move(before["x"] + 8 + step * 8, before["y"] + 8)
    page.mouse.up()
    after = good.bounding_box()
    assert after
    assert after["x"] - before["x"] == pytest.approx(160, abs=12)
    expect(words(page)).to_have_value(re.compile("good"))


def test_a_story_is_kept_as_a_trial(page: Page) -> None:
    drill(page)
    page.get_by_role("button", name="Keep as trial …").click()
    kept = page.get_by_role("dialog", name="Keep as a trial")
    kept.get_by_label("What it guards").fill("Devices must not lock operators")
    kept.get_by_role("radio", name="Must not lock").click()
    kept.get_by_role("button", name="Keep the trial").click()
    row = page.get_by_role("row", name=re.compile("Devices must not lock operators"))
    expect(row).to_contain_text("25 bad every 5 min")
    expect(row).to_contain_text("it locks at 20 min after 5 bad tries")


@pytest.mark.opens("forecast")
def test_live_and_draft_are_drilled_side_by_side(page: Page) -> None:
    mark = page.get_by_role("button", name=re.compile("^Night operators:"))
    mark.focus()
    for _ in range(20):
        page.keyboard.press("ArrowRight")
    expect(page.get_by_role("status").get_by_text("25 bad tries, each within")).to_be_visible()
    page.keyboard.press("Enter")
    expect(estate_shown(page, "Draft")).to_be_checked()
    expect(mark).to_have_accessible_name("Night operators: 25 bad tries, 30 min")
    drill(page)
    page.get_by_role("radio", name="Both").click()
    expect(of(page, "ilse.varga, live")).to_contain_text("Locks at 20 min")
    expect(of(page, "ilse.varga, draft")).to_contain_text("Locks at 2 h after 25 bad tries")


@pytest.mark.opens("forecast")
def test_a_mark_is_dragged_put_back_and_saved(page: Page) -> None:
    mark = page.get_by_role("button", name=re.compile("^Visiting astronomers:"))
    expect(mark).to_have_accessible_name("Visiting astronomers: 8 bad tries, 30 min")
    box = mark.bounding_box()
    assert box
    page.mouse.move(box["x"] + 12, box["y"] + 12)
    page.mouse.down()
    page.mouse.move(box["x"] + 100, box["y"] - 60, steps=12)
    page.mouse.up()
    expect(mark).not_to_have_accessible_name(re.compile("8 bad tries"))
    bar = page.get_by_role("status").filter(has_text="Visiting astronomers")
    expect(bar).to_contain_text("Chance to hit in a password’s life:")
    page.get_by_role("button", name="Put it back").click()
    expect(mark).to_have_accessible_name("Visiting astronomers: 8 bad tries, 30 min")
    mark.focus()
    page.keyboard.press("ArrowDown")
    expect(bar).to_contain_text("each within 20 min of the one before, lock the account for 20 min")
    page.get_by_role("button", name="Save to draft").click()
    expect(estate_shown(page, "Draft")).to_be_checked()
    page.get_by_role("link", name="Changes", exact=True).click()
    expect(page.get_by_text("30 min → 20 min").first).to_be_visible()


@pytest.mark.opens("forecast")
@pytest.mark.parametrize("name", ["Phrase pilot", "Domain policy"])
def test_enter_saves_the_mark_where_it_is_and_not_where_it_was_answered(
    page: Page, name: str
) -> None:
    mark = page.get_by_role("button", name=re.compile(f"^{name}:"))
    mark.focus()
    for key in ("ArrowRight", "ArrowRight", "ArrowDown", "Enter"):
        page.keyboard.press(key)
    expect(estate_shown(page, "Draft")).to_be_checked()
    expect(mark).to_have_accessible_name(f"{name}: 12 bad tries, 20 min")
    expect(page.get_by_role("button", name="Put it back")).to_have_count(0)
    expect(page.get_by_role("img", name=re.compile("^Lockout threshold"))).to_contain_text(
        f"{name} as it is live"
    )


@pytest.mark.opens("forecast")
def test_a_mark_that_is_moved_on_while_it_is_saved_is_saved_where_it_is_then(page: Page) -> None:
    mark = page.get_by_role("button", name=re.compile("^Phrase pilot:"))
    mark.focus()
    line = Slow(page, r"/policies/[^/]+$", "PATCH")
    with page.expect_request(lambda request: request.method == "PATCH"):
        for key in ("ArrowRight", "Enter"):
            page.keyboard.press(key)
    page.keyboard.press("ArrowRight")
    expect(mark).to_have_accessible_name("Phrase pilot: 12 bad tries, 30 min")
    page.keyboard.press("Enter")
    line.let_go()
    expect(estate_shown(page, "Draft")).to_be_checked()
    expect(page.get_by_role("button", name="Put it back")).to_have_count(0)
    expect(mark).to_have_accessible_name("Phrase pilot: 12 bad tries, 30 min")
    page.reload()
    expect(mark).to_have_accessible_name("Phrase pilot: 12 bad tries, 30 min")


@pytest.mark.opens("forecast")
def test_two_tabs_at_one_mark_lose_nothing(page: Page) -> None:
    name = "Domain policy"

    def threshold(of: Page, key: str, tries: int) -> None:
        mark = of.get_by_role("button", name=re.compile(f"^{name}:"))
        mark.focus()
        of.keyboard.press(key)
        expect(mark).to_have_accessible_name(re.compile(f"^{name}: {tries} bad tries"))
        of.keyboard.press("Enter")

    threshold(page, "ArrowRight", 11)
    expect(estate_shown(page, "Draft")).to_be_checked()
    other = page.context.new_page()
    other.goto(page.url)
    expect(other.get_by_role("button", name=re.compile(f"^{name}: 11 bad"))).to_be_visible()
    threshold(page, "ArrowRight", 12)
    expect(page.get_by_role("button", name="Save to draft")).to_have_count(0)
    threshold(other, "ArrowLeft", 10)
    refused = other.get_by_role("alert").filter(has_text="Nothing of yours was saved.")
    expect(refused).to_contain_text("In the draft now: 12 bad tries, 30 min.")
    check_accessibility(other)
    other.get_by_role("button", name="Take the draft’s").click()
    mark = other.get_by_role("button", name=re.compile(f"^{name}:"))
    expect(mark).to_have_accessible_name(re.compile(f"^{name}: 12 bad"))
    threshold(page, "ArrowRight", 13)
    expect(page.get_by_role("button", name="Save to draft")).to_have_count(0)
    threshold(other, "ArrowLeft", 11)
    expect(refused).to_contain_text("In the draft now: 13 bad tries, 30 min.")
    other.get_by_role("button", name="Save mine on top").click()
    expect(refused).to_have_count(0)
    expect(mark).to_have_accessible_name(re.compile(f"^{name}: 11 bad"))


@pytest.mark.opens("forecast")
def test_numbers_open_their_formula_and_follow_what_is_assumed(page: Page, tmp_path: Path) -> None:
    sheet = page.get_by_role("region", name="What guessing costs")
    chance = sheet.get_by_text("Chance to hit with them, staying under the lock")
    chance.click()
    expect(sheet.get_by_text("N, passwords to choose from").first).to_be_visible()
    expect(sheet.get_by_text("10,000,000").first).to_be_visible()
    page.get_by_label("Passwords they choose from").fill("500")
    expect(sheet.get_by_text("100 %").first).to_be_visible()
    page.get_by_label("Shape of people’s choice").fill("9")
    expect(page.get_by_role("alert").first).to_contain_text("2")
    page.get_by_label("Shape of people’s choice").fill("1.1")
    expect(page.get_by_role("alert")).to_have_count(0)
    with page.expect_download() as drawn:
        page.get_by_role("button", name="Export drawing").click()
    drawn.value.save_as(tmp_path / "plot.svg")
    drawing = (tmp_path / "plot.svg").read_text()
    assert drawing.startswith("<svg")
    assert "lockout threshold, bad tries" in drawing
    assert "var(--" not in drawing
    assert "light-dark" not in drawing
    page.get_by_role("radio", name="Table").click()
    row = page.get_by_role("table", name="The plot in numbers").get_by_role(
        "row", name=re.compile("^Night operators")
    )
    expect(row).to_contain_text("30 min")


@pytest.mark.opens("forecast?of=expiries")
def test_what_is_known_of_present_lengths_is_told_against_any_minimum(page: Page) -> None:
    part = page.get_by_role("region", name="Present lengths")
    expect(part.get_by_role("list", name="Against their minimum length")).to_contain_text(
        re.compile(r"^1,\d+are of unknown length$")
    )
    least = part.get_by_label("Against a minimum of")
    least.fill("long")
    expect(part.get_by_role("alert")).to_contain_text("whole number")
    expect(least).to_have_attribute("aria-invalid", "true")
    check_accessibility(page)
    least.fill("15")
    expect(part.get_by_role("list", name="Against a minimum of 15")).to_be_visible()
    expect(part.get_by_role("alert")).to_have_count(0)


@pytest.mark.opens("forecast?of=burden")
def test_guess_and_burden_follow_habits_and_are_taken_away(page: Page, tmp_path: Path) -> None:
    page.set_viewport_size(SMALLEST)
    plot = page.get_by_role("img", name=re.compile("^Tries of a guesser against minutes"))
    expect(plot).to_contain_text("minutes a year, of one person")
    page.get_by_label("under").select_option("Night operators")
    costs = page.get_by_role("region", name="What it costs a person")
    expect(costs).to_contain_text("under Night operators")
    minutes = costs.get_by_text("Minutes a year, all together").locator("..")
    before = minutes.text_content() or ""
    page.get_by_label("Sign-ins on a working day").fill("30")
    expect(minutes).not_to_have_text(before)
    page.get_by_label("Sign-ins on a working day").fill("thirty")
    expect(page.get_by_role("alert").first).to_contain_text("number")
    page.get_by_label("Sign-ins on a working day").fill("3")
    expect(minutes).to_have_text(before)
    check_accessibility(page)
    with page.expect_download() as drawn:
        page.get_by_role("button", name="Export drawing").click()
    drawn.value.save_as(tmp_path / "plot.svg")
    assert "Night operators" in (tmp_path / "plot.svg").read_text()
    with page.expect_download() as numbers:
        page.get_by_role("link", name="CSV").click()
    numbers.value.save_as(tmp_path / "burden.csv")
    assert "Night operators,here," in (tmp_path / "burden.csv").read_text()
    page.get_by_role("radio", name="Table").click()
    row = page.get_by_role("table", name="The plot in numbers").get_by_role(
        "row", name=re.compile("^Night operators")
    )
    expect(row.first).to_contain_text(re.compile(r"\d"))
