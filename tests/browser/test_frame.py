"""The laws of the frame, held by every state of the interface at every size, by day, by lamplight
and in the system's colours.
"""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest
from playwright.sync_api import BrowserContext, Page, expect

from browser_help import AXE, DOMAIN, Keep, lengthen
from browser_states import DRAFTED, LIVE, NOBODY, SCREENS, State, fail, hang, settled
from frame_laws import Seen, breaches, unreadable_texts

pytestmark = pytest.mark.browser

SOURCE = Path(__file__).parents[2] / "web" / "src"


@pytest.fixture(scope="module")
def seen() -> Seen:
    return defaultdict(list)


@pytest.fixture(scope="module")
def kept(keep: Keep) -> Iterator[BrowserContext]:
    """A browser that draws every pixel: a border of half a one would be drawn, and laid out, as a
    whole one.
    """
    with keep(1) as one:
        yield one


@pytest.fixture
def visit(page: Page, seen: Seen) -> Callable[[list[State]], None]:
    said: list[str] = []
    page.on(
        "console",
        lambda m: said.append(m.text) if "Failed to load resource" not in m.text else None,
    )

    def go(states: list[State]) -> None:
        wrong = []
        for state in states:
            page.unroute_all()
            page.goto(state.path)
            settled(page)
            state.act(page)
            settled(page)
            try:
                expect(page.locator(":focus")).to_have_count(1)
            except AssertionError:
                wrong.append(f"{state.name}: the focus is nowhere")
            page.evaluate(AXE.read_text())
            wrong += [f"{state.name}, {breach}" for breach in breaches(page, seen)]
            if not page.title().startswith(state.title) or not page.title().endswith("Hornfels"):
                wrong.append(f"{state.name}: the page is called “{page.title()}”")
            wrong += [f"{state.name}: the console says {line}" for line in said]
            said.clear()
            page.evaluate("sessionStorage.clear()")
        assert not wrong, "\n".join(wrong)

    return go


@pytest.mark.thorough
@pytest.mark.parametrize("part", range(4))
def test_the_frame_stands_in_every_state_of_live(
    visit: Callable[[list[State]], None], part: int
) -> None:
    visit(LIVE[part::4])


@pytest.mark.thorough
def test_the_frame_stands_in_every_state_of_a_draft(
    page: Page, visit: Callable[[list[State]], None]
) -> None:
    lengthen(page, "Night operators", "16")
    visit(DRAFTED)


@pytest.mark.thorough
def test_the_frame_stands_for_nobody(page: Page, visit: Callable[[list[State]], None]) -> None:
    page.context.clear_cookies()
    visit(NOBODY)


@pytest.mark.thorough
@pytest.mark.parametrize("how", [hang, fail])
def test_the_frame_stands_while_reading_and_when_that_fails(
    page: Page, seen: Seen, how: Callable[[Page, str], None]
) -> None:
    wrong = []
    for screen in SCREENS:
        page.unroute_all()
        for path in ("domains/**", "people", "trail*", "session/*"):
            how(page, f"**/api/{path}")
        page.goto(f"{DOMAIN}/{screen}")
        page.wait_for_selector("text=Reading" if how is hang and screen != "sources" else "main")
        page.evaluate(AXE.read_text())
        wrong += [f"{screen}, {breach}" for breach in breaches(page, seen)]
    assert not wrong, "\n".join(wrong)


def test_the_check_itself_finds_faint_text_by_day_and_by_lamplight(page: Page) -> None:
    page.evaluate(AXE.read_text())
    assert unreadable_texts(page, []) == []
    for scheme, faint in (("light", "#b5b0a6"), ("dark", "#4a4740")):
        page.emulate_media(color_scheme=scheme)  # type: ignore[arg-type]
        page.evaluate(
            "colour => document.documentElement.style.setProperty('--color-soft', colour)", faint
        )
        assert any(found.startswith("color-contrast") for found in unreadable_texts(page, []))
    page.emulate_media(color_scheme="light")


def test_the_list_of_states_is_whole() -> None:
    """Every address, every value kept in one, every panel and everything that opens is in
    the list.
    """
    states = [*LIVE, *DRAFTED, *NOBODY]
    # The page of the kit is in no state: it has a test of its own.
    paths_of_code = (path for path in SOURCE.rglob("*.tsx") if path.parent.name != "page")
    sources = {path: path.read_text() for path in paths_of_code}
    code = "\n".join(sources.values())
    paths = set(re.findall(r'path: "([^"]+)"', (SOURCE / "app" / "routes.tsx").read_text()))
    assert paths == {
        *SCREENS[:-1],
        "/",
        "/:domain",
        "/you",
        "/:domain/card",
        "*",
    }, "a route without a state"
    kept = set(re.findall(r'useUrlState\("(\w+)"\)', code))
    filters = re.search(
        r"FILTERS = \[(.*?)\]", (SOURCE / "accounts" / "filters.ts").read_text(), re.DOTALL
    )
    assert filters
    kept |= set(re.findall(r'"(\w+)"', filters[1]))
    shown = {key for state in states for key in re.findall(r"[?&](\w+)=", state.path)}
    assert kept - shown == set(), "kept in the address, but in no state"
    opening = {
        path.stem
        for path, text in sources.items()
        if re.search(r"(Popover|Dialog|DropdownMenu)\.Content", text)
    }
    opening |= {
        path.stem for path, text in sources.items() if "<Drop\n" in text or "<Drop " in text
    }
    assert opening == {
        "CircumstancesPopover",
        "ColumnMenu",
        "Drop",
        "FilterMenu",
        "ImportHelp",
        "KeepTrial",
        "Keys",
        "AskedOver",
        "OwnMenu",
        "ReportMenu",
        "SetMenu",
        "SuggestPopover",
        "TopBar",
        "Unsaved",
        "WhoIsTried",
    }, "something opens that is in no state"


def test_the_document_does_not_scroll_under_the_wheel(page: Page) -> None:
    page.get_by_role("button", name=re.compile(r"^\d+ Night operators\b")).click()
    page.get_by_label("Minimum length", exact=True).hover()
    for _ in range(12):
        page.mouse.wheel(0, 400)
    expect(page.get_by_role("banner")).to_be_in_viewport(ratio=1)
    assert page.evaluate("scrollY") == 0
