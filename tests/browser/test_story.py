"""The whole story a new user walks through, in the real interface."""

from __future__ import annotations

import re
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page, expect

from browser_help import DOMAIN, check_accessibility, estate_shown, saved, sign_in

pytestmark = pytest.mark.browser


def layer(page: Page, name: str):  # type: ignore[no-untyped-def]
    return page.get_by_role("button", name=re.compile(rf"^\d+ {name}\b"))


def open_layer(page: Page, name: str) -> None:
    layer(page, name).click()
    expect(page.get_by_role("heading", name=name, level=2)).to_be_visible()


def open_draft(page: Page, title: str) -> None:
    page.get_by_role("link", name="Changes", exact=True).click()
    page.get_by_label("New draft").fill(title)
    page.get_by_role("button", name="Open", exact=True).click()
    expect(page.get_by_text("Nothing is changed in this draft yet.")).to_be_visible()


def test_strata_show_what_holds_where(page: Page) -> None:
    grid = page.get_by_role("grid")
    expect(grid.get_by_role("rowheader")).to_have_count(10)
    expect(
        page.get_by_text("Reaches nobody: linked only to GU-Phrase-Pilot, a universal group.")
    ).to_be_visible()
    cell = grid.get_by_label(
        "14 accounts: Night operators holds here at 30, through their groups before Visiting "
        "astronomers."
    )
    cell.hover()
    expect(
        page.get_by_text("14 accounts: Night operators holds here at 30, through their groups")
    ).to_be_visible()
    open_layer(page, "Night operators")
    expect(
        page.get_by_text(
            "For 6 accounts on both, the smaller object GUID decides: Grants office wins."
        )
    ).to_be_visible()


def test_no_row_looks_empty_that_is_not(page: Page) -> None:
    """Beside an open panel some populations have no column; their accounts stand at the edge."""
    open_layer(page, "Systems stewards")
    grid = page.get_by_role("grid")
    expect(page.get_by_role("button", name="3 more")).to_be_visible()
    hidden = grid.get_by_label(re.compile("in populations without a column"))
    expect(grid.get_by_label("Grants office applies to 6 accounts in populations")).to_have_text(
        "6"
    )
    expect(
        grid.get_by_label("Visiting astronomers is overridden for 14 accounts in populations")
    ).to_have_text("14")
    expect(
        grid.get_by_label("The domain policy applies to 12 accounts in populations")
    ).to_have_text("12")
    expect(hidden).to_have_count(9)
    layer(page, "Grants office").focus()
    for _ in range(9):
        page.keyboard.press("ArrowRight")
    expect(grid.get_by_label("Grants office applies to 6 accounts")).to_be_focused()
    page.get_by_role("button", name="3 more").click()
    expect(hidden).to_have_count(0)


def test_cells_can_be_read_by_keyboard(page: Page) -> None:
    layer(page, "Keyholders").focus()
    page.keyboard.press("ArrowRight")
    expect(page.locator(":focus")).to_have_attribute(
        "aria-label", re.compile("^9 accounts: Keyholders holds here at 5")
    )
    page.keyboard.press("ArrowDown")
    page.keyboard.press("ArrowDown")
    expect(page.locator(":focus")).to_have_attribute(
        "aria-label", re.compile("Keyholders wins at 5 before Systems stewards at 20")
    )
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name="Systems stewards", level=2)).to_be_visible()
    page.keyboard.press("Escape")
    expect(page.get_by_role("heading", name="Systems stewards", level=2)).to_be_hidden()


COVERED = """() => {
  const field = document.activeElement, box = field.getBoundingClientRect();
  const top = document.elementFromPoint(box.x + box.width / 2, box.y + box.height / 2);
  return top === null || !(field.contains(top) || top.contains(field));
}"""


def test_no_field_is_covered_while_it_is_edited(page: Page) -> None:
    """At 200 %: neither by the bar below the form nor by the explanation of the field."""
    page.set_viewport_size({"width": 640, "height": 400})
    open_layer(page, "Night operators")
    page.get_by_label("Minimum length", exact=True).focus()
    page.keyboard.press("ArrowUp")
    bar = page.get_by_role("button", name="Save to draft")
    expect(bar).to_be_visible()
    expect(page.get_by_text("Hits 60 accounts: stronger for 60.")).to_be_visible()
    for label, typed in (
        ("Precedence", "35"),
        ("Password history", "20"),
        ("Minimum age", "2 d"),
        ("Maximum age", "45 d"),
        ("Lockout threshold", "6"),
        ("Observation window", "45 min"),
        ("Lockout duration", "50 min"),
    ):
        field = page.get_by_label(label, exact=True)
        field.focus()
        assert not page.evaluate(COVERED), label
        field.fill(typed)
        assert not page.evaluate(COVERED), label
    # The bar has grown by seven changes, and stays one line.
    expect(page.get_by_text("8 changes")).to_be_visible()
    assert not page.evaluate(COVERED)


def test_advice_follows_what_is_typed_and_a_link_does_not_wait_for_it(page: Page) -> None:
    open_layer(page, "Night operators")
    budget = page.get_by_text(re.compile("^A guesser who stays under the lock"))
    before = budget.inner_text()
    page.get_by_label("Lockout threshold", exact=True).fill("50")
    expect(budget).not_to_have_text(before)
    expect(page.get_by_text(re.compile("^Hits 60 accounts: weaker for 60"))).to_be_visible()
    page.get_by_role("button", name="+ Link").click()
    page.get_by_role("combobox", name="Group or account to link").fill("GS-Workshop")
    page.get_by_role("option", name=re.compile("^GS-Workshop")).click()
    expect(estate_shown(page, "Draft")).to_be_checked()
    expect(page.get_by_role("region", name="Linked to")).to_contain_text("GS-Workshop")
    expect(page.get_by_label("Lockout threshold", exact=True)).to_have_value("50")
    page.keyboard.press("Control+s")
    saved(page)
    page.reload()
    expect(page.get_by_label("Lockout threshold", exact=True)).to_have_value("50")
    expect(page.get_by_role("region", name="Linked to")).to_contain_text("GS-Workshop")


@pytest.mark.opens("accounts")
def test_accounts_are_asked_for_in_a_sentence(page: Page) -> None:
    page.get_by_role("button", name="+ Filter").click()
    page.get_by_label("Their policy comes").select_option("through a group")
    page.get_by_label("A tie decides").select_option("yes")
    page.get_by_role("button", name="Done").click()
    expect(page.get_by_role("main").get_by_text("6 accounts", exact=True)).to_be_visible()
    expect(page.get_by_role("cell", name="by GS-Grants-Office, at a tie").first).to_be_visible()
    page.get_by_role("button", name="Password expires").click()
    assert "way=group&tie=true&order=expires" in page.url
    expect(page.get_by_role("columnheader", name="Password expires")).to_have_attribute(
        "aria-sort", "ascending"
    )
    page.get_by_role("button", name="Columns").click()
    page.get_by_label("Lies in").check()
    page.keyboard.press("Escape")
    expect(page.get_by_role("columnheader", name="Lies in")).to_be_visible()
    with page.expect_download() as download:
        page.get_by_role("link", name="Export as CSV").click()
    assert download.value.path().read_text().count("\n") == 7
    page.get_by_role("button", name="Drop: decided by a tie").click()
    expect(page.get_by_role("main").get_by_text("451 accounts", exact=True)).to_be_visible()
    page.go_back()
    expect(page.get_by_role("main").get_by_text("6 accounts", exact=True)).to_be_visible()


def test_mistakes_are_named_where_they_are_made(page: Page) -> None:
    open_layer(page, "Night operators")
    page.get_by_label("Observation window").fill("2 h")
    expect(
        page.get_by_text(
            "Changed along with it: The observation window cannot exceed the lockout duration."
        )
    ).to_be_visible()
    expect(page.get_by_label("Lockout duration")).to_have_value("2 h")
    page.get_by_label("Minimum length", exact=True).fill("300")
    page.get_by_role("button", name="Save to draft").click()
    expect(page.get_by_role("alert")).to_contain_text(
        "Minimum length goes from 0 to 255 characters; 300 is outside."
    )
    page.get_by_label("Observation window").fill("soon")
    expect(page.get_by_role("alert")).to_contain_text("Type a time such as")
    expect(page.get_by_role("button", name="Save to draft")).to_be_disabled()
    page.get_by_role("button", name="Discard").click()
    expect(page.get_by_label("Observation window")).to_have_value("30 min")


@pytest.mark.thorough
def test_two_people_editing_see_both_sides(page: Page, browser: Browser, address: str) -> None:
    open_draft(page, "Shared")
    page.get_by_role("link", name="Strata", exact=True).click()
    open_layer(page, "Night operators")
    page.get_by_label("Minimum length", exact=True).fill("18")
    other = browser.new_context(base_url=address).new_page()
    sign_in(other, "ben")
    other.goto(page.url.partition("?")[0])
    open_layer(other, "Night operators")
    other.get_by_label("Minimum length", exact=True).fill("15")
    other.get_by_role("button", name="Save to draft").click()
    saved(other)
    other.context.close()
    page.get_by_role("button", name="Save to draft").click()
    notice = page.get_by_role("alert")
    expect(notice).to_contain_text("ben changed Night operators while you were editing it.")
    expect(notice.get_by_role("row", name="Minimum length 15 18")).to_be_visible()
    notice.get_by_role("button", name="Save mine on top").click()
    expect(page.get_by_role("button", name="Discard")).to_be_hidden()
    expect(page.get_by_label("Minimum length", exact=True)).to_have_value("18")


def test_an_account_tells_why(page: Page) -> None:
    page.keyboard.press("/")
    page.keyboard.type("kiosk-north")
    expect(page.get_by_role("option", name=re.compile("^kiosk-north"))).to_be_visible()
    page.keyboard.press("Enter")
    core = page.get_by_role("article", name="Core of kiosk-north")
    expect(core).to_contain_text(
        "Kiosk floor is linked to the account itself, which wins over any group link."
    )
    expect(core).to_contain_text("account › GS-Dome-Kiosks › GS-Visiting-Astronomers")
    core.get_by_role("button", name="Put on the bench").click()
    page.get_by_role("button", name="1 on it").click()
    expect(page.get_by_role("button", name="Take kiosk-north off the bench")).to_be_visible()


@pytest.mark.opens("accounts")
def test_accounts_filter_and_keep_their_state_in_the_address(page: Page) -> None:
    expect(page.get_by_role("main").get_by_text("1,184 accounts", exact=True)).to_be_visible()
    page.get_by_label("named like").fill("kiosk")
    expect(page.get_by_role("main").get_by_text("12 accounts", exact=True)).to_be_visible()
    page.get_by_label("under").select_option(label="Kiosk floor (12)")
    page.reload()
    expect(page.get_by_label("named like")).to_have_value("kiosk")
    expect(page.get_by_role("main").get_by_text("12 accounts", exact=True)).to_be_visible()
    page.get_by_label("named like").fill("nobody at all")
    expect(page.get_by_text("No account fits.")).to_be_visible()
    page.get_by_role("button", name="Show everyone").click()
    row = page.get_by_role("row").nth(1)
    row.focus()
    page.keyboard.press("End")
    expect(page.locator(":focus")).to_have_attribute("aria-rowindex", "1185")
    expect(page.locator(":focus")).to_contain_text("zoe.")


def test_the_bench_says_which_rule_refuses_and_what_mends_it(page: Page) -> None:
    page.keyboard.press("b")
    expect(page.get_by_label("Candidate password")).to_be_focused()
    page.keyboard.type("Perigee-2031")
    for name in ("ilse.varga", "svc-spectro3"):
        page.get_by_role("combobox", name="Account or policy to try it on").fill(name)
        page.get_by_role("option", name=re.compile(f"^{name}")).first.click()
    verdicts = page.get_by_role("table", name="Verdicts")
    expect(verdicts.get_by_role("row", name=re.compile("^Length"))).to_contain_text(
        "12 of 14 · 2 more characters"
    )
    expect(verdicts.get_by_role("row", name=re.compile("^Verdict"))).to_have_text(
        "Verdict✕ Refused✕ Refused"
    )
    page.get_by_label("Candidate password").fill("Perigee-Transit-31")
    page.get_by_role("radio", name="Operator reset").click()
    expect(verdicts.get_by_role("row", name=re.compile("^Verdict"))).to_have_text(
        "Verdict✓ Accepted✕ Refused"
    )
    assert "Perigee" not in page.url
    assert "Perigee" not in page.evaluate("JSON.stringify({...localStorage, ...sessionStorage})")


@pytest.mark.opens("sources")
@pytest.mark.usefixtures("worker")
def test_a_dump_is_loaded_and_a_broken_one_is_refused(
    page: Page, tmp_path: Path, demo_ldif: bytes
) -> None:
    broken = tmp_path / "broken.ldif"
    broken.write_bytes(b"dn: DC=x\nnonsense\n")
    page.get_by_label("LDIF file").set_input_files(broken)
    expect(page.get_by_role("alert")).to_contain_text("broken.ldif: line 2: no ':' in 'nonsense'")
    other = tmp_path / "other.ldif"
    other.write_bytes(demo_ldif.replace(b"tarnholt", b"farholtt"))
    page.get_by_label("LDIF file").set_input_files(other)
    page.get_by_role("link", name="See its strata").click()
    expect(
        page.get_by_role("button", name=re.compile("Domain sky.farholtt.example"))
    ).to_be_visible()
    expect(page.get_by_role("grid").get_by_role("rowheader")).to_have_count(10)


@pytest.mark.thorough
@pytest.mark.opens("sources")
def test_a_load_waits_in_every_tab_and_is_stopped_and_begun_again(
    page: Page, tmp_path: Path, demo_ldif: bytes
) -> None:
    """Without a worker it waits; whoever looks sees it, also after a reload."""
    dump = tmp_path / "waiting.ldif"
    dump.write_bytes(demo_ldif)
    page.get_by_label("LDIF file").set_input_files(dump)
    load = page.get_by_role("listitem", name="Load of waiting.ldif")
    expect(load).to_contain_text("Waiting for a worker")
    page.reload()
    other = page.context.new_page()
    other.goto(f"{DOMAIN}/sources")
    other.get_by_role("button", name="Stop").click()
    expect(load).to_contain_text("Stopped. Nothing was stored.")
    other.get_by_role("button", name="Try again").click()
    expect(other.get_by_role("listitem", name="Load of waiting.ldif")).to_contain_text(
        "Waiting for a worker"
    )
    other.close()


def test_a_precedence_is_weighed_by_keyboard_and_taken(page: Page) -> None:
    layer(page, "Night operators").focus()
    page.keyboard.press("Shift+ArrowUp")
    expect(page.get_by_text("Night operators at 25: 6 accounts change policy")).to_be_visible()
    page.keyboard.press("Escape")
    expect(page.get_by_text("Night operators at 25")).to_be_hidden()
    page.keyboard.press("Shift+ArrowDown")
    expect(page.get_by_text("Night operators at 50: 14 accounts change policy")).to_be_visible()
    page.keyboard.press("Enter")
    expect(page.get_by_role("button", name=re.compile(r"^50 Night operators"))).to_be_visible()
    open_layer(page, "Night operators")
    page.get_by_label("Precedence", exact=True).fill("35")
    expect(page.get_by_text("Night operators at 35: 14 accounts change policy")).to_be_visible()
    page.get_by_role("button", name="Discard").click()
    expect(page.get_by_text("Night operators at 35")).to_be_hidden()


def test_a_layer_is_dragged_and_weighed_before_letting_go(page: Page) -> None:
    box = layer(page, "Night operators").bounding_box()
    assert box
    page.mouse.move(box["x"] + 90, box["y"] + 15)
    page.mouse.down()
    page.mouse.move(box["x"] + 90, box["y"] - 25, steps=5)
    expect(page.get_by_text("Night operators at 25: 6 accounts change policy")).to_be_visible()
    expect(page.get_by_test_id("target")).to_be_visible()
    page.mouse.up()
    page.get_by_role("button", name=re.compile("^Take it")).click()
    expect(page.get_by_role("button", name=re.compile(r"^25 Night operators"))).to_be_visible()


def test_findings_are_mended_and_accepted(page: Page) -> None:
    page.get_by_role("button", name="15 findings").click()
    panel = page.get_by_role("region", name="Findings")
    panel.get_by_role("button", name="Give Night operators the number 35").click()
    expect(page.get_by_role("button", name="14 findings")).to_be_visible()
    item = panel.get_by_role("listitem").filter(has_text="Phrase pilot governs nobody")
    item.get_by_role("button", name="Accept …").click()
    item.get_by_label("Reason").fill("the pilot starts in spring")
    item.get_by_role("button", name="Accept", exact=True).click()
    expect(page.get_by_role("button", name="13 findings")).to_be_visible()
    panel.get_by_role("radio", name="Accepted 1").click()
    expect(panel.get_by_role("listitem")).to_contain_text("accepted by ann")


@pytest.mark.opens("accounts?group=GS-Visiting-Astronomers")
def test_a_group_and_two_accounts_show_their_side(page: Page) -> None:
    expect(page.get_by_role("article", name="Group GS-Visiting-Astronomers")).to_contain_text(
        "What its 236 accounts really get"
    )
    page.get_by_role("button", name="Put on the bench").click()
    expect(page.get_by_role("button", name="3 on it")).to_be_visible()
    page.goto(f"{DOMAIN}/accounts?account=kiosk-north")
    page.get_by_role("combobox", name="Account to compare with").fill("ilse.varga")
    page.get_by_role("option", name=re.compile("^ilse.varga")).click()
    expect(
        page.get_by_role("row", name="≠ Minimum length 5 characters 14 characters")
    ).to_be_visible()


def test_a_report_and_a_drawing_are_saved_as_files(page: Page, tmp_path: Path) -> None:
    page.get_by_role("button", name="Report …").click()
    menu = page.get_by_role("dialog", name="Files of what is shown")
    menu.get_by_label("Service accounts").uncheck()
    menu.get_by_label("Changes since").fill("2 Mar 2020")
    check_accessibility(page)
    with page.expect_download() as download:
        menu.get_by_role("link", name="Save the report").click()
    report = tmp_path / download.value.suggested_filename
    download.value.save_as(report)
    assert report.name == "sky.tarnholt.example.html"
    with page.expect_download() as download:
        menu.get_by_role("link", name="The drawing").click()
    assert download.value.suggested_filename == "sky.tarnholt.example-strata.svg"
    assert download.value.path().read_text(encoding="utf-8").startswith("<svg")
    # Alone, without us, on a narrow window.
    page.set_viewport_size({"width": 400, "height": 640})
    page.goto(report.as_uri())
    expect(page.get_by_role("heading", name="Changes since 2 Mar 2020")).to_be_visible()
    expect(page.get_by_role("heading", name="Privileged accounts, strict")).to_be_visible()
    expect(page.get_by_role("heading", name="Service accounts")).to_have_count(0)
    expect(page.get_by_role("region", name="Night operators")).to_contain_text("60 accounts")
    assert page.evaluate("document.documentElement.scrollWidth") <= 400
    check_accessibility(page)


def test_unknown_places_say_so(page: Page) -> None:
    page.goto("/no.such.domain/strata")
    expect(page.get_by_role("alert")).to_contain_text("There is no domain 'no.such.domain' here.")
    page.goto(f"{DOMAIN}/strata?policy=00000000-0000-0000-0000-000000000000")
    expect(page.get_by_role("alert")).to_contain_text("no longer exists")
    page.goto("/no/such/page")
    expect(page.get_by_role("heading", name="There is no such page")).to_be_visible()


def test_the_bench_fills_itself_and_folds_away(page: Page) -> None:
    page.get_by_role("button", name="Open the bench").click()
    page.get_by_role("button", name="Take one account from each of the largest populations").click()
    expect(page.get_by_role("button", name=re.compile("off the bench"))).to_have_count(3)
    page.get_by_role("button", name=re.compile("off the bench")).first.click()
    expect(page.get_by_role("button", name=re.compile("off the bench"))).to_have_count(2)
    page.get_by_label("Candidate password").fill("hidden-one-2")
    page.get_by_role("button", name="hide").click()
    expect(page.get_by_label("Candidate password")).to_have_attribute("type", "password")
    expect(page.get_by_role("table", name="Verdicts")).to_be_visible()
    page.get_by_role("button", name="Fold the bench away").click()
    expect(page.get_by_role("table", name="Verdicts")).to_be_hidden()
    page.get_by_role("heading", name="Which policy").click()
    page.keyboard.press("b")
    expect(page.get_by_label("Candidate password")).to_be_focused()
