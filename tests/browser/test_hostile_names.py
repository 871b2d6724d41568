"""A report of a domain whose names were chosen by an attacker, opened in a browser."""

from __future__ import annotations

from datetime import UTC, datetime
from pathlib import Path

import pytest
from playwright.sync_api import Browser

from command import run
from hornfels.demo.tarnholt import entries
from hornfels.formats.ldif import write

pytestmark = pytest.mark.browser

PARTS = (
    "<script>window.hostile=1</script>",
    "<img src=x onerror=window.hostile=1>",
    "</title><svg onload=window.hostile=1>",
    '" onmouseover="window.hostile=1',
    "' autofocus onfocus='window.hostile=1",
    "javascript:window.hostile=1",
    "</style><script>window.hostile=1</script>",
    "<!--<script>window.hostile=1//-->",
    "]]><script>window.hostile=1</script>",
    "{{constructor.constructor('window.hostile=1')()}}",
    "&lt;script&gt;window.hostile=1&lt;/script&gt;",
    "=cmd|' /C calc'!A0",
    "\u202egnp.exe",
    "<base href=https://evil.example/>",
    "<meta http-equiv=refresh content=0;url=https://evil.example/>",
)


@pytest.mark.thorough
def test_no_name_in_a_report_does_anything(browser: Browser, tmp_path: Path) -> None:
    """150 accounts, groups and policies have hostile names."""
    number = 0
    hostile = []
    for dn, values in entries(datetime(2026, 3, 2, 9, 0, tzinfo=UTC)):
        classes = {value for name, value in values if name == "objectClass"}
        named = classes & {"user", "group", "msDS-PasswordSettings"}
        if named and number < 150 and (number % 3 or "user" in classes):
            part = PARTS[number % len(PARTS)]
            values = [
                (name, f"{part}{number}" if name in ("displayName", "name", "cn") else value)
                for name, value in values
            ]
            number += 1
        hostile.append((dn, values))
    assert number == 150
    dump, report = tmp_path / "hostile.ldif", tmp_path / "report.html"
    dump.write_bytes(b"".join(write(hostile)))
    done = run("report", dump, "-o", report)
    assert done.returncode == 0, done.stderr
    context = browser.new_context()
    asked: list[str] = []
    context.on("request", lambda request: asked.append(request.url))
    page = context.new_page()
    page.goto(report.as_uri())
    for element in page.locator("body *").all()[:300]:
        element.dispatch_event("mouseover")
    assert page.evaluate("window.hostile") is None
    assert page.locator("script, base, meta[http-equiv=refresh]").count() == 0
    assert [url for url in asked if not url.startswith(("file:", "data:"))] == []
    context.close()
