"""Servers in the interface: a set made, templates read in, the odd ones seen and corrected."""

from __future__ import annotations

import io
import zipfile
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from browser_help import DOMAIN, check_accessibility
from hornfels.formats.template import read_template, write_template


def files(folder: Path, lengths: dict[str, int]) -> list[Path]:
    folder.mkdir(exist_ok=True)
    made = []
    for name, length in lengths.items():
        file = folder / f"{name}.inf"
        file.write_bytes(write_template({"min_length": length, "complexity": True}))
        made.append(file)
    return made


@pytest.fixture
def domes(page: Page, tmp_path: Path) -> list[Path]:
    """A set with three servers in it, made and read in as people do; one of them differs."""
    page.get_by_role("link", name="Servers").click()
    page.get_by_label("A new set").fill("Domes")
    page.keyboard.press("Enter")
    expect(page.get_by_text("no server yet")).to_be_visible()
    made = files(tmp_path / "first", {"DOME-1": 14, "DOME-2": 14, "DOME-3": 8})
    page.get_by_label("Templates of servers", exact=True).set_input_files(made)
    expect(page.get_by_text("2 of 3 agree · 1 differ")).to_be_visible()
    return made


@pytest.mark.usefixtures("domes")
def test_whoever_differs_is_seen_and_gets_a_corrected_file(page: Page, tmp_path: Path) -> None:
    table = page.get_by_role("table")
    expect(table.get_by_role("row", name="DOME-3")).to_contain_text("✕ 8 characters")
    expect(table).not_to_contain_text("DOME-1")
    agreeing = page.get_by_role("region", name="Those that agree")
    expect(agreeing.get_by_role("button")).to_have_text(["DOME-1", "DOME-2"])
    page.get_by_role("button", name="DOME-3").focus()
    page.keyboard.press("Enter")
    panel = page.locator("#details")
    expect(panel).to_contain_text("Minimum length 8 characters → 14 characters")
    expect(panel).to_contain_text("Read for the first time.")
    check_accessibility(page)
    with page.expect_download() as download:
        page.get_by_role("link", name="Corrected files (1)").click()
    with zipfile.ZipFile(io.BytesIO(download.value.path().read_bytes())) as archive:
        fixed = tmp_path / "DOME-3.inf"
        fixed.write_bytes(archive.read("DOME-3.inf"))
    assert read_template(fixed.read_bytes())["min_length"] == 14
    # As if it had been taken in there and exported again.
    page.get_by_label("Templates of servers", exact=True).set_input_files(fixed)
    expect(panel).to_contain_text("nothing to do")
    expect(page.get_by_text("3 of 3 agree")).to_be_visible()
    expect(page.get_by_role("link", name="Corrected files")).to_have_count(0)
    expect(page.locator(":focus")).to_have_count(1)


def test_a_folder_is_read_and_what_is_wrong_in_it_is_said(page: Page, domes: list[Path]) -> None:
    folder = domes[0].parent
    (folder / "DOME-2.inf").write_bytes(b"[System Access]\r\nMinimumPasswordLength = many\r\n")
    (folder / "DOME-1").mkdir()
    (folder / "DOME-1" / "secedit.inf").write_bytes(write_template({"min_length": 14}))
    (folder / "notes.txt").write_text("as agreed")
    page.get_by_label("Folder of servers’ templates").set_input_files(folder)
    said = page.get_by_role("status").filter(has_text="read")
    expect(said).to_contain_text("4 files read. DOME-2 is no readable template")
    expect(said).to_contain_text("There was more than one file for DOME-1")
    row = page.get_by_role("table").get_by_role("row", name="DOME-2")
    expect(row).to_contain_text("? could not be read: Line 2: MinimumPasswordLength is 'many'")
    said.get_by_role("button", name="Close").click()
    expect(said).to_have_count(0)


@pytest.mark.usefixtures("domes")
def test_reading_that_is_cut_off_goes_on_where_it_stopped(page: Page, tmp_path: Path) -> None:
    page.route("**/servers/template?path=DOME-8*", lambda route: route.abort())
    more = files(tmp_path / "more", {f"DOME-{number}": 14 for number in range(4, 10)})
    page.get_by_label("Templates of servers", exact=True).set_input_files(more)
    said = page.get_by_role("status").filter(has_text="still to be read")
    expect(said).to_be_visible()
    page.unroute("**/servers/template?path=DOME-8*")
    said.get_by_role("button", name="Go on").click()
    expect(page.get_by_text("8 of 9 agree · 1 differ")).to_be_visible()
    expect(page.get_by_text("✓ 6 files read.")).to_be_visible()


@pytest.mark.usefixtures("domes")
def test_a_reference_is_chosen_agreed_on_and_given_up(page: Page) -> None:
    against = page.get_by_label("Held against")
    against.select_option("what DOME-3 says")
    expect(page.get_by_text("1 of 3 agree · 2 differ")).to_be_visible()
    page.get_by_role("button", name="Agree on it").click()
    expect(against).to_have_value("agreed")
    expect(page.get_by_text("by ann")).to_be_visible()
    against.select_option("what most of them say")
    expect(page.get_by_text("2 of 3 agree · 1 differ")).to_be_visible()
    page.get_by_role("button", name="DOME-3").click()
    page.get_by_role("button", name="Take it out …").click()
    page.get_by_role("button", name="Take it out", exact=True).click()
    expect(page.get_by_text("2 of 2 agree")).to_be_visible()
    expect(page.locator(":focus")).to_have_count(1)


@pytest.mark.usefixtures("domes")
def test_a_set_gets_another_name_and_goes(page: Page) -> None:
    page.get_by_role("button", name="More about Domes").click()
    page.get_by_label("Name of the set").fill("Machines of the domes")
    page.keyboard.press("Enter")
    expect(page.get_by_label("Set of servers")).to_contain_text("Machines of the domes")
    page.get_by_role("button", name="Another set …").click()
    page.get_by_label("A new set").fill("machines of the DOMES")
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("There is a set called")
    # What was typed is still there after another screen.
    page.get_by_role("link", name="Changes", exact=True).click()
    page.goto(f"{DOMAIN}/servers")
    expect(page.get_by_label("A new set")).to_have_value("machines of the DOMES")
    page.get_by_role("button", name="More about Machines").click()
    page.get_by_role("button", name="Drop the set …").click()
    page.get_by_role("button", name="Drop it").click()
    expect(page.get_by_text("Servers that no domain policy reaches")).to_be_visible()
