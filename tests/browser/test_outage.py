"""The database goes away while somebody works, and comes back."""

from __future__ import annotations

import os
import signal
from pathlib import Path

import pytest
from playwright.sync_api import Browser, expect
from sqlalchemy.orm import Session

from browser_help import NAME, VIEWPORT, changes, check_accessibility, lengthen, saved, sign_in
from hornfels.api.app import create_app
from hornfels.formats.dump import Dump
from hornfels.store.cluster import Cluster
from hornfels.store.database import connect
from hornfels.store.estates import save_dump
from persons import let_in
from served import served


@pytest.fixture
def own(home: Path) -> Cluster:
    return Cluster(home / "outage", {"fsync": "off"})


@pytest.mark.thorough
def test_an_outage_is_told_in_the_top_bar_and_work_goes_on_after_it(
    browser: Browser, own: Cluster, demo: Dump
) -> None:
    own.start()
    engine = connect(lambda: own.url)
    own.migrate()
    with Session(engine) as session, session.begin():
        save_dump(session, demo, "tarnholt.ldif", "tester")
        let_in(session, NAME)
    with served(create_app(engine)) as port:
        context = browser.new_context(base_url=f"http://127.0.0.1:{port}", viewport=VIEWPORT)
        page = context.new_page()
        sign_in(page, NAME)
        lengthen(page, "Night operators", "16")
        page.get_by_label("Minimum length", exact=True).fill("18")
        os.kill(int((own.data / "postmaster.pid").read_text().split()[0]), signal.SIGKILL)
        page.get_by_role("button", name="Save to draft").click()
        told = page.get_by_role("banner").get_by_role("alert")
        expect(told).to_contain_text("The database does not answer")
        check_accessibility(page)
        own.start()
        expect(told).to_be_hidden()
        expect(page.get_by_label("Minimum length", exact=True)).to_have_value("18")
        page.get_by_role("button", name="Save to draft").click()
        saved(page)
        changes(page)
        expect(page.get_by_text("18 characters")).to_be_visible()
        context.close()
    engine.dispose()
    own.stop()
