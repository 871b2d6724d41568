"""Notices by mail in the real interface, through a stand-in for a mail server."""

from __future__ import annotations

import io
from collections.abc import Iterator
from datetime import UTC, datetime
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect
from sqlalchemy import Engine
from sqlalchemy.orm import Session

from api_help import work_off
from browser_help import DOMAIN, SMALLEST, check_accessibility
from hornfels.demo.tarnholt import entries
from hornfels.formats.dump import load_dump
from hornfels.formats.ldif import write
from hornfels.mail.mailbox import letters, standing_in
from hornfels.store.estates import save_dump
from hornfels.store.models import LetterRow

MAILING = f"/api/domains{DOMAIN}/mailing"

pytestmark = [
    pytest.mark.browser,
    pytest.mark.opens("sources?mailing=sky.tarnholt.example"),
]


@pytest.fixture(autouse=True)
def mailbox(
    engine: Engine, address: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> Iterator[Path]:
    """Where the stand-in keeps letters; the domain is as it is today."""
    assert address
    today = load_dump(io.BytesIO(b"".join(write(entries(datetime.now(UTC))))), other_names=True)
    with Session(engine) as session, session.begin():
        save_dump(session, today, "tarnholt.ldif", "tester")
    with standing_in(tmp_path) as port:
        monkeypatch.setenv("HORNFELS_SMTP_HOST", "127.0.0.1")
        monkeypatch.setenv("HORNFELS_SMTP_PORT", str(port))
        monkeypatch.setenv("HORNFELS_SMTP_SECURITY", "none")
        monkeypatch.setenv("HORNFELS_SMTP_SENDER", "passwords@tarnholt.example")
        monkeypatch.setenv("HORNFELS_MAILBOX", str(tmp_path))
        yield tmp_path


@pytest.mark.thorough
def test_people_are_written_to_after_it_was_seen_what_they_would_get(
    page: Page, engine: Engine, mailbox: Path
) -> None:
    due = page.get_by_role("region", name="Who would be written to")
    expect(due).to_contain_text("people would get a letter now")
    check_accessibility(page)
    # Seen beforehand, in the language that somebody prefers or another.
    page.get_by_label("Account that would be written to").fill("ilse.varga")
    sample = page.get_by_role("region", name="A letter beforehand")
    expect(sample).to_contain_text("Hello Ilse Varga,")
    page.get_by_label("Language of the letter").select_option("de")
    expect(sample).to_contain_text("Guten Tag Ilse Varga,")
    page.get_by_label("What the letter is about").select_option("The account is locked")
    expect(sample).to_contain_text("Ihr Konto ist gesperrt")
    # As mail programs show it, with the looks that the letter brings.
    sample.get_by_role("radio", name="HTML").click()
    head = sample.frame_locator("iframe").get_by_role("heading", name="Ihr Konto ist gesperrt")
    expect(head).to_have_css("font-size", "20px")
    check_accessibility(page)
    page.get_by_label("Address for the test").fill("help@tarnholt.example")
    page.keyboard.press("Enter")
    expect(page.get_by_text("The mail server has taken it for help")).to_be_visible()
    assert [one.to for one in letters(mailbox, 9)] == ["help@tarnholt.example"]
    # What is typed stays while one looks elsewhere, and is refused where it is wrong.
    page.get_by_label("Days before a password ends").fill("400")
    expect(due.get_by_role("alert")).to_contain_text("from 1 to 90")
    page.get_by_role("link", name="Strata", exact=True).click()
    page.get_by_role("grid").wait_for()
    page.go_back()
    days = page.get_by_label("Days before a password ends")
    expect(days).to_have_value("400")
    # Somebody else saves meanwhile: nothing of theirs is lost unseen.
    theirs = {"mailing": {"days": [21]}, "version": 0, "reason": "Mine"}
    saved = page.request.put(f"{MAILING}", data=theirs)
    assert saved.status == 200, saved.text()
    expect(page.get_by_text("Somebody else has saved this meanwhile.")).to_be_visible()
    page.get_by_role("button", name="Show theirs").click()
    expect(days).to_have_value("21")
    days.fill("14")
    page.get_by_role("radio", name="written to", exact=True).click()
    page.get_by_role("button", name="Save …").click()
    page.get_by_label("Why", exact=True).fill("So that nobody is surprised")
    page.keyboard.press("Enter")
    page.get_by_role("button", name="Write now").click()
    expect(due).to_contain_text("Waits for a worker")
    work_off(engine)
    expect(due).to_contain_text("handed over.")
    expect(due).to_contain_text("Nobody just now.")
    check_accessibility(page)
    with Session(engine) as session, session.begin():
        english = session.query(LetterRow).where(LetterRow.language == "en")
        first = english.order_by(LetterRow.account).first()
        assert first
        first.state, first.told = "refused", "The mail server said: 550 No such mailbox"
        account, address = first.account, first.address
    listed = page.get_by_role("region", name="Letters")
    page.get_by_label("Letters to this account").fill(account)
    expect(listed).to_contain_text("550 No such mailbox")
    before = len(letters(mailbox, 1000))
    listed.get_by_role("button", name="Send it again").dblclick()
    expect(listed).to_contain_text("waits")
    work_off(engine)
    expect(listed).to_contain_text("✓ handed over")
    assert len(letters(mailbox, 1000)) == before + 1
    kept = page.get_by_role("region", name="Mailbox")
    kept.get_by_role("button", name=address).first.click()
    expect(kept.get_by_role("article")).to_contain_text("Nobody asks you for your password by mail")
    kept.get_by_role("radio", name="HTML").click()
    expect(kept.frame_locator("iframe").get_by_role("main")).to_contain_text("Nobody asks you")


@pytest.mark.opens("strata")
def test_a_report_is_ordered_and_comes(page: Page, engine: Engine, mailbox: Path) -> None:
    page.set_viewport_size(SMALLEST)
    page.get_by_role("button", name="Report …").click()
    page.get_by_role("link", name="Report by mail …").click()
    page.get_by_role("radio", name="comes by itself", exact=True).click()
    page.get_by_label("To these addresses").fill("chief@tarnholt.example, nowhere")
    page.get_by_label("Every").select_option("month")
    page.get_by_label("Day of the month").fill("15")
    page.get_by_role("button", name="Save …").click()
    page.get_by_label("Why", exact=True).fill("The auditors want it")
    page.keyboard.press("Enter")
    expect(page.get_by_text("“nowhere” is no address")).to_be_visible()
    check_accessibility(page)
    page.get_by_label("To these addresses").fill("chief@tarnholt.example")
    page.get_by_label("Why", exact=True).press("Enter")
    expect(page.get_by_role("button", name="Save …")).to_have_count(0)
    last = page.get_by_role("region", name="The last report")
    expect(last).to_contain_text("None was sent yet.")
    with page.expect_response(lambda answer: answer.url.endswith("/report-order/now")):
        last.get_by_role("button", name="Send one now").click()
    work_off(engine)
    expect(last).to_contain_text("chief@tarnholt.example ✓ handed over")
    (letter,) = letters(mailbox, 9)
    assert (letter.to, "1,184 accounts" in letter.text) == ("chief@tarnholt.example", True)
    page.get_by_role("button", name="Close panel").click()
    part = page.get_by_role("region", name="Report by mail")
    expect(part).to_contain_text("It comes every month, next on 15")
