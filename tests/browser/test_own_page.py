"""The page of people under a policy, before a real directory, on a desk and on a phone."""

from __future__ import annotations

from pathlib import Path

import ldap
import pytest
from playwright.sync_api import Page, expect
from sqlalchemy import Engine, delete
from sqlalchemy.orm import Session

from browser_help import SMALLEST, check_accessibility
from directory_server import PASSWORD, DirectoryServer, change, group, policy, with_password
from hornfels.store.models import OwnSessionRow
from installation import connected

pytestmark = pytest.mark.browser

FIRST, SECOND = "Quiet-Harbour-19", "Slow-Eclipse-2031"


@pytest.fixture
def ilse(
    engine: Engine,
    address: str,
    server: DirectoryServer,
    tmp_path: Path,
    monkeypatch: pytest.MonkeyPatch,
) -> str:
    """Under a policy, in a domain whose people have a page."""
    assert address
    secrets = tmp_path / "secrets"
    secrets.mkdir()
    (secrets / "tarnholt").write_text(PASSWORD)
    (secrets / "tarnholt").chmod(0o600)
    monkeypatch.setenv("HORNFELS_HOME", str(tmp_path))
    with server.administrator() as link:
        dn = with_password(link, "ilse", FIRST, displayName="Ilse Varga")
        crew = group(link, "GS-Crew", [dn])
        policy(link, "Crew", 10, [crew], msDS_MinimumPasswordAge="0")
    connected(engine, server, own_page=True)
    return dn


def sign_in(page: Page, secret: str) -> None:
    page.get_by_label("Name", exact=True).fill("ilse")
    page.get_by_label("Password", exact=True).fill(secret)
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name="Change it")).to_be_visible()


def test_somebody_changes_their_password_by_keyboard(
    anonymous: Page, address: str, ilse: str, engine: Engine
) -> None:
    assert ilse
    page = anonymous
    page.set_viewport_size(SMALLEST)
    page.goto(address)
    page.get_by_role("link", name="your page").click()
    page.wait_for_url("**/you")
    sign_in(page, FIRST)
    expect(page.get_by_text("For Ilse Varga (ilse)")).to_be_visible()
    check_accessibility(page)
    needs = page.get_by_role("region", name="What a new password needs").get_by_role("listitem")
    present = page.get_by_label("Present password", exact=True)
    fresh = page.get_by_label("New password", exact=True)
    present.fill(FIRST)
    page.keyboard.press("Tab")
    page.keyboard.press("Tab")
    expect(fresh).to_be_focused()
    page.keyboard.type("Short-1")
    expect(needs.first).to_contain_text("missing:")
    page.keyboard.press("Enter")
    alert = page.get_by_role("alert")
    expect(alert).to_contain_text("too short")
    expect(fresh).to_be_focused()
    # What was refused is not what stands there now.
    fresh.fill(SECOND)
    expect(alert).to_have_count(0)
    expect(needs.first).to_contain_text("done:")
    expect(needs.last).to_contain_text("cannot be checked here:")
    # While one looked elsewhere the session has ended: what is typed stays.
    with Session(engine) as session, session.begin():
        session.execute(delete(OwnSessionRow))
    page.request.delete(f"{address}/api/you/session")
    page.keyboard.press("Enter")
    expect(page.get_by_text("You are not signed in any more")).to_be_visible()
    expect(page.get_by_label("Password", exact=True)).to_be_focused()
    page.keyboard.type(FIRST)
    page.keyboard.press("Enter")
    expect(page.get_by_text("You are not signed in any more")).to_have_count(0)
    expect(fresh).to_have_value(SECOND)
    fresh.press("Enter")
    expect(page.get_by_text("✓ Changed.")).to_be_visible()
    expect(fresh).to_have_value("")
    check_accessibility(page)
    # The directory says no where nobody else could.
    present.fill(SECOND)
    fresh.fill(FIRST)
    page.keyboard.press("Enter")
    expect(alert).to_contain_text("you had it before")
    page.get_by_role("button", name="Sign out").click()
    expect(page.get_by_label("Name", exact=True)).to_be_focused()
    sign_in(page, SECOND)


def test_a_suggestion_is_taken_by_somebody_who_has_to_change_theirs(
    anonymous: Page, address: str, ilse: str, server: DirectoryServer
) -> None:
    with server.administrator() as link:
        change(link, ilse, (ldap.MOD_REPLACE, "pwdLastSet", [b"0"]))
    page = anonymous
    page.goto(f"{address}/you")
    sign_in(page, FIRST)
    expect(page.get_by_text("It lets you in nowhere any more.")).to_be_visible()
    page.get_by_label("Present password", exact=True).fill(FIRST)
    page.get_by_role("button", name="Suggest some").click()
    page.get_by_role("button", name="Take it").first.click()
    taken = page.get_by_label("New password", exact=True).input_value()
    page.keyboard.press("Enter")
    expect(page.get_by_text("✓ Changed.")).to_be_visible()
    expect(page.get_by_text("It lets you in nowhere any more.")).to_have_count(0)
    page.get_by_role("button", name="Sign out").click()
    sign_in(page, taken)


def test_two_tabs_of_one_page_lose_nothing(anonymous: Page, address: str, ilse: str) -> None:
    assert ilse
    anonymous.goto(f"{address}/you")
    sign_in(anonymous, FIRST)
    other = anonymous.context.new_page()
    other.goto(f"{address}/you")
    other.get_by_label("Present password", exact=True).fill(FIRST)
    typed = other.get_by_label("New password", exact=True)
    typed.fill("Third-Eclipse-2033")
    anonymous.get_by_label("Present password", exact=True).fill(FIRST)
    anonymous.get_by_label("New password", exact=True).fill(SECOND)
    anonymous.keyboard.press("Enter")
    expect(anonymous.get_by_text("changed").first).to_be_visible()
    # The other one was too late: it is said, and what is typed stays.
    typed.press("Enter")
    expect(other.get_by_role("alert").first).to_be_visible()
    expect(typed).to_have_value("Third-Eclipse-2033")
    other.close()
