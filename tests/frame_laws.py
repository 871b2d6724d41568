"""The laws of the frame: what every page keeps at every size, by day, by lamplight and in the
system's colours.
"""

from __future__ import annotations

from collections import defaultdict
from pathlib import Path

from playwright.sync_api import Page

from browser_help import VIEWPORT

SIZES = ((1280, 800), (1024, 768), (640, 400), (320, 640))
SCHEMES: dict[str, dict[str, str]] = {
    "by day": {},
    "by lamplight": {"color_scheme": "dark"},
    "in the system's colours": {"forced_colors": "active"},
}
LAWS = Path(__file__).with_name("laws.js").read_text()
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
    // A letter stands in a frame that runs nothing, also not axe.
    iframes: false,
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
    page.set_viewport_size(VIEWPORT)
    coloured = page.evaluate(COLOURED)
    if not seen["coloured"] or not set(coloured) <= set(seen["coloured"]):
        for name, scheme in SCHEMES.items():
            page.emulate_media(**scheme)  # type: ignore[arg-type]
            found += [f"{name}: {violation}" for violation in unreadable_texts(page, seen[name])]
        if not found:
            seen["coloured"] += coloured
    page.emulate_media(color_scheme="light", forced_colors="none")
    return found
