"""The bench as its users work with it: characters, circumstances, boundaries, suggestions, trials
and the card.
"""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Locator, Page, expect

from browser_help import DOMAIN, estate_shown, saved, why

pytestmark = pytest.mark.browser


def lay(page: Page, *names: str) -> None:
    for name in names:
        page.get_by_role("combobox", name="Account or policy to try it on").fill(name)
        page.get_by_role("option", name=re.compile(f"^{name}")).first.click()


def type_candidate(page: Page, text: str) -> None:
    page.get_by_label("Candidate password", exact=True).fill(text)


def row(page: Page, name: str) -> Locator:
    return page.get_by_role("table", name="Verdicts").get_by_role(
        "row", name=re.compile(f"^{name}")
    )


def edit(page: Page, policy: str, **values: str) -> None:
    page.get_by_role("button", name=re.compile(rf"^\d+ {policy}\b")).click()
    for label, value in values.items():
        page.get_by_label(label.replace("_", " "), exact=True).fill(value)
    page.get_by_role("button", name="Save to draft").click()
    saved(page)
    expect(estate_shown(page, "Draft")).to_be_checked()


def keep_trial(page: Page, title: str, group: str) -> Locator:
    page.get_by_role("button", name="Keep as trial").click()
    form = page.get_by_role("dialog", name="Keep as a trial")
    form.get_by_label("What it guards").fill(title)
    form.get_by_role("radio", name="A group").click()
    expect(form.get_by_text("Nobody is chosen yet.")).to_be_visible()
    form.get_by_role("combobox", name="Group of the trial").fill(group)
    form.get_by_role("option", name=re.compile(group, re.IGNORECASE)).first.click()
    form.get_by_role("radio", name="Must be refused").click()
    return form


def test_characters_are_shown_by_group_and_can_be_hidden(page: Page) -> None:
    lay(page, "ilse.varga")
    type_candidate(page, "aÄ1-中😀 ")
    strip = page.get_by_role("list", name="Characters of the candidate by group")
    expect(strip.get_by_role("listitem")).to_have_text(
        [
            re.compile(label)
            for label in (
                "lowercase",
                "uppercase",
                "digits",
                "symbols",
                "without case",
                "×2.*no group",
                "␣.*no group",
            )
        ]
    )
    page.get_by_role("button", name="hide", exact=True).click()
    expect(page.get_by_label("Candidate password", exact=True)).to_have_attribute(
        "type", "password"
    )
    expect(strip).not_to_contain_text("Ä")


def test_live_and_draft_stand_one_below_the_other_where_they_differ(page: Page) -> None:
    lay(page, "ilse.varga", "svc-spectro3")
    type_candidate(page, "Perigee-2031")
    edit(page, "Night operators", Minimum_length="12")
    expect(row(page, "Length")).to_contain_text("12 ≥ 12")
    page.get_by_role("radio", name="Both").click()
    expect(row(page, "Length").get_by_role("cell").first).to_have_text(
        re.compile("live.*12 of 14.*draft.*12 ≥ 12")
    )
    expect(row(page, "Length").get_by_role("cell").last).to_have_text(
        re.compile("^✕ .*12 of 32 · 20 more characters$")
    )
    page.get_by_role("radiogroup", name="Which estate judges").get_by_role(
        "radio", name="Live"
    ).click()
    expect(row(page, "Length")).to_contain_text("12 of 14 · 2 more characters")


def test_circumstances_bend_the_verdict_and_are_kept_nowhere(page: Page) -> None:
    lay(page, "ilse.varga")
    type_candidate(page, "Perigee-Transit-31")
    expect(row(page, "History")).to_contain_text("only the directory knows")
    page.get_by_role("button", name="Circumstances").click()
    form = page.get_by_role("dialog", name="Circumstances of the trial")
    form.get_by_label("As of").fill("2026-03-02T10:00:00")
    form.get_by_label("Present password set").fill("2026-03-02T07:00:00")
    form.get_by_role("button", name="+ The present one").click()
    form.get_by_label("Password 1 back", exact=True).fill("Perigee-Transit-30")
    form.get_by_role("button", name="+ 2 back").click()
    form.get_by_label("Password 2 back", exact=True).fill("Perigee-Transit-31")
    form.get_by_role("button", name="Done").click()
    expect(row(page, "History")).to_contain_text(
        "2nd of 24 remembered · choose another; free again after 23 other passwords"
    )
    expect(row(page, "Minimum age")).to_contain_text("set 3 h ago of 1 d · wait 21 h")
    expect(row(page, "They are told")).to_contain_text("You had it 1 password ago.")
    assert "Transit" not in page.url
    assert "Transit" not in page.evaluate("JSON.stringify({...localStorage, ...sessionStorage})")
    page.get_by_role("button", name="Circumstances · 3").click()
    form.get_by_role("button", name="As it is").click()
    expect(row(page, "History")).to_contain_text("only the directory knows")


def test_a_policy_brings_one_of_each_population_or_itself(page: Page) -> None:
    lay(page, "Night operators")
    expect(page.get_by_role("button", name=re.compile("off the bench"))).to_have_count(2)
    page.get_by_role("button", name=re.compile(r"^\d+ Phrase pilot\b")).click()
    page.get_by_role("button", name="Put on the bench").click()
    type_candidate(page, "Perigee-2031")
    expect(page.get_by_role("columnheader", name="Anybody under Phrase pilot")).to_be_visible()
    expect(row(page, "Length").get_by_role("cell").last).to_contain_text("12 of 20")


def test_enter_tries_a_candidate_under_every_policy(page: Page) -> None:
    page.keyboard.press("b")
    page.keyboard.type("Perigee-2031")
    page.keyboard.press("Enter")
    verdicts = page.get_by_role("table", name="Verdicts")
    layers = page.get_by_role("grid").get_by_role("rowheader").locator("button[aria-pressed]")
    expect(verdicts.get_by_role("columnheader")).to_have_count(layers.count() + 2)
    expect(verdicts.get_by_role("columnheader").last).to_contain_text("Domain policy")
    length = verdicts.get_by_role("row").filter(has=page.get_by_role("rowheader", name="Length"))
    expect(length.get_by_role("cell").first).to_contain_text("12 of 20")
    expect(length.get_by_role("cell").last).to_contain_text("12 ≥ 8")
    expect(page.get_by_label("Candidate password", exact=True)).to_be_focused()


def test_boundary_candidates_are_tried_as_they_lie(page: Page) -> None:
    lay(page, "ilse.varga")
    page.get_by_role("radio", name="Boundaries").click()
    page.get_by_role("button", name="Draw candidates").click()
    found = page.get_by_role("table", name="Boundary candidates")
    expect(found.get_by_role("row")).to_have_count(7)
    for number, outcome, refused in (
        (1, "✓ Accepted", ""),
        (5, "✕ Refused", "History"),
        (6, "✕ Refused", "Minimum age"),
    ):
        found.get_by_role("row").nth(number).get_by_role("button", name="Try it").click()
        expect(page.get_by_label("Candidate password", exact=True)).to_be_focused()
        expect(row(page, "Verdict").get_by_role("cell")).to_have_text(outcome)
        failed = (
            page.get_by_role("table", name="Verdicts").get_by_role("row").filter(has_text="failed:")
        )
        expect(failed).to_have_count(1 if refused else 0)
        if refused:
            expect(failed).to_have_text(re.compile(f"^{refused}"))
        page.get_by_role("radio", name="Boundaries").click()


def test_a_trial_is_kept_shows_red_and_holds_up_publishing(page: Page) -> None:
    lay(page, "kiosk-north")
    type_candidate(page, "40719")
    form = keep_trial(page, "No digits alone at the kiosks", "gs-dome-kiosks")
    expect(form.get_by_role("button", name="Keep the trial")).to_be_disabled()
    form.get_by_label("This candidate is invented; nobody uses it").check()
    form.get_by_role("button", name="Keep the trial").click()
    trial = page.get_by_role("table", name="Trials").get_by_role(
        "row", name=re.compile("^No digits alone")
    )
    expect(trial).to_contain_text("it is accepted.")
    page.get_by_role("button", name="Change …").click()
    why(page, "agreed in May")
    expect(page.get_by_text("Publishing wants all of them met.")).to_be_visible()
    edit(page, "Night operators", Minimum_length="16")
    page.get_by_role("link", name="Changes", exact=True).click()
    publish = page.get_by_role("button", name="Publish …")
    expect(publish).to_be_disabled()
    expect(
        page.get_by_text("This domain wants all trials met before publishing; 1 trial of 1 is not.")
    ).to_be_visible()
    page.get_by_role("link", name="Strata", exact=True).click()
    edit(page, "Kiosk floor", Minimum_length="6")
    expect(trial).to_contain_text("As expected for all 12 accounts. Not met live.")
    page.get_by_role("link", name="Changes", exact=True).click()
    publish.click()
    page.get_by_role("button", name="Publish now").click()
    expect(page.get_by_role("button", name="Take back in a draft")).to_be_focused()
    page.get_by_role("button", name="Drop the trial “No digits alone at the kiosks”").click()
    expect(page.get_by_text("No trial is kept yet.")).to_be_visible()


@pytest.mark.opens("accounts?account=ilse.varga")
def test_the_card_ticks_as_somebody_types(page: Page) -> None:
    page.get_by_role("link", name="Explain it to them").click()
    expect(page.get_by_role("heading", name="Your password")).to_be_visible()
    asked = page.get_by_role("region", name="What a new password needs").get_by_role("listitem")
    page.get_by_role("textbox", name="Try one").fill("Varga-2031")
    expect(asked).to_have_text([re.compile(sign) for sign in ("^✕", "^✓", "^✕", r"^\?")])
    expect(page.get_by_role("status")).to_contain_text("It contains “Varga”, from your own name.")
    page.emulate_media(media="print")
    expect(page.get_by_role("textbox", name="Try one")).to_be_hidden()
    expect(asked.first).to_be_visible()
    page.emulate_media(media="screen")
    page.goto(f"{DOMAIN}/card?policy=domain")
    expect(page.get_by_text("For everybody under “Domain policy”")).to_be_visible()
    page.goto(f"{DOMAIN}/card?account=nobody")
    expect(page.get_by_role("alert")).to_contain_text(
        "There is no account 'nobody' in this domain."
    )
