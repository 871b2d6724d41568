"""Connecting a real directory server and reading it, in the real interface."""

from __future__ import annotations

import subprocess
from pathlib import Path

import ldap
import pytest
from playwright.sync_api import Page, expect
from sqlalchemy import Engine

from browser_help import check_accessibility
from directory_server import (
    ADMINISTRATOR,
    BASE,
    HOST,
    PASSWORD,
    REALM,
    DirectoryServer,
    account,
    change,
    group,
    policy,
)

pytestmark = pytest.mark.browser


@pytest.fixture(autouse=True)
def secrets(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    """Where the machine keeps the secrets; the worker finds it too."""
    folder = tmp_path / "secrets"
    folder.mkdir()
    monkeypatch.setenv("HORNFELS_HOME", str(tmp_path))
    return folder


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
    form.get_by_label("Why").fill("The dumps were always late")
    page.keyboard.press("Enter")
    expect(form.get_by_text("Saved.")).to_be_visible()
    check_accessibility(page)
    part.get_by_role("button", name="Read everything").click()
    # The demo's domain has many more accounts.
    part.get_by_role("button", name="Take it all the same …").click()
    part.get_by_label("Why").fill("This is the true one")
    page.keyboard.press("Enter")
    expect(part.get_by_text("It says the same of")).to_be_visible()
    with server.administrator() as link:
        change(link, BASE, (ldap.MOD_REPLACE, "minPwdLength", [b"11"]))
    part.get_by_role("button", name="Read what is new").click()
    expect(part.get_by_text("Minimum length: 7 characters → 11 characters")).to_be_visible()
    server.stop()
    part.get_by_role("button", name="Read what is new").click()
    expect(part.get_by_role("alert")).to_contain_text(HOST)
    page.get_by_role("link", name="Strata", exact=True).click()
    expect(page.get_by_role("button", name="30 Night watch")).to_be_visible()
