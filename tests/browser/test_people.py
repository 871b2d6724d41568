"""Roles, second persons, one's own sign-in and the trail, in the real interface."""

from __future__ import annotations

import re
from collections.abc import Callable
from datetime import timedelta

import pytest
from playwright.sync_api import Browser, Page, expect
from sqlalchemy import Engine, func, update
from sqlalchemy.orm import Session

from browser_help import DOMAIN, changes, check_accessibility, lengthen, sign_in, why
from hornfels.api.guard import COOKIE
from hornfels.core.rights.roles import Role
from hornfels.store.models import SessionRow
from persons import PASSWORD, let_in, token_for

pytestmark = pytest.mark.browser

FRESH = "Quiet-Harbour-19"
NAME = "sky.tarnholt.example"


@pytest.fixture
def as_somebody(
    browser: Browser, address: str, engine: Engine
) -> Callable[[str, Role | None], Page]:
    """A page of somebody else's, in a role."""

    def go(name: str, role: Role | None) -> Page:
        with Session(engine) as session, session.begin():
            let_in(session, name, role=role)
        context = browser.new_context(base_url=address)
        context.add_cookies([{"name": COOKIE, "value": token_for(engine, name), "url": address}])
        return context.new_page()

    return go


def grow_old(engine: Engine) -> None:
    """Let it be ten minutes since anybody gave a password."""
    with Session(engine) as session, session.begin():
        session.execute(update(SessionRow).values(proved_at=func.now() - timedelta(minutes=10)))


def test_a_viewer_reads_everything_and_changes_nothing(
    as_somebody: Callable[[str, Role | None], Page],
) -> None:
    page = as_somebody("carl", "viewer")
    page.goto(f"{DOMAIN}/strata")
    page.get_by_role("button", name=re.compile(r"^\d+ Night operators")).click()
    expect(page.get_by_label("Minimum length", exact=True)).to_be_disabled()
    expect(page.get_by_label("Minimum length", exact=True)).to_have_value("14")
    for hidden in ("+ Policy", "Duplicate", "+ Link", "Delete", "Put on the bench"):
        expect(page.get_by_role("button", name=hidden)).to_have_count(0)
    expect(page.get_by_label("Candidate password")).to_have_count(0)
    page.keyboard.press("n")
    expect(page.get_by_role("heading", name="New policy")).to_have_count(0)
    check_accessibility(page)
    page.goto(f"{DOMAIN}/sources")
    expect(page.get_by_role("heading", name=NAME)).to_be_visible()
    expect(page.get_by_role("radio", name="a second person approves")).to_be_disabled()
    expect(page.get_by_role("button", name="Choose a file …")).to_have_count(0)
    page.get_by_role("button", name="Signed in as carl").click()
    expect(page.get_by_role("menuitem")).to_have_text(["Your sign-in", "Sign out"])
    page.context.close()


def test_a_help_desk_tries_and_unlocks_and_drafts_nothing(
    as_somebody: Callable[[str, Role | None], Page],
) -> None:
    page = as_somebody("carl", "help desk")
    page.goto(f"{DOMAIN}/accounts?view=locked")
    page.get_by_label("All of them").check()
    page.get_by_label("Reason").fill("Called in and was recognised")
    page.get_by_role("button", name=re.compile("^Unlock")).click()
    expect(page.get_by_text("asked for by carl").first).to_be_visible()
    expect(page.get_by_label("Candidate password")).to_be_visible()
    page.goto(f"{DOMAIN}/changes")
    expect(page.get_by_text("No draft is open.")).to_be_visible()
    expect(page.get_by_label("New draft")).to_have_count(0)
    page.context.close()


def test_a_link_that_somebody_shared_says_why_it_does_not_open(
    as_somebody: Callable[[str, Role | None], Page],
) -> None:
    page = as_somebody("carl", None)
    page.goto(f"{DOMAIN}/strata?policy=domain")
    expect(page.get_by_role("alert").first).to_contain_text(
        f"You may not look at it in {NAME}: that takes the role viewer"
    )
    expect(page.get_by_role("alert").first).to_contain_text("ann, ben can give it.")
    page.goto("/")
    expect(page.get_by_text("Ask an administrator of Hornfels for a role.")).to_be_visible()
    page.context.close()


def test_a_one_time_password_leads_to_one_of_ones_own(anonymous: Page) -> None:
    page = anonymous
    page.goto(f"{DOMAIN}/strata")
    page.get_by_label("Name").fill("once")
    page.get_by_label("Password", exact=True).fill(PASSWORD)
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name="Choose a password of your own")).to_be_visible()
    page.get_by_label("Present password", exact=True).fill(PASSWORD)
    page.get_by_label("New password", exact=True).fill("too short")
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("needs at least 15")
    page.get_by_label("New password", exact=True).fill(FRESH)
    page.keyboard.press("Enter")
    expect(page.get_by_role("grid")).to_be_visible()


def test_publishing_takes_the_password_once_more_and_goes_on(page: Page, engine: Engine) -> None:
    lengthen(page, "Night operators", "16")
    changes(page)
    page.get_by_role("button", name="Publish …").click()
    grow_old(engine)
    # The server remembers for a moment who has proven what; signing in elsewhere ends that.
    page.request.post("/api/session/proof", data={"password": "wrong"})
    page.get_by_role("button", name="Publish now").click()
    asked = page.get_by_role("dialog", name="Your password once more")
    expect(asked.get_by_label("Password", exact=True)).to_be_focused()
    asked.get_by_label("Password", exact=True).fill("wrong")
    page.keyboard.press("Enter")
    expect(asked.get_by_role("alert")).to_have_text("The password is wrong.")
    page.keyboard.press("Escape")
    expect(page.get_by_text("Give your password once more before this is done.")).to_be_visible()
    page.get_by_role("button", name="Publish now").click()
    asked.get_by_label("Password", exact=True).fill(PASSWORD)
    page.keyboard.press("Enter")
    expect(page.get_by_role("button", name="Take back in a draft")).to_be_visible()


@pytest.mark.opens("sources")
def test_lifting_approval_takes_two_people(page: Page, browser: Browser, address: str) -> None:
    page.get_by_role("radio", name="a second person approves").click()
    why(page, "agreed in May")
    page.get_by_role("radio", name="approval is optional").click()
    why(page, "it stands in the way")
    expect(page.get_by_text("waits for a second person: see what")).to_be_visible()
    expect(page.get_by_role("radio", name="a second person approves")).to_be_checked()
    second = browser.new_context(base_url=address).new_page()
    sign_in(second, "ben")
    second.get_by_role("button", name="Signed in as ben 1 waiting for you").click()
    second.get_by_role("menuitem", name="People 1 waiting").click()
    waiting = second.get_by_role("region", name="Waiting for a second person")
    expect(waiting).to_contain_text("ann asked just now: it stands in the way")
    check_accessibility(second)
    waiting.get_by_role("button", name="Confirm").click()
    expect(waiting).to_have_count(0)
    second.context.close()
    page.reload()
    expect(page.get_by_role("radio", name="approval is optional")).to_be_checked()


@pytest.mark.opens("people")
def test_somebody_is_added_given_a_role_and_shut_out(page: Page) -> None:
    name = page.get_by_label("Name to sign in with")
    name.fill("ANN")
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("ann may sign in already")
    name.fill("dora")
    page.keyboard.press("Enter")
    expect(page.get_by_text("signs in once within three days with")).to_be_visible()
    expect(page.get_by_role("heading", name="dora", level=2)).to_be_visible()
    page.get_by_role("button", name="Give it").click()
    expect(page.get_by_role("alert")).to_contain_text("Say why")
    page.get_by_label("Why", exact=True).fill("joins the night crew")
    page.get_by_label("Role", exact=True).select_option("author")
    page.get_by_label("Where").select_option(f"in {NAME}")
    page.get_by_role("button", name="Give it").click()
    row = page.get_by_role("row", name=re.compile("^dora"))
    expect(row).to_contain_text(f"author in {NAME}")
    page.get_by_label("Why", exact=True).fill("left again")
    page.get_by_role("button", name="Shut out").click()
    expect(row).to_contain_text("shut out")
    page.get_by_role("button", name="Signed in as").click()
    page.get_by_role("menuitem", name="Trail").click()
    first = page.get_by_role("listitem").filter(has_text="person shut out dora")
    expect(first).to_contain_text("ann")
    page.get_by_label("Entries with these words").fill("dora night crew")
    expect(page.get_by_role("listitem")).to_have_count(1)
    page.get_by_role("listitem").locator("summary").click()
    expect(page.get_by_text('"role": "author"')).to_be_visible()
