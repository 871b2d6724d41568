"""Connecting a real directory server and reading it, in the real interface."""

from __future__ import annotations

import re
import subprocess
from pathlib import Path

import ldap
import pytest
from playwright.sync_api import Page, expect
from sqlalchemy import Engine

from api_help import work_off
from browser_help import Slow, check_accessibility
from directory_server import (
    ADMINISTRATOR,
    BASE,
    HOST,
    PASSWORD,
    REALM,
    SETTINGS,
    DirectoryServer,
    account,
    change,
    group,
    policy,
)
from installation import connected

pytestmark = pytest.mark.browser


@pytest.fixture(autouse=True)
def secrets(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    """Where the machine keeps the secrets; the worker finds it too."""
    folder = tmp_path / "secrets"
    folder.mkdir()
    monkeypatch.setenv("HORNFELS_HOME", str(tmp_path))
    return folder


@pytest.mark.thorough
def test_a_directory_is_connected_tried_and_read(
    page: Page,
    engine: Engine,
    server: DirectoryServer,
    secrets: Path,
    worker: subprocess.Popen[bytes],
) -> None:
    assert engine
    assert worker
    with server.administrator() as link:
        names = [account(link, f"p{number}") for number in range(20)]
        policy(link, "Night watch", 30, [group(link, "GS-Watch", names[:5])])
    page.goto(f"/{REALM}/sources")
    part = page.get_by_role("region", name="Directory", exact=True)
    part.get_by_role("button", name="Connect …").click()
    form = page.get_by_role("form", name="Connection")
    form.get_by_label("Servers, one a line").fill(f"{HOST} {server.address}")
    form.get_by_label("Who reads: account").fill(ADMINISTRATOR)
    form.get_by_label("Who reads: what its secret").fill("tarnholt")
    form.get_by_role("button", name="Try it").click()
    works = page.get_by_role("status", name="What works")
    expect(works).to_contain_text("The secret “tarnholt” is not kept here.")
    (secrets / "tarnholt").write_text(PASSWORD)
    (secrets / "tarnholt").chmod(0o600)
    form.get_by_role("button", name="Try it").click()
    expect(works).to_contain_text("nobody who is trusted has issued its certificate")
    # What is typed stays, also while one looks at something else.
    page.goto(f"/{REALM}/strata")
    page.get_by_role("button", name="unsaved").click()
    page.get_by_role("menuitem", name=f"Connection of {REALM}").click()
    expect(form.get_by_label("Who reads: account")).to_have_value(ADMINISTRATOR)
    form.get_by_label("Certificates that are trusted").select_option("authorities")
    form.get_by_label("Their certificates").fill(server.authorities)
    form.get_by_role("button", name="Try it").click()
    expect(works).to_contain_text("Read fine-grained policies")
    expect(works.get_by_text("✕")).to_have_count(0)
    form.get_by_role("button", name="Save").click()
    expect(form.get_by_role("alert")).to_contain_text("Say why")
    form.get_by_label("Why", exact=True).fill("The dumps were always late")
    page.keyboard.press("Enter")
    expect(form.get_by_text("Saved.")).to_be_visible()
    check_accessibility(page)
    part.get_by_role("button", name="Read everything").click()
    # The demo's domain has many more accounts.
    expect(part.get_by_role("list", name="What would be lost")).to_contain_text("Accounts:")
    part.get_by_role("button", name="Confirm losses …").click()
    part.get_by_label("Why", exact=True).fill("This is the true one")
    page.keyboard.press("Enter")
    expect(part.get_by_text("It says the same of")).to_be_visible()
    page.get_by_role("link", name="Strata", exact=True).click()
    expect(page.get_by_role("button", name="30 Night watch")).to_be_visible()
    bedrock = page.get_by_role("button", name=re.compile("^Bedrock"))
    expect(bedrock).to_contain_text("7 ch")
    page.get_by_role("link", name="Sources", exact=True).click()
    with server.administrator() as link:
        change(link, BASE, (ldap.MOD_REPLACE, "minPwdLength", [b"11"]))
    # It has ended before the page hears of its beginning.
    line = Slow(page, rf"/api/(jobs/|directories/{re.escape(REALM)}$)", "GET")
    with page.expect_response(re.compile("/read$")):
        part.get_by_role("button", name="Read what is new").click()
    where = f"/api/directories/{REALM}"
    while page.request.get(where).json()["job"]["state"] in ("queued", "running"):
        pass
    line.let_go()
    expect(part.get_by_text("Minimum length: 7 characters → 11 characters")).to_be_visible()
    page.get_by_role("link", name="Strata", exact=True).click()
    expect(bedrock).to_contain_text("11 ch")
    page.get_by_role("link", name="Sources", exact=True).click()
    server.stop()
    part.get_by_role("button", name="Read what is new").click()
    expect(part.get_by_role("alert")).to_contain_text(HOST)


def test_a_draft_is_published_through_the_directory_step_by_step(
    page: Page, engine: Engine, server: DirectoryServer, secrets: Path
) -> None:
    with server.administrator() as link:
        crew = [account(link, f"p{number}") for number in range(10)]
        policy(link, "Night watch", 30, [group(link, "GS-Watch", crew[:5])])
        policy(link, "Old", 40)
    (secrets / "tarnholt").write_text(PASSWORD)
    (secrets / "tarnholt").chmod(0o600)
    connected(engine, server)
    page.goto(f"/{REALM}/strata")
    page.get_by_role("button", name="30 Night watch").click()
    page.get_by_label("Minimum length", exact=True).fill("16")
    page.get_by_role("button", name="Save to draft").click()
    page.get_by_role("link", name="1 change").click()
    page.get_by_role("button", name="Publish …").click()
    steps = page.get_by_role("list", name="Steps")
    expect(steps.get_by_role("listitem")).to_have_count(1)
    steps.get_by_text("Minimum length").click()
    expect(steps).to_contain_text("delete: msDS-MinimumPasswordLength")
    check_accessibility(page)
    # Somebody changes it behind our back between looking and publishing.
    place = f"CN=Night watch,{SETTINGS}"
    now = page.get_by_role("button", name="Publish now")
    for length in (b"14", b"12"):
        with server.administrator() as link:
            change(link, place, (ldap.MOD_REPLACE, "msDS-MinimumPasswordLength", [length]))
        page.get_by_role("button", name="Not yet").click()
        page.get_by_role("button", name="Publish …").click()
        if length == b"14":
            # What would be refused is not begun.
            expect(page.get_by_text("1 step of 1 would be refused")).to_be_visible()
            expect(now).to_be_focused()
            page.keyboard.press("Enter")
            check_accessibility(page)
        expect(now).to_have_attribute("aria-disabled", str(length == b"14").lower())
    expect(page.get_by_text("1 step at dc1")).to_be_visible()
    with server.administrator() as link:
        change(link, place, (ldap.MOD_REPLACE, "msDS-MinimumPasswordLength", [b"14"]))
    now.click()
    part = page.get_by_role("region", name="Publishing")
    expect(part).to_contain_text("is being written into the directory")
    work_off(engine)
    expect(part.get_by_role("alert")).to_contain_text("minimum length is 14 characters")
    check_accessibility(page)
    part.get_by_role("button", name="Take it back").click()
    expect(part).to_contain_text("is being taken back")
    work_off(engine)
    expect(part).to_have_count(0)
    expect(page.locator(":focus")).to_have_count(1)
    # The reading that followed has brought the other value: the draft keeps its own by a word.
    page.get_by_role("radio", name="Open drafts").click()
    page.get_by_role("link", name="Draft of").click()
    page.get_by_role("button", name="Keep").click()
    page.get_by_role("button", name="Publish …").click()
    page.get_by_role("button", name="Publish now").click()
    expect(part).to_contain_text("is being written into the directory")
    work_off(engine)
    expect(part).to_have_count(0)
    with server.administrator() as link:
        assert link.entry(place, ["msDS-MinimumPasswordLength"]) == {
            "msds-minimumpasswordlength": [b"16"]
        }

    # What is live now holds in the directory itself.
    page.get_by_role("radio", name="Rehearsal").click()
    page.get_by_label("Candidate password", exact=True).fill("Fifteen-letters")
    page.get_by_label("a story").fill("2 bad, good")
    page.keyboard.press("Enter")
    tried = page.get_by_role("table", name="Passwords that were set")
    own = tried.get_by_role("row", name="The candidate")
    expect(own).to_contain_text("✕ refuses")
    expect(own).to_contain_text("by length")
    expect(page.get_by_role("table", name="The story").get_by_role("row")).to_have_count(4)
    check_accessibility(page)
    # A word belongs to the candidate beside it.
    page.get_by_label("Candidate password", exact=True).fill("Fifteen-letters-")
    expect(tried).to_have_count(0)
