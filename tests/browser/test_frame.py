"""The laws of the frame, held by every state of the interface at every size, by day, by lamplight
and in the system's colours.
"""

from __future__ import annotations

import re
import socket
from collections import defaultdict
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest
from playwright.sync_api import BrowserContext, BrowserType, Page, expect

from browser_help import AXE, DOMAIN, keeping, lengthen
from browser_states import DRAFTED, LIVE, NOBODY, SCREENS, State, fail, hang, settled

pytestmark = pytest.mark.browser

SIZES = ((1280, 800), (1024, 768), (640, 400), (320, 640))
SCHEMES: dict[str, dict[str, str]] = {
    "by day": {},
    "by lamplight": {"color_scheme": "dark"},
    "in the system's colours": {"forced_colors": "active"},
}
LAWS = Path(__file__).with_name("laws.js").read_text()
SOURCE = Path(__file__).parents[2] / "web" / "src"
COLOURS = ["color-contrast", "link-in-text-block"]
"""The rules of axe that colours have to do with; all others say the same in every scheme."""
PLACES = ["scrollable-region-focusable"]
"""The rules that sizes have to do with; all others say the same of one document."""
DRAWN_OTHERWISE = {1280, 640}
"""The widths from which on the document is another one, with other panels and other lines."""
AXE_RUN = """async ({ rules, off, seen }) => {
  const told = (node) => node.target.join(" ") + " " + node.failureSummary;
  const looks = new Set(seen);
  const clear = (colour) => /^rgba\\(.*, 0\\)$/.test(colour);
  const grounds = new Map([[null, ""]]);
  const groundOf = (element) => {
    if (!grounds.has(element)) {
      const style = getComputedStyle(element);
      const own = [];
      if (!clear(style.backgroundColor)) own.push(style.backgroundColor);
      if (style.backgroundImage !== "none") own.push(style.backgroundImage);
      if (/absolute|fixed|sticky/.test(style.position)) own.push("over what " + element.className);
      // What is behind an opaque ground is not seen.
      const opaque = /^rgb\\(/.test(style.backgroundColor);
      grounds.set(element, [...own, opaque || groundOf(element.parentElement)].join(" "));
    }
    return grounds.get(element);
  };
  const fades = new Map([[null, ""]]);
  const fadeOf = (element) => {
    if (!fades.has(element)) {
      const { opacity } = getComputedStyle(element);
      const above = fadeOf(element.parentElement);
      fades.set(element, opacity === "1" ? above : `${above} through ${opacity}`);
    }
    return fades.get(element);
  };
  const lookOf = (element) => {
    const own = getComputedStyle(element);
    const px = parseFloat(own.fontSize);
    const large = px >= 24 || (px > 18.6 && own.fontWeight >= 700);
    const look = [own.color, own.webkitTextFillColor, large ? "large" : ""];
    if (element.matches("a, a *"))
      look.push("in a link", own.textDecorationLine, getComputedStyle(element.parentElement).color);
    if (element.matches(":disabled, :disabled *, [aria-disabled=true], [aria-disabled=true] *"))
      look.push("off");
    return [...look, fadeOf(element), groundOf(element)].join(" ");
  };
  const scope = seen
    ? { include: [...document.querySelectorAll("body *")].filter(element => {
        const words = [...element.childNodes].some(n => n.nodeType === 3 && n.data.trim());
        if (!words || !element.checkVisibility()) return false;
        const look = lookOf(element);
        return !looks.has(look) && looks.add(look);
      }) }
    : document;
  if (seen && !scope.include.length) return { breaks: [], looks: [] };
  const { violations } = await axe.run(scope, {
    resultTypes: ["violations"],
    ...(rules && { runOnly: { type: "rule", values: rules } }),
    ...(off && { rules: Object.fromEntries(off.map(rule => [rule, { enabled: false }])) }),
  });
  return {
    breaks: violations.map(v => v.id + ": " + v.nodes.slice(0, 2).map(told).join(" | ")),
    looks: [...looks].slice(seen?.length ?? 0),
  };
}"""
"""With ``seen``, on one text of each look that was not seen before: of two texts drawn in one
colour on the same ground, in whichever state, one is as readable as the other; a large one more so.
"""


COLOURED = """() => {
  const chains = new Map([[document.documentElement, ""]]);
  const chainOf = (element) => {
    if (!chains.has(element)) {
      const own = [...element.classList].filter(name => /(^|:)(text|bg|opacity)-/.test(name));
      const states = [...element.attributes].filter(({ name }) =>
        /^(disabled|data-state|aria-(disabled|checked|pressed|selected|invalid|current))$/.test(name));
      const { color, background, opacity } = element.style;
      const drawn = [...own, ...states.map(a => a.name + a.value), color, background, opacity];
      chains.set(element, [chainOf(element.parentElement), ...drawn].join(" "));
    }
    return chains.get(element);
  };
  const texts = [...document.querySelectorAll("body *")].filter(element =>
    [...element.childNodes].some(n => n.nodeType === 3 && n.data.trim()));
  return [...new Set(texts.map(chainOf))];
}"""
"""By what names of colours, from the page down, texts are drawn: where all were drawn so in a state
before, no scheme draws any otherwise.
"""


DRAWN = """() => {
  const own = (element) => [element.tagName, ...element.attributes].map(one =>
    one.name === undefined ? one : /^(class|role|type|disabled)$/.test(one.name)
      ? one.name + "=" + one.value : one.name).join(" ");
  return [...new Set([...document.querySelectorAll("body *")].map(element =>
    own(element.parentElement) + " > " + own(element)))];
}"""
"""What is drawn, in kinds: an element in another with the attributes that both have."""


def axe(page: Page, **how: object) -> list[str]:
    return list(page.evaluate(AXE_RUN, how)["breaks"])


def unreadable_texts(page: Page, seen: list[str]) -> list[str]:
    """What axe says of the colours of every look that is not among those `seen`, which are added
    where nothing is wrong.
    """
    found = page.evaluate(AXE_RUN, {"rules": COLOURS, "seen": seen})
    if not found["breaks"]:
        seen += found["looks"]
    return list(found["breaks"])


Seen = defaultdict[str, list[str]]
"""By scheme, the looks whose colours were found right; “coloured”: by what names of colours;
“drawn”: the kinds of elements that axe found nothing wrong with.
"""


def breaches(page: Page, seen: Seen) -> list[str]:
    """What breaks the laws at every size and in every scheme, with where."""
    found = []
    checked = ""
    for width, height in SIZES:
        page.set_viewport_size({"width": width, "height": height})
        page.evaluate(
            "() => new Promise(done => requestAnimationFrame(() => requestAnimationFrame(done)))"
        )
        drawn = page.evaluate("document.body.innerHTML") if width in DRAWN_OTHERWISE else checked
        breaks = list(page.evaluate(LAWS))
        kinds = [] if drawn == checked else page.evaluate(DRAWN)
        if width == SIZES[0][0] or not set(kinds) <= set(seen["drawn"]):
            breaks += axe(page, off=COLOURS)
            seen["drawn"] += [] if breaks else kinds
        elif width < 1024:
            breaks += axe(page, rules=PLACES)
        checked = drawn
        found += [f"{width} × {height}: {breach}" for breach in breaks]
    page.set_viewport_size({"width": 1280, "height": 800})
    coloured = page.evaluate(COLOURED)
    if not seen["coloured"] or not set(coloured) <= set(seen["coloured"]):
        for name, scheme in SCHEMES.items():
            page.emulate_media(**scheme)  # type: ignore[arg-type]
            found += [f"{name}: {violation}" for violation in unreadable_texts(page, seen[name])]
        if not found:
            seen["coloured"] += coloured
    page.emulate_media(color_scheme="light", forced_colors="none")
    return found


@pytest.fixture(scope="module")
def seen() -> Seen:
    return defaultdict(list)


@pytest.fixture(scope="module")
def kept(
    chromium: BrowserType,
    executable: str,
    listener: socket.socket,
    tmp_path_factory: pytest.TempPathFactory,
) -> Iterator[BrowserContext]:
    """A browser that draws every pixel: a border of half a one would be drawn, and laid out, as a
    whole one.
    """
    with keeping(chromium, executable, listener, tmp_path_factory.mktemp("sharp"), 1) as one:
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
    sources = {path: path.read_text() for path in SOURCE.rglob("*.tsx")}
    code = "\n".join(sources.values())
    paths = set(re.findall(r'path: "([^"]+)"', (SOURCE / "app" / "routes.tsx").read_text()))
    assert paths == {
        "/",
        "/:domain",
        "strata",
        "accounts",
        "changes",
        "baselines",
        "servers",
        "exposure",
        "forecast",
        "sources",
        "own",
        "people",
        "trail",
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
