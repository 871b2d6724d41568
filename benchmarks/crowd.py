"""In a browser, with a million accounts: how soon a filter has settled and a first hit is there."""

from __future__ import annotations

import shutil
from collections.abc import Callable
from functools import partial

from playwright.sync_api import Page, sync_playwright
from sqlalchemy import Engine
from sqlalchemy.orm import Session

from benchmarks.estates import make
from hornfels.api.app import create_app
from hornfels.api.guard import COOKIE
from hornfels.formats.dump import Dump
from hornfels.store.estates import save_dump
from persons import token_for
from served import served

COUNT = """() => [...document.querySelectorAll("main span")].map(e => e.textContent)
  .find(text => /^[0-9,]+ accounts?$/.test(text))"""
HIT = """() => document.querySelector("[role=option]")?.textContent"""
WHEN_OTHER = """([find, before]) => {
  const look = eval(find), begun = performance.now();
  window.settled = new Promise(done => {
    const again = () => {
      const now = look();
      const spent = performance.now() - begun;
      if ((now && now !== before) || spent > 20_000) done(spent);
      else requestAnimationFrame(again);
    };
    again();
  });
}"""


def crowd(engine: Engine) -> None:
    estate = make(1_000_000)
    with Session(engine) as session, session.begin():
        save_dump(session, Dump(estate, (), len(estate.accounts)), "big", "bench")
    app = create_app(engine)
    app.state.snapshots.warm()
    found = app.state.snapshots.of("big.example")
    found.roster.prime()
    print(f"\nIn a browser, {len(estate.accounts):,} accounts: from the key to what is shown")
    with served(app) as port, sync_playwright() as playwright:
        browser = playwright.chromium.launch(
            executable_path=shutil.which("chromium"), args=["--no-sandbox", "--disable-gpu"]
        )
        address = f"http://127.0.0.1:{port}"
        context = browser.new_context(base_url=address, viewport={"width": 1280, "height": 800})
        context.add_cookies([{"name": COOKIE, "value": token_for(engine, "ann"), "url": address}])
        page = context.new_page()
        page.goto("/big.example/accounts")
        page.locator("[data-row]").first.wait_for()
        named = page.get_by_label("named like")
        for words in ("person 77", "person 7", ""):
            _tell(page, f"named like “{words}”", COUNT, partial(named.fill, words))
        under = page.get_by_label("under")
        _tell(page, "under the domain policy", COUNT, partial(under.select_option, "domain"))
        _tell(page, "under any policy", COUNT, partial(under.select_option, ""))
        page.get_by_role("button", name="+ Filter").click()
        filters = page.get_by_role("dialog", name="Filters")
        enabled = filters.get_by_label("Enabled").first
        _tell(page, "enabled: no", COUNT, partial(enabled.select_option, "false"))
        page.keyboard.press("Escape")
        finder = page.get_by_role("combobox", name="Find account, group or policy")
        for words in ("p", "person 9", "person 99"):
            finder.fill("")
            _tell(page, f"searched for “{words}”: first hit", HIT, partial(finder.fill, words))
        browser.close()


def _tell(page: Page, what: str, find: str, act: Callable[[], object]) -> None:
    page.evaluate(WHEN_OTHER, [find, page.evaluate(find)])
    act()
    print(f"  {what:<58}{page.evaluate('window.settled'):>12,.0f} ms", flush=True)
