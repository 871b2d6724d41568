"""Exposure in the browser: whose password others know, what becomes of them, and a candidate."""

from __future__ import annotations

import re
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect
from sqlalchemy import Engine
from sqlalchemy.orm import Session

from api_help import work_off
from browser_help import DOMAIN
from hornfels.api.guard import COOKIE
from hornfels.core.passwords.digests import nt_hash
from hornfels.demo.tarnholt import DNS_NAME
from hornfels.formats.corpus.building import build
from hornfels.store.database import connect
from persons import let_in, token_for

pytestmark = [pytest.mark.browser, pytest.mark.opens("exposure")]

PASSWORDS = {
    "ilse.varga": "Summer-2026",
    "kiosk-north": "",
    "kiosk-west": "x-1",
    "odile.quarrie": "x-1",
}


@pytest.fixture(autouse=True)
def hashes(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    """Where Hornfels, begun afterwards, looks for corpora and hashes."""
    for name in ("corpora", "hashes"):
        (tmp_path / name).mkdir()
        monkeypatch.setenv(f"HORNFELS_{name.upper()}", str(tmp_path / name))
    (tmp_path / "words").write_text("Summer-2026\norbit\n")
    build(tmp_path / "corpora" / "known.hfc", "plain", [tmp_path / "words"])
    file = tmp_path / "hashes" / f"{DNS_NAME}.hashes"
    file.touch(0o600)
    file.write_text("".join(f"{n},{nt_hash(p).hex()}\n" for n, p in PASSWORDS.items()))
    return file


def compared(page: Page, engine: Engine) -> None:
    with page.expect_response("**/exposure/look"):
        page.get_by_role("button", name="Compare now").click()
    patient = connect(engine.url.render_as_string(hide_password=False), patient=True)
    work_off(patient)
    patient.dispose()


def test_accounts_are_compared_looked_at_and_told(page: Page, engine: Engine) -> None:
    main = page.get_by_role("main")
    expect(main).to_contain_text("No account has been compared yet.")
    expect(main).to_contain_text(f"{DNS_NAME}.hashes")
    compared(page, engine)
    table = page.get_by_role("region", name="By policy")
    expect(main).to_contain_text("4 accounts compared")
    # The weakest policy stands first.
    expect(table.get_by_role("row").nth(1)).to_contain_text("Kiosk floor")
    table.get_by_role("button", name="Night operators").click()
    panel = page.get_by_role("article", name="Exposed: Night operators")
    expect(panel).to_contain_text("ilse.varga")
    expect(panel).to_contain_text("on the list known")
    expect(panel.get_by_role("region", name="Due")).to_have_count(0)

    panel.get_by_role("radio", name="changed within").click()
    days = panel.get_by_label("Days")
    days.fill("0")
    expect(panel.get_by_role("alert").first).to_contain_text("Between 1 and 365 days")
    expect(panel.get_by_label("Why")).to_have_count(0)
    panel.get_by_role("radio", name="changed at once").click()
    panel.get_by_label("Why").fill("agreed")
    panel.get_by_label("Why").press("Enter")
    due = panel.get_by_role("region", name="Due")
    expect(due).to_contain_text("1 account has to choose another password")
    due.get_by_role("button", name="Have them changed …").click()
    expect(due).to_contain_text("ilse.varga choose another password")
    due.get_by_label("Why").fill("they were told")
    due.get_by_label("Why").press("Enter")
    expect(due.get_by_role("status")).to_contain_text("1 account pending")
    expect(page.get_by_role("region", name="What was done")).to_contain_text("ilse.varga")
    expect(page.locator(":focus")).to_have_count(1)
    page.goto(f"{DOMAIN}/accounts?account=ilse.varga")
    password = page.get_by_role("region", name="Password")
    expect(password).to_contain_text("The password is on the list known")


def test_who_it_is_only_those_see_who_may(page: Page, engine: Engine, address: str) -> None:
    compared(page, engine)
    expect(page.get_by_role("main")).to_contain_text("4 accounts compared")
    with Session(engine) as session, session.begin():
        let_in(session, "vera", role="viewer")
    token = token_for(engine, "vera")
    page.context.add_cookies([{"name": COOKIE, "value": token, "url": address}])
    page.goto(f"{DOMAIN}/exposure?under=all")
    panel = page.get_by_role("article", name="Exposed: everybody")
    expect(panel).to_contain_text("2 of 1,184 accounts known to others")
    expect(panel).to_contain_text("only those see who may")
    expect(page.get_by_text("ilse.varga")).to_have_count(0)
    groups = page.get_by_role("region", name="The same password")
    expect(groups).to_contain_text("2 accounts in 1 group")
    expect(page.get_by_role("button", name="Compare now")).to_have_count(0)


@pytest.mark.opens("strata")
def test_a_candidate_that_others_know_is_refused_as_it_is_typed(page: Page) -> None:
    page.get_by_role("button", name=re.compile(r"^\d+ Night operators\b")).click()
    page.locator("#open-besides").click()
    path = page.get_by_role("region", name="As a password")
    path.get_by_role("button", name="+ Rule").click()
    form = page.get_by_role("form")
    form.get_by_label("Rule").select_option("Known exposed")
    form.get_by_role("button", name="Add to draft").click()
    expect(form.get_by_role("alert")).to_contain_text("choose one at least")
    form.get_by_role("checkbox", name="known").check()
    form.get_by_role("button", name="Add to draft").click()
    expect(path.get_by_role("button", name="Change: not seen among")).to_be_visible()
    page.get_by_role("textbox", name="Candidate").fill("Summer-2026")
    page.get_by_placeholder("+ account").fill("idris.mistral")
    page.get_by_placeholder("+ account").press("Enter")
    bench = page.get_by_role("region", name="Bench")
    expect(bench).to_contain_text("seen 1 time in known")
    page.get_by_role("textbox", name="Candidate").fill("Winter-Perigee-2031")
    expect(bench).to_contain_text("not seen")
