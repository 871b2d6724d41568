"""In a browser: how soon the pages can be used on a slow line, and how smoothly a section of two
hundred layers scrolls.
"""

from __future__ import annotations

import shutil
import statistics
import time

from playwright.sync_api import Browser, Page, sync_playwright
from sqlalchemy import Engine
from sqlalchemy.orm import Session

from benchmarks.estates import make
from hornfels.api.app import create_app
from hornfels.api.guard import COOKIE
from hornfels.formats.dump import Dump
from hornfels.store.estates import save_dump
from persons import PASSWORD, token_for
from served import served

SLOW = {
    "offline": False,
    "latency": 400,
    "downloadThroughput": 400_000 / 8,
    "uploadThroughput": 400_000 / 8,
}
DOMAIN = "/big.example"
FRAMES = """async () => {
  const long = (e) => e.scrollHeight > e.clientHeight + 500 && e.querySelector("table");
  const frame = [...document.querySelectorAll("div")].find(long);
  const times = [];
  let last = performance.now();
  for (let n = 0; n < 240; n++) {
    await new Promise(requestAnimationFrame);
    const now = performance.now();
    times.push(now - last);
    last = now;
    frame.scrollTop = (frame.scrollHeight - frame.clientHeight) * Math.abs(Math.sin(n / 40));
  }
  return times.slice(5);
}"""


def _slow(page: Page) -> Page:
    page.context.new_cdp_session(page).send("Network.emulateNetworkConditions", SLOW)
    return page


def _usable(page: Page, path: str, ready: str) -> float:
    """Seconds until what is meant by `ready` is there, on a slow line."""
    _slow(page).goto(path, wait_until="commit")
    page.locator(ready).first.wait_for()
    return float(page.evaluate("performance.now()")) / 1000


def browsing(engine: Engine) -> None:
    estate = make(10_000)
    with Session(engine) as session, session.begin():
        save_dump(session, Dump(estate, (), len(estate.accounts)), "big", "bench")
    print("\nIn a browser, 10,000 accounts and 200 policies")
    with served(create_app(engine)) as port, sync_playwright() as playwright:
        address = f"http://127.0.0.1:{port}"
        flags = ["--no-sandbox", "--disable-gpu"]
        browser = playwright.chromium.launch(executable_path=shutil.which("chromium"), args=flags)
        page = _page(browser, address, None)
        _tell("sign-in, nothing kept by the browser", _usable(page, "/", "input[type=password]"))
        # Meanwhile somebody types, and what comes next is fetched.
        page.wait_for_load_state("networkidle")
        page.get_by_label("Name").fill("ann")
        page.get_by_label("Password", exact=True).fill(PASSWORD)
        began = time.perf_counter()
        page.get_by_role("button", name="Sign in").click()
        page.locator("[role=grid] button").first.wait_for()
        _tell("strata, after signing in there", time.perf_counter() - began)
        for screen, ready in _SCREENS:
            again = _slow(page.context.new_page())
            again.goto(f"{DOMAIN}/{screen}")
            again.wait_for_load_state("networkidle")
            again.close()
            again = page.context.new_page()
            _tell(f"{screen}, at the second visit", _usable(again, f"{DOMAIN}/{screen}", ready))
            again.close()
        page.context.close()
        for screen, ready in _SCREENS:
            page = _page(browser, address, engine)
            _tell(
                f"{screen}, signed in but nothing kept by the browser",
                _usable(page, f"{DOMAIN}/{screen}", ready),
            )
            page.context.close()
        page = _page(browser, address, engine)
        page.goto(f"{DOMAIN}/strata")
        page.get_by_role("grid").wait_for()
        page.wait_for_load_state("networkidle")
        times = sorted(page.evaluate(FRAMES))
        p95 = times[len(times) * 95 // 100]
        print(
            f"  {'a frame while the section scrolls: median, 95th percentile, longest':<78}"
            f"{statistics.median(times):>8,.1f} ms, {p95:.1f} ms, {times[-1]:.1f} ms"
        )
        browser.close()


def _tell(what: str, seconds: float) -> None:
    print(f"  {f'usable at 400 kb/s and 400 ms: {what}':<78}{seconds:>8,.1f} s")


_SCREENS = (("strata", "[role=grid] button"), ("accounts", "[data-row]"))


def _page(browser: Browser, address: str, engine: Engine | None) -> Page:
    context = browser.new_context(base_url=address, viewport={"width": 1280, "height": 800})
    if engine is not None:
        context.add_cookies([{"name": COOKIE, "value": token_for(engine, "ann"), "url": address}])
    return context.new_page()
