"""From an edit to a publish and back, in the real interface."""

from __future__ import annotations

import re
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page, expect

from browser_help import (
    DOMAIN,
    changes,
    check_accessibility,
    estate_shown,
    lengthen,
    saved,
    sign_in,
    why,
)
from hornfels.demo.tarnholt import templates

pytestmark = pytest.mark.browser


@pytest.mark.opens("sources")
def test_an_edit_is_weighed_approved_published_and_taken_back(
    page: Page, browser: Browser, address: str
) -> None:
    page.get_by_role("radio", name="a second person approves").click()
    why(page, "agreed in May")
    expect(page.get_by_role("radio", name="a second person approves")).to_be_checked()
    page.get_by_role("link", name="Strata", exact=True).click()
    lengthen(page, "Keyholders", "12")
    expect(page.get_by_text("live: 20")).to_be_visible()
    changes(page)
    expect(page.get_by_role("region", name="Keyholders")).to_contain_text(
        "Minimum length: 20 characters → 12 characters"
    )
    impact = page.get_by_role("region", name="Impact")
    expect(impact).to_contain_text("▲ 9 administrators would be held to less")
    expect(page.get_by_text("A second person has to approve it first.")).to_be_visible()
    expect(page.get_by_role("button", name="Publish …")).to_be_disabled()
    page.get_by_label("Reason").fill("Asked for by the night crew")
    page.get_by_label("Reason").blur()
    check_accessibility(page)

    second = browser.new_context(base_url=address).new_page()
    sign_in(second, "ben")
    second.goto(page.url)
    expect(second.get_by_label("Reason")).to_have_value("Asked for by the night crew")
    second.get_by_role("button", name="Approve").click()
    expect(second.get_by_text("✓ Approved by ben.")).to_be_visible()
    second.get_by_role("button", name="Publish …").click()
    second.get_by_role("button", name="Publish now").click()
    expect(second).to_have_url(re.compile(r"example/changes"))
    second.get_by_role("radio", name="History").click()
    expect(second.get_by_role("listitem").first).to_contain_text("by ben, approved by ben")
    expect(second.get_by_role("region", name="Compare")).to_contain_text(
        "Minimum length: 20 characters → 12 characters"
    )
    check_accessibility(second)
    second.get_by_role("button", name="Take back in a draft").click()
    second.get_by_role("radio", name="This draft").click()
    expect(second.get_by_role("region", name="Keyholders")).to_contain_text(
        "Minimum length: 12 characters → 20 characters"
    )
    second.context.close()
    page.goto(f"{DOMAIN}/strata")
    expect(page.get_by_role("button", name=re.compile(r"^5 Keyholders 12 ch"))).to_be_visible()


def test_undo_redo_and_the_switch_by_keyboard(page: Page) -> None:
    lengthen(page, "Night operators", "16")
    layer = page.get_by_role("button", name=re.compile(r"^30 Night operators"))
    expect(layer).to_contain_text("changed")
    page.keyboard.press("Escape")
    page.get_by_role("heading", name="Which policy holds where").click()
    page.keyboard.press("Control+z")
    expect(layer).not_to_contain_text("changed")
    page.keyboard.press("Control+y")
    expect(layer).to_contain_text("16 ch")
    page.keyboard.press("d")
    expect(estate_shown(page, "Live")).to_be_checked()
    expect(layer).to_contain_text("14 ch")
    page.keyboard.press("d")
    expect(layer).to_contain_text("16 ch")
    check_accessibility(page)


def test_a_change_is_taken_out_and_a_draft_dropped(page: Page) -> None:
    lengthen(page, "Night operators", "16")
    changes(page)
    page.get_by_role("button", name="Renumber with gaps").click()
    expect(page.get_by_role("region", name="All policies")).to_contain_text(
        "nobody's policy changes"
    )
    page.get_by_role("button", name="Take out: Night operators, Minimum length").click()
    expect(page.get_by_role("region", name="Night operators")).to_be_hidden()
    expect(page.get_by_text("✓ Nobody’s policy and no setting in force changes.")).to_be_visible()
    with page.expect_download() as download:
        page.get_by_role("link", name="Export as LDIF").click()
    assert download.value.suggested_filename.startswith("sky.tarnholt.example-draft-")
    assert "msDS-PasswordSettingsPrecedence: 10" in download.value.path().read_text()
    page.get_by_role("button", name="Drop the draft").click()
    page.get_by_role("button", name="Drop it for good").click()
    expect(page.get_by_text("No draft is open.")).to_be_visible()


def test_two_drafts_conflict_and_one_keeps_its_own(page: Page) -> None:
    lengthen(page, "Night operators", "16")
    first = page.url.partition("?")[0]
    estate_shown(page, "Live").click()
    expect(estate_shown(page, "Live")).to_be_checked()
    page.get_by_role("link", name="Changes", exact=True).click()
    page.get_by_label("New draft").fill("Other")
    page.get_by_role("button", name="Open", exact=True).click()
    expect(page.get_by_text("Nothing is changed in this draft yet.")).to_be_visible()
    page.get_by_role("link", name="Strata", exact=True).click()
    lengthen(page, "Night operators", "18")
    changes(page)
    page.get_by_role("button", name="Publish …").click()
    page.get_by_role("button", name="Publish now").click()
    expect(estate_shown(page, "Live")).to_be_checked()
    page.goto(first.replace("/strata", "/changes"))
    expect(
        page.get_by_text(
            "Does not fit live any more: Night operators was changed meanwhile: now minimum "
            "length 18"
        )
    ).to_be_visible()
    expect(page.get_by_role("button", name="Publish …")).to_be_disabled()
    page.get_by_role("button", name="Keep mine").click()
    expect(page.get_by_role("region", name="Night operators")).to_contain_text(
        "18 characters → 16 characters"
    )
    expect(page.get_by_role("button", name="Publish …")).to_be_enabled()


def test_a_policy_starts_from_reasons_or_from_another_policy(page: Page) -> None:
    page.get_by_role("button", name="+ Policy").click()
    page.get_by_label("Start from").select_option(label="Service accounts")
    expect(page.get_by_text("Never: an expiry nobody sees stops the service.")).to_be_visible()
    check_accessibility(page)
    page.get_by_label("Name", exact=True).fill("Robots")
    page.get_by_role("button", name="Create").click()
    expect(page.get_by_role("heading", name="Robots", level=2)).to_be_visible()
    expect(page.get_by_label("Minimum length", exact=True)).to_have_value("30")
    page.get_by_role("button", name=re.compile(r"^40 Visiting astronomers")).click()
    expect(page.get_by_role("heading", name="Visiting astronomers", level=2)).to_be_visible()
    page.get_by_role("button", name="Duplicate").click()
    page.get_by_label("Link it to the same Visiting astronomers links").check()
    page.get_by_role("button", name="Create").click()
    expect(page.get_by_role("heading", name="Visiting astronomers copy", level=2)).to_be_visible()
    expect(page.get_by_role("region", name="Linked to")).to_contain_text("GS-Visiting-Astronomers")


@pytest.mark.opens("accounts?account=ilse.varga")
def test_what_ifs_and_the_domain_policy_are_weighed(page: Page) -> None:
    core = page.get_by_role("article", name="Core of ilse.varga")
    page.get_by_role("combobox", name="Group to weigh it in").fill("gs-keyholders")
    page.get_by_role("option", name=re.compile("GS-Keyholders")).click()
    expect(core).to_contain_text(
        "Keyholders is linked to GS-Keyholders, which holds this account as a direct member."
    )
    page.get_by_label("Password never expires").check()
    expect(core).to_contain_text("The maximum age does not apply.")
    check_accessibility(page)
    page.get_by_label("named like").fill("ilse.varga")
    expect(page.get_by_role("row", name=re.compile("^ilse.varga"))).to_contain_text(
        "was Night operators"
    )
    page.get_by_role("link", name="Strata", exact=True).click()
    page.get_by_role("button", name=re.compile("^Bedrock")).click()
    page.get_by_label("Minimum length", exact=True).fill("12")
    page.get_by_role("button", name="Save to draft").click()
    expect(page.get_by_text("live: 8")).to_be_visible()
    changes(page)
    expect(page.get_by_role("region", name="Domain policy")).to_contain_text(
        "8 characters → 12 characters"
    )
    expect(
        page.get_by_text("What-ifs count in every screen while this draft is shown.")
    ).to_be_visible()


@pytest.mark.opens("sources")
def test_a_template_is_read_and_changed_where_the_domain_policy_comes_from(
    page: Page, tmp_path: Path
) -> None:
    files = {}
    for name, template in zip(("rules", "default", "machines"), templates().values(), strict=True):
        files[name] = tmp_path / f"{name}.inf"
        files[name].write_bytes(template)
    broken = tmp_path / "broken.inf"
    broken.write_text("nonsense")
    page.get_by_label("Template of Observatory account rules").set_input_files(broken)
    expect(page.get_by_role("alert")).to_contain_text("line 1: text before the first [section]")
    page.get_by_label("Template of Observatory account rules").set_input_files(files["rules"])
    expect(page.get_by_text("✓ says 7 settings")).to_be_visible()
    page.get_by_label("Template of Default Domain Policy").set_input_files(files["default"])
    expect(page.get_by_text("✓ says 12 settings")).to_be_visible()
    check_accessibility(page)
    page.get_by_role("link", name="Strata", exact=True).click()
    page.get_by_role("button", name=re.compile("^Bedrock")).click()
    expect(
        page.get_by_text(
            "Default Domain Policy says 7 characters: ignored, Observatory account rules "
            "comes first"
        )
    ).to_be_visible()
    check_accessibility(page)
    sources = page.get_by_role("region", name="Written from, first one first")
    sources.get_by_role("button", name="Observatory account rules").click()
    page.get_by_label("Minimum length is set here").uncheck()
    page.get_by_label("Clock tolerance is set here").check()
    expect(page.get_by_label("Clock tolerance", exact=True)).to_have_value("5 min")
    check_accessibility(page)
    page.get_by_role("button", name="Save to draft").click()
    expect(estate_shown(page, "Draft")).to_be_checked()
    page.get_by_role("button", name="All sources").click()
    expect(page.get_by_role("button", name=re.compile(r"^Bedrock.*7 ch"))).to_be_visible()
    page.get_by_role("button", name="Default Domain Policy").first.click()
    page.get_by_label("enforced").check()
    changes(page)
    expect(
        page.get_by_role("region", name="Template of Observatory account rules")
    ).to_contain_text("8 characters → not set here")
    expect(page.get_by_role("region", name="Domain policy")).to_contain_text(
        "not enforced → enforced"
    )


@pytest.mark.opens("strata?policy=domain")
def test_two_tabs_at_the_bedrock_lose_nothing(page: Page) -> None:
    def length(of: Page, text: str) -> None:
        of.get_by_label("Minimum length", exact=True).fill(text)
        of.keyboard.press("Enter")

    length(page, "11")
    expect(estate_shown(page, "Draft")).to_be_checked()
    other = page.context.new_page()
    other.goto(page.url)
    other.get_by_label("Minimum length", exact=True).fill("13")
    length(page, "12")
    saved(page)
    other.keyboard.press("Enter")
    refused = other.get_by_role("alert").filter(has_text="Nothing of yours was saved.")
    expect(refused).to_contain_text("Minimum length1213")
    refused.get_by_role("button", name="Save mine on top").click()
    expect(refused).to_have_count(0)
    expect(other.get_by_label("Minimum length", exact=True)).to_have_value("13")


def test_a_second_new_policy_from_live_has_a_precedence_of_its_own(page: Page) -> None:
    offered = []
    for name in ("Dusk", "Dawn"):
        page.get_by_role("button", name="+ Policy").click()
        offered.append(page.get_by_label("Precedence", exact=True).input_value())
        page.get_by_label("Name", exact=True).fill(name)
        page.get_by_label("Name", exact=True).press("Enter")
        expect(page.get_by_role("heading", name=name, level=2)).to_be_visible()
        page.get_by_role("radio", name="Live").click()
        expect(page.get_by_role("radio", name="Live")).to_be_checked()
    assert len(set(offered)) == 2, offered
