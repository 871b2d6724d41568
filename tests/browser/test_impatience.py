"""What an impatient person does: goes on before the answer is there, leaves in the middle, works in
two tabs, outlasts the session.
"""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Browser, Page, expect
from sqlalchemy import Engine, text

from browser_help import (
    DOMAIN,
    NAME,
    Slow,
    changes,
    check_accessibility,
    estate_shown,
    lengthen,
    sign_in,
)
from browser_states import lay
from persons import PASSWORD

pytestmark = pytest.mark.browser


def open_policy(page: Page, name: str) -> None:
    page.get_by_role("button", name=re.compile(rf"^\d+ {name}\b")).click()
    expect(page.get_by_role("heading", name=name, level=2)).to_be_visible()


def unsaved(page: Page, what: str) -> None:
    page.get_by_role("button", name=re.compile("unsaved")).click()
    page.get_by_role("menuitem", name=what).click()


def test_publishing_waits_for_the_reason_that_was_just_typed(page: Page) -> None:
    lengthen(page, "Night operators", "16")
    changes(page)
    page.get_by_role("button", name="Publish …").click()
    line = Slow(page, r"/draft$", "PATCH")
    page.get_by_label("Reason").fill("agreed with the night crew")
    page.get_by_role("button", name="Publish now").click()
    expect(page.get_by_role("button", name="Publishing …")).to_be_disabled()
    line.let_go()
    expect(estate_shown(page, "Live")).to_be_checked()
    page.get_by_role("radio", name="History").click()
    expect(page.get_by_role("listitem").first).to_contain_text("agreed with the night crew")


def _other_layer(page: Page) -> None:
    open_policy(page, "Keyholders")
    expect(page.get_by_label("Minimum length", exact=True)).to_have_value("20")
    open_policy(page, "Night operators")


def _other_screen(page: Page) -> None:
    page.get_by_role("link", name="Accounts", exact=True).click()
    page.get_by_role("table").first.wait_for()
    unsaved(page, "Night operators")


def _reload(page: Page) -> None:
    page.reload()


def _live_and_back(page: Page) -> None:
    page.get_by_role("heading", name="Which policy holds where").click()
    page.keyboard.press("d")
    expect(estate_shown(page, "Live")).to_be_checked()
    expect(page.get_by_label("Minimum length", exact=True)).to_have_value("14")
    page.keyboard.press("d")
    expect(estate_shown(page, "Draft")).to_be_checked()


def _escape(page: Page) -> None:
    page.get_by_role("heading", name="Which policy holds where").click()
    page.keyboard.press("Escape")
    expect(page.get_by_role("heading", name="Night operators", level=2)).to_be_hidden()
    unsaved(page, "Night operators")


def test_edits_outlive_leaving(page: Page) -> None:
    lengthen(page, "Grants office", "15")
    open_policy(page, "Night operators")
    page.get_by_label("Minimum length", exact=True).fill("18")
    page.get_by_label("Maximum age", exact=True).fill("a fortn")
    expect(page.get_by_role("button", name="1 unsaved")).to_be_visible()
    for leave in (_other_layer, _other_screen, _reload, _live_and_back, _escape):
        leave(page)
        expect(page.get_by_label("Minimum length", exact=True)).to_have_value("18")
        expect(page.get_by_label("Maximum age", exact=True)).to_have_value("a fortn")
    page.get_by_label("Maximum age", exact=True).fill("50 d")
    page.get_by_role("button", name="Save to draft").click()
    expect(
        page.get_by_role("button", name=re.compile(r"^30 Night operators .*18 ch · 50 d"))
    ).to_be_visible()
    expect(page.get_by_role("button", name=re.compile("unsaved"))).to_be_hidden()


def test_a_new_policy_a_bedrock_edit_and_a_trial_are_kept_too(page: Page) -> None:
    page.get_by_role("button", name="+ Policy").click()
    page.get_by_label("Name").fill("Half done")
    page.get_by_role("button", name=re.compile("Bedrock")).first.click()
    page.get_by_label("Minimum length", exact=True).fill("11")
    page.get_by_role("combobox", name="Account or policy to try it on").fill("ilse.varga")
    page.get_by_role("option", name="ilse.varga").click()
    page.get_by_label("Candidate password").fill("Perigee-2031")
    page.get_by_role("button", name="Keep as trial …").click()
    page.get_by_label("What it guards").fill("Nights need length")
    page.mouse.click(400, 60)
    expect(page.get_by_label("What it guards")).to_be_hidden()
    page.get_by_role("button", name="Keep as trial …").click()
    expect(page.get_by_label("What it guards")).to_have_value("Nights need length")
    page.keyboard.press("Escape")
    expect(page.get_by_role("button", name="3 unsaved")).to_be_visible()
    assert "Perigee-2031" not in page.evaluate(
        "JSON.stringify({...sessionStorage}) + JSON.stringify({...localStorage})"
    )
    unsaved(page, "New policy")
    expect(page.get_by_label("Name")).to_have_value("Half done")
    unsaved(page, "Domain policy")
    expect(page.get_by_label("Minimum length", exact=True)).to_have_value("11")
    check_accessibility(page)


def test_what_is_unsaved_when_its_draft_is_published_goes_on_in_live(page: Page) -> None:
    lengthen(page, "Grants office", "15")
    open_policy(page, "Night operators")
    page.get_by_label("Minimum length", exact=True).fill("18")
    changes(page)
    page.get_by_role("button", name="Publish …").click()
    expect(page.get_by_role("region", name="Review and publish")).to_contain_text(
        "Not in it, since it is not saved to the draft: Night operators"
    )
    line = Slow(page, r"/publish$", "POST")
    page.get_by_role("button", name="Publish now").click()
    expect(page.get_by_role("button", name="Publishing …")).to_be_visible()
    # What is opened before the answer stays open: the focus is not taken from it by what was done
    # before.
    page.get_by_role("button", name=re.compile("unsaved")).click()
    line.let_go()
    expect(page.locator("#take-back")).to_be_visible()
    expect(estate_shown(page, "Live")).to_be_checked()
    page.get_by_role("menuitem", name="Night operators").click()
    expect(page.get_by_label("Minimum length", exact=True)).to_have_value("18")


def test_who_goes_to_the_end_before_the_first_page_is_there_gets_there(page: Page) -> None:
    page.goto("about:blank")
    line = Slow(page, r"/accounts\?.*offset=0\b")
    page.goto(f"{DOMAIN}/accounts")
    expect(page.get_by_role("main").get_by_text("1,184 accounts", exact=True)).to_be_visible()
    page.get_by_role("row").nth(1).focus()
    page.keyboard.press("End")
    expect(page.locator(":focus")).to_have_attribute("aria-rowindex", "1185")
    expect(page.locator(":focus")).to_contain_text("zoe.")
    line.let_go()
    page.keyboard.press("Home")
    expect(page.locator(":focus")).to_contain_text("Administrator")


def test_the_next_step_takes_the_focus_before_where_one_came_from(
    browser: Browser, address: str
) -> None:
    # In a context of its own: a clock that is set stays set for all later pages of its context.
    page = browser.new_context(base_url=address).new_page()
    sign_in(page, NAME)
    page.get_by_role("combobox", name="Find account, group or policy").focus()
    # As the finder opens it: the field keeps the focus until the panel takes it.
    page.get_by_role("button", name=re.compile(r"^\d+ Night operators\b")).evaluate(
        "e => e.click()"
    )
    page.get_by_label("Minimum length", exact=True).fill("16")
    page.keyboard.press("Control+s")
    expect(page.get_by_role("link", name="Review the draft")).to_be_focused()
    page.clock.install()
    line = Slow(page, r"/draft$", "GET")
    page.keyboard.press("Enter")
    expect(page.get_by_text("Reading the draft")).to_be_visible()
    page.clock.fast_forward("00:20")
    line.let_go()
    expect(page.get_by_role("button", name="Publish …")).to_be_focused()
    page.context.close()


def end_sessions(engine: Engine, page: Page) -> None:
    """End them as another process does, and wait until this one has learnt of it."""
    with engine.begin() as connection:
        connection.execute(text("DELETE FROM sessions"))
    while page.request.get("/api/settings").ok:
        pass


def type_a_length(page: Page) -> None:
    """Type a length, and wait for its effects: asking for them would find the session over."""
    open_policy(page, "Night operators")
    page.get_by_label("Minimum length", exact=True).fill("18")
    expect(page.get_by_text("Hits 60 accounts: stronger for 60.")).to_be_visible()


def test_a_session_that_is_over_is_taken_up_in_place_and_in_every_tab(
    page: Page, engine: Engine
) -> None:
    type_a_length(page)
    other = page.context.new_page()
    other.goto(f"{DOMAIN}/accounts")
    other.get_by_role("table").first.wait_for()
    # What was still being asked would find the session over before anything is typed.
    other.wait_for_load_state("networkidle")
    end_sessions(engine, page)
    other.get_by_role("combobox", name="Find account, group or policy").fill("ilse")
    expect(other.get_by_role("dialog", name="Your session is over")).to_be_visible()
    page.get_by_role("button", name="Save to draft").click()
    dialog = page.get_by_role("dialog", name="Your session is over")
    expect(dialog.get_by_label("Name")).to_have_value(NAME)
    check_accessibility(page)
    page.keyboard.press("Escape")
    dialog.get_by_label("Password", exact=True).fill("wrong")
    dialog.get_by_label("Password", exact=True).press("Enter")
    expect(dialog.get_by_role("alert")).to_be_visible()
    dialog.get_by_label("Password", exact=True).fill(PASSWORD)
    dialog.get_by_label("Password", exact=True).press("Enter")
    expect(dialog).to_be_hidden()
    # What was asked before goes on by itself, here and in the other tab.
    expect(
        page.get_by_role("button", name=re.compile(r"^30 Night operators .*18 ch"))
    ).to_be_visible()
    expect(other.get_by_role("dialog")).to_be_hidden()
    finder = other.get_by_role("combobox", name="Find account, group or policy")
    expect(finder).to_have_value("ilse")
    expect(other.locator("input:focus")).to_have_attribute(
        "aria-label", "Find account, group or policy"
    )
    finder.press("ArrowDown")
    expect(other.get_by_role("option", name=re.compile("^ilse.varga"))).to_be_visible()


def test_somebody_else_does_not_go_on_under_the_name_of_the_one_before(
    page: Page, engine: Engine
) -> None:
    type_a_length(page)
    end_sessions(engine, page)
    page.get_by_role("button", name="Save to draft").click()
    dialog = page.get_by_role("dialog", name="Your session is over")
    dialog.get_by_label("Name").fill("ben")
    dialog.get_by_label("Password", exact=True).fill(PASSWORD)
    dialog.get_by_label("Password", exact=True).press("Enter")
    expect(page.get_by_role("button", name="Signed in as ben")).to_be_visible()
    expect(page.get_by_role("button", name=re.compile("unsaved"))).to_be_hidden()
    page.get_by_role("link", name="Changes", exact=True).click()
    expect(page.get_by_text("No draft is open.")).to_be_visible()


def test_signing_out_leads_to_the_sign_in_page_and_no_dialog(page: Page) -> None:
    page.get_by_role("button", name=f"Signed in as {NAME}").click()
    page.get_by_role("menuitem", name="Sign out").click()
    expect(page.get_by_role("heading", name="Hornfels")).to_be_visible()
    expect(page.get_by_role("dialog")).to_be_hidden()


def test_two_tabs_go_on_with_one_draft_and_a_stale_one_is_shown_what_changed(page: Page) -> None:
    other = page.context.new_page()
    other.goto(f"{DOMAIN}/strata")
    other.get_by_role("grid").wait_for()
    lengthen(page, "Night operators", "16")
    lengthen(other, "Grants office", "15")
    changes(page)
    page.reload()
    expect(page.get_by_role("region", name="Grants office")).to_be_visible()
    expect(page.get_by_role("radio", name="Open drafts 1")).to_be_visible()
    other.goto(page.url.partition("?")[0])
    other.get_by_role("button", name="Take out: Grants office, Minimum length").click()
    expect(other.get_by_role("region", name="Grants office")).to_be_hidden()
    page.get_by_role("button", name="Publish …").click()
    page.get_by_role("button", name="Publish now").click()
    expect(page.get_by_role("alert")).to_contain_text(
        "it was changed in another window of yours meanwhile"
    )
    expect(page.get_by_role("region", name="Grants office")).to_be_hidden()
    page.get_by_role("button", name="Publish now").click()
    expect(estate_shown(page, "Live")).to_be_checked()


def test_a_publish_that_live_has_overtaken_shows_the_conflict(
    page: Page, browser: Browser, address: str
) -> None:
    lengthen(page, "Night operators", "16")
    changes(page)
    page.get_by_role("button", name="Publish …").click()
    second = browser.new_context(base_url=address).new_page()
    sign_in(second, "ben")
    lengthen(second, "Night operators", "15")
    changes(second)
    second.get_by_role("button", name="Publish …").click()
    second.get_by_role("button", name="Publish now").click()
    expect(estate_shown(second, "Live")).to_be_checked()
    second.context.close()
    page.get_by_role("button", name="Publish now").click()
    expect(page.get_by_role("alert")).to_contain_text("Nothing was published")
    expect(
        page.get_by_text(
            "✕ Does not fit live any more: Night operators was changed meanwhile: now "
            "minimum length 15 characters."
        )
    ).to_be_visible()
    expect(page.get_by_role("button", name="Keep mine")).to_be_visible()


def test_a_verdict_belongs_to_the_candidate_beside_it(page: Page) -> None:
    lay(page, "short", ("ilse.varga",))
    expect(page.get_by_role("table", name="Verdicts")).to_contain_text("Refused")
    line = Slow(page, r"/verdicts$")
    page.get_by_label("Candidate password").fill("Perigee-Transit-31")
    expect(page.get_by_text("Asking about the candidate as it stands now …")).to_be_visible()
    # What was said of the one before is out of everybody's sight or hearing.
    expect(page.get_by_role("table", name="Verdicts")).to_be_hidden()
    expect(page.get_by_role("button", name="Keep as trial …")).to_be_disabled()
    line.let_go()
    expect(page.get_by_role("table", name="Verdicts")).to_contain_text("Accepted")
    expect(page.get_by_text("Asking about the candidate")).to_be_hidden()


def test_what_the_file_leaves_out_is_said_beside_the_export_and_what_is_so_can_be_closed(
    page: Page,
) -> None:
    lengthen(page, "Night operators", "16")
    page.get_by_label("Guarded against deletion").click()
    changes(page)
    page.get_by_text("The LDIF file leaves out 1 change of this draft").click()
    expect(page.get_by_text("The guard against deletion is an access rule")).to_be_visible()
    with page.expect_download() as download:
        page.get_by_role("link", name="Export as LDIF").click()
    assert "NOT IN THIS FILE (1)" in download.value.path().read_text()
    check_accessibility(page)


def test_a_pointer_that_rests_where_the_list_opens_chooses_nothing(page: Page) -> None:
    open_policy(page, "Night operators")
    page.get_by_role("button", name="+ Link").click()
    finder = page.get_by_role("combobox", name="Group or account to link")
    hits = page.get_by_role("listbox", name="Group or account to link").get_by_role("option")
    finder.fill("GS-")
    expect(page.get_by_text("Searching for")).to_be_hidden()
    second = hits.nth(1)
    expect(second).to_be_visible()
    box = second.bounding_box()
    assert box
    finder.fill("")
    expect(second).to_be_hidden()
    page.mouse.move(box["x"] + 20, box["y"] + box["height"] / 2)
    finder.press_sequentially("GS-")
    first = hits.first
    expect(first).to_have_attribute("aria-selected", "true")
    name = first.locator("span").first.inner_text()
    finder.press("Enter")
    expect(page.get_by_role("region", name="Linked to")).to_contain_text(name)


def test_a_link_to_an_account_is_confirmed(page: Page) -> None:
    open_policy(page, "Night operators")
    page.get_by_role("button", name="+ Link").click()
    finder = page.get_by_role("combobox", name="Group or account to link")
    finder.fill("ilse.varga")
    expect(page.get_by_role("option", name="ilse.varga")).to_be_visible()
    finder.press("Enter")
    links = page.get_by_role("region", name="Linked to")
    act = links.get_by_role("button", name="Link to ilse.varga")
    expect(act).to_be_focused()
    links.get_by_role("button", name="Cancel").click()
    expect(links.get_by_role("listitem").filter(has_text="ilse.varga")).to_have_count(0)
    expect(finder).to_be_focused()
    finder.fill("ilse.varga")
    expect(page.get_by_role("option", name="ilse.varga")).to_be_visible()
    finder.press("Enter")
    act.press("Enter")
    expect(links.get_by_role("listitem").filter(has_text="ilse.varga")).to_be_visible()
    links.get_by_role("button", name="Unlink ilse.varga").click()
    expect(links.get_by_role("listitem").filter(has_text="ilse.varga")).to_have_count(0)
