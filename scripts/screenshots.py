"""One current picture of each main view, made from the demo data, into docs/screenshots."""

from __future__ import annotations

import contextlib
import os
import re
import shutil
import socket
import sys
import tempfile
import threading
from collections.abc import Callable, Iterator
from datetime import UTC, datetime
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parents[1] / "tests"))

import uvicorn
from playwright.sync_api import Page, sync_playwright
from sqlalchemy import Engine
from sqlalchemy.orm import Session

from directory_server import PASSWORD as SERVER_PASSWORD
from directory_server import (
    PEOPLE,
    add,
    directory_server,
    group,
    policy,
    provisioned,
    with_password,
)
from hornfels.api.app import create_app
from hornfels.core.values.time import DAY
from hornfels.demo.tarnholt import DNS_NAME, MAIL_DOMAIN
from hornfels.mail.mailbox import standing_in
from hornfels.service import mailing
from hornfels.service.demo_domain import DEMO_USER, expose_demo, let_demo_in, store_demo
from hornfels.service.exposure import look
from hornfels.service.snapshots import Snapshots
from hornfels.settings import read_settings
from hornfels.store.cluster import Cluster
from hornfels.store.database import connect
from installation import connected

FOLDER = Path(__file__).parents[1] / "docs" / "screenshots"
DOMAIN = "/sky.tarnholt.example"
FIRST = "Quiet-Harbour-1931"
PASSWORD = "picture-day"  # noqa: S105 - of a server that lives for a minute


def _bench(page: Page, *names: str) -> None:
    for name in names:
        page.get_by_role("combobox", name="Account or policy to try it on").fill(name)
        page.get_by_role("option", name=re.compile(f"^{name}")).first.click()
    page.get_by_label("Candidate password").fill("Perigee-2031")
    page.get_by_role("table", name="Verdicts").wait_for()


def strata(page: Page) -> None:
    _bench(page, "ilse.varga", "svc-spectro3", "tarek.okonjo")
    page.get_by_role("heading", name="Which policy holds where").click()


def editor(page: Page) -> None:
    page.get_by_role("button", name=re.compile(r"^\d+ Night operators")).click()
    page.get_by_text("Tie at 30").wait_for()


def editing(page: Page) -> None:
    editor(page)
    page.get_by_label("Minimum length", exact=True).fill("16")
    page.get_by_text("Hits 60 accounts").wait_for()


def accounts(page: Page) -> None:
    page.goto(f"{DOMAIN}/accounts?way=group&enabled=true&order=expires")
    page.get_by_role("button", name="+ Filter").click()
    page.get_by_role("dialog", name="Filters").wait_for()


def account(page: Page) -> None:
    page.goto(f"{DOMAIN}/accounts?account=kiosk-north")
    page.get_by_text("What reaches it").wait_for()


def bench(page: Page) -> None:
    _bench(page, "ilse.varga", "svc-spectro3", "tarek.okonjo")
    page.get_by_role("separator", name="Height of the bench").focus()
    page.keyboard.press("PageUp")
    page.get_by_label("Candidate password").focus()


def drill(page: Page) -> None:
    page.get_by_role("radio", name="Drill").click()
    for name in ("ilse.varga", "tarek.okonjo"):
        page.get_by_role("combobox", name="Account or policy to try it on").fill(name)
        page.get_by_role("option", name=re.compile(f"^{name}")).first.click()
    page.get_by_label("A ready-made story").select_option("A flood")
    page.get_by_text("Of 120 passwords 5 are tried").wait_for()
    page.get_by_role("separator", name="Height of the bench").focus()
    page.keyboard.press("PageUp")
    page.get_by_role("combobox", name="Account or policy to try it on").blur()


def besides(page: Page) -> None:
    page.get_by_role("button", name=re.compile(r"^\d+ Phrase pilot")).click()
    page.locator("#open-besides").click()
    page.get_by_text(re.compile(r"^Refuses \d")).first.wait_for()


def forecast(page: Page) -> None:
    page.goto(f"{DOMAIN}/forecast?plane=window")
    page.get_by_role("button", name=re.compile("^Visiting astronomers:")).focus()
    page.keyboard.press("ArrowRight")
    page.keyboard.press("ArrowDown")
    page.get_by_text("9 bad tries, each within 20 min").wait_for()
    page.get_by_text("Chance to hit with them, staying under the lock").click()


def exposure(page: Page) -> None:
    page.goto(f"{DOMAIN}/exposure?under=domain")
    page.get_by_role("radio", name="changed within").click()
    page.get_by_label("Why").fill("Agreed with the staff council")


def people(page: Page) -> None:
    page.goto(f"{DOMAIN}/people?person=demo-author")
    page.get_by_role("heading", name="demo-author").wait_for()


def notices(page: Page) -> None:
    """What was written, and the letter that somebody would get."""
    page.goto(f"{DOMAIN}/sources?mailing={DOMAIN[1:]}")
    due = page.get_by_role("region", name="Who would be written to")
    due.get_by_text("handed over").wait_for()
    page.get_by_label("Account that would be written to").fill("ilse.varga")
    page.get_by_text("Hello Ilse Varga").wait_for()
    due.evaluate("part => part.scrollIntoView()")


def expiries(page: Page) -> None:
    """Follows `changes`: as the draft has it, spread over weeks."""
    _drafted(page)
    page.get_by_role("link", name="Forecast", exact=True).click()
    page.get_by_role("radio", name="Expiries").click()
    page.get_by_role("button", name="Plan it …").click()
    page.get_by_role("textbox", name="over weeks").fill("4")
    page.get_by_role("button", name="Have it begun …").scroll_into_view_if_needed()
    page.get_by_role("row").nth(4).wait_for()


def own_page(page: Page) -> None:
    """Follows everything: the domain comes from a real directory then."""
    page.goto("/you")
    page.get_by_label("Name", exact=True).fill("ilse.varga")
    page.get_by_label("Password", exact=True).fill(FIRST)
    page.keyboard.press("Enter")
    page.get_by_label("Present password", exact=True).fill(FIRST)
    page.get_by_label("New password", exact=True).fill("Varga-2031")
    page.get_by_text("from your own name").wait_for()


def servers(page: Page) -> None:
    page.goto(f"{DOMAIN}/servers?server=DOME-12")
    page.get_by_text("It differs in 2 settings").wait_for()


def sources(page: Page) -> None:
    """With the gate, at which somebody has asked."""
    new = {"title": "dc1.sky.tarnholt.example", "kind": "hook", "reason": "A new server"}
    made = page.request.post(f"/api/domains{DOMAIN}/gate/callers", data=new).json()
    for account, candidate in (
        ("ilse.varga", "Orbit-lantern-7421"),
        ("tarek.okonjo", "Spring-lantern-31"),
        ("noa.lindqvist", "quiet umbra mosaic"),
        ("ilse.varga", "Umbra-mosaic-lantern-7421"),
    ):
        asked = {"account": account, "operation": "reset", "candidate": candidate}
        by = {"Authorization": f"Bearer {made['token']}"}
        page.request.post("/api/gate/v1/check", data=asked, headers=by)
    page.goto(f"{DOMAIN}/sources?gate={DOMAIN[1:]}")
    page.get_by_text("ilse.varga ✕ refused").wait_for()


def findings(page: Page) -> None:
    page.get_by_role("button", name=re.compile(r"^\D*\d+ findings$")).click()
    page.get_by_role("heading", name="Findings").wait_for()


def baselines(page: Page) -> None:
    page.get_by_role("link", name="Baselines").click()
    page.get_by_role("button", name="at least 15 characters").click()
    page.get_by_role("region", name="Gaps").wait_for()


def _drafted(page: Page) -> None:
    shown = page.get_by_role("radiogroup", name="Which estate the screens show")
    shown.get_by_role("radio", name="Draft").click()


def _edit(page: Page, policy: str, **values: str) -> None:
    page.get_by_role("link", name="Strata", exact=True).click()
    page.get_by_role("button", name=re.compile(rf"^\d+ {policy}")).click()
    page.get_by_role("heading", name=policy, level=2).wait_for()
    for label, value in values.items():
        page.get_by_label(label.replace("_", " "), exact=True).fill(value)
    page.get_by_role("button", name="Save to draft").click()
    page.get_by_role("button", name="Save to draft").wait_for(state="hidden")


def changes(page: Page) -> None:
    page.get_by_role("link", name="Changes", exact=True).click()
    page.get_by_label("New draft").fill("Longer nights")
    page.get_by_role("button", name="Open", exact=True).click()
    page.get_by_text("Nothing is changed in this draft yet.").wait_for()
    _edit(page, "Night operators", Precedence="25", Minimum_length="16", Maximum_age="20 d")
    _edit(page, "Keyholders", Minimum_length="16")
    page.get_by_role("link", name="Changes", exact=True).click()
    page.get_by_label("Reason").fill(
        "Agreed with the night crew in May; keyholders come along for a while."
    )
    page.get_by_label("Reason").blur()
    page.get_by_role("heading", name="Impact").wait_for()
    page.get_by_role("heading", name="Keyholders", level=2).wait_for()
    page.get_by_text("The address of this page shows it to others.").wait_for()


def history(page: Page) -> None:
    """Follows `changes` and publishes its draft."""
    _drafted(page)
    page.get_by_role("link", name="Changes", exact=True).click()
    page.get_by_role("button", name="Publish …").click()
    page.get_by_role("button", name="Publish now").click()
    page.get_by_text("What was published").first.click()


VIEWS: tuple[Callable[[Page], None], ...] = (
    strata,
    editing,
    baselines,
    findings,
    accounts,
    account,
    bench,
    drill,
    besides,
    exposure,
    forecast,
    people,
    servers,
    sources,
    notices,
    changes,
    expiries,
    history,
)


def _write_letters(engine: Engine) -> None:
    """Have the people of the demo written to, through a stand-in."""
    current = Snapshots(engine).of(DNS_NAME)
    assert current  # noqa: S101 - it was just stored
    where = read_settings()
    with Session(engine) as session:
        on = mailing.Mailing(on=True)
        mailing.choose(session, current, on, 0, "So that they know", where, DEMO_USER)
    mailing.write_due(engine, DNS_NAME, where, datetime.now(UTC), lambda *_: None)  # type: ignore[arg-type]


@contextlib.contextmanager
def _directory(engine: Engine, home: Path) -> Iterator[None]:
    """A directory server with somebody in it, in place of the demo's domain."""
    (home / "secrets").mkdir()
    (home / "secrets" / "tarnholt").touch(mode=0o600)
    (home / "secrets" / "tarnholt").write_text(SERVER_PASSWORD)
    with directory_server(provisioned(home), "") as server:
        with server.administrator() as link:
            add(link, PEOPLE, objectClass="organizationalUnit")
            ilse = with_password(link, "ilse.varga", FIRST, displayName="Ilse Varga")
            night = group(link, "GS-Night-Operators", [ilse])
            asked = {
                "msDS_MinimumPasswordLength": "14",
                "msDS_PasswordComplexityEnabled": "TRUE",
                "msDS_LockoutThreshold": "5",
                "msDS_MaximumPasswordAge": str(-60 * DAY),
            }
            policy(link, "Night operators", 30, [night], **asked)
        connected(engine, server, DEMO_USER, own_page=True)
        yield


def main() -> None:
    home = Path(tempfile.mkdtemp(prefix="hornfels-pictures-"))
    home.chmod(0o755)
    cluster = Cluster(home, {"fsync": "off"})
    cluster.start()
    engine = connect(cluster.url)
    try:
        cluster.migrate()
        with Session(engine) as session, session.begin():
            store_demo(session)
            let_demo_in(session, PASSWORD)
            expose_demo(session, home / "corpora", home / "hashes")
        os.environ |= {"HORNFELS_HOME": str(home), "HORNFELS_MAILBOX": str(home / "mailbox")}
        look(engine, DNS_NAME, read_settings(), datetime.now(UTC), lambda *_: None)
        with standing_in(home / "mailbox") as port:
            os.environ |= {
                "HORNFELS_SMTP_HOST": "localhost",
                "HORNFELS_SMTP_PORT": str(port),
                "HORNFELS_SMTP_SECURITY": "none",
                "HORNFELS_SMTP_SENDER": f"Passwords at Tarnholt <passwords@{MAIL_DOMAIN}>",
            }
            _write_letters(engine)
        listener = socket.create_server(("127.0.0.1", 0))
        server = uvicorn.Server(
            uvicorn.Config(create_app(engine), log_level="error", access_log=False)
        )
        thread = threading.Thread(target=server.run, kwargs={"sockets": [listener]})
        thread.start()
        try:
            address = f"http://127.0.0.1:{listener.getsockname()[1]}"
            _take(address, VIEWS)
            with _directory(engine, home):
                _take(address, (own_page,), signed_in=False)
        finally:
            server.should_exit = True
            thread.join()
    finally:
        engine.dispose()
        cluster.stop()
        shutil.rmtree(home, ignore_errors=True)


def _take(
    address: str, views: tuple[Callable[[Page], None], ...], *, signed_in: bool = True
) -> None:
    FOLDER.mkdir(parents=True, exist_ok=True)
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(
            executable_path=shutil.which("chromium-headless-shell") or shutil.which("chromium"),
            args=["--no-sandbox", "--disable-gpu", "--disable-background-networking"],
        )
        for view in views:
            page = browser.new_context(
                base_url=address, viewport={"width": 1280, "height": 800}
            ).new_page()
            if signed_in:
                page.goto("/")
                page.get_by_label("Name").fill("demo")
                page.get_by_label("Password", exact=True).fill(PASSWORD)
                page.get_by_role("button", name="Sign in").click()
                page.get_by_role("grid").wait_for()
            view(page)
            page.wait_for_load_state("networkidle")
            page.screenshot(path=FOLDER / f"{view.__name__}.png")
            page.context.close()
        browser.close()


if __name__ == "__main__":
    main()
