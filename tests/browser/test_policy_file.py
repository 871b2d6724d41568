"""A policy file in the interface: handed out, held against live, made into a draft."""

from __future__ import annotations

from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from browser_help import DOMAIN, check_accessibility


@pytest.fixture
def exported(page: Page, tmp_path: Path) -> Path:
    page.goto(f"{DOMAIN}/sources")
    with page.expect_download() as download:
        page.get_by_role("link", name="Download it").click()
    file = tmp_path / download.value.suggested_filename
    download.value.save_as(file)
    return file


def chosen(page: Page, file: Path) -> None:
    page.get_by_label("Policy file of").set_input_files(file)


def test_a_file_is_held_against_live_and_becomes_a_draft(page: Page, exported: Path) -> None:
    part = page.get_by_role("region", name="Policies as a file")
    assert exported.name == "sky.tarnholt.example.yaml"
    chosen(page, exported)
    expect(part.get_by_text("Nothing to change")).to_be_visible()
    expect(part.get_by_role("button", name="Make a draft")).to_have_count(0)
    text = exported.read_text()
    file = exported.with_name("agreed.yaml")
    file.write_text(text.replace("    min_length: 20\n", "    min_length: 23\n", 1))
    chosen(page, file)
    expect(part.get_by_text("agreed.yaml wants 1 change of live")).to_be_visible()
    expect(part.get_by_role("group", name="What it changes")).to_contain_text(
        "KeyholdersMinimum length 20 characters → 23 characters"
    )
    check_accessibility(page)
    part.get_by_role("button", name="Forget it").click()
    expect(part.get_by_label("Policy file of")).to_be_focused()
    chosen(page, file)
    part.get_by_role("button", name="Make a draft of it").click()
    expect(page.get_by_label("Draft", exact=True)).to_have_value("From agreed.yaml")
    expect(page.get_by_role("region", name="Keyholders")).to_contain_text("23 characters")
    expect(page.locator(":focus")).to_have_count(1)


def test_what_is_wrong_is_told_with_its_place(page: Page, exported: Path) -> None:
    text = exported.read_text().replace("complexity: on", "complexity: perhaps", 1)
    exported.write_text(text.replace("precedence: 5\n", "precedense: 5\n", 1))
    chosen(page, exported)
    wrong = page.get_by_role("list", name="What is wrong")
    expect(wrong.get_by_role("listitem")).to_have_text(
        [
            "line 6, column 15 complexity has to be on or off.",
            "line 17, column 5 “precedence” is missing; add it.",
            "line 18, column 5 “precedense” is no key here; is “precedence” meant?",
        ]
    )
    check_accessibility(page)
    # Mended in the editor, the same file is chosen again.
    exported.write_text(text.replace("complexity: perhaps", "complexity: on", 1))
    chosen(page, exported)
    expect(page.get_by_text("Nothing to change")).to_be_visible()
    expect(wrong).to_have_count(0)


def test_a_watched_file_shows_drift_and_both_ways_back(
    page: Page, exported: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    text = exported.read_text()
    exported.write_text(text.replace("    min_length: 20\n", "    min_length: 23\n", 1))
    monkeypatch.setenv("HORNFELS_POLICIES", str(exported.parent))
    page.reload()
    part = page.get_by_role("region", name="Watched file")
    expect(part).to_contain_text("sky.tarnholt.example.yaml wants 1 change of live")
    check_accessibility(page)
    with page.expect_download() as download:
        part.get_by_role("link", name="The file brought up to live").click()
    assert download.value.path().read_text() == text
    part.get_by_role("button", name="A draft of the file").click()
    expect(page.get_by_label("Draft", exact=True)).to_have_value("From sky.tarnholt.example.yaml")
