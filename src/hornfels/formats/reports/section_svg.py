"""The section through the strata as a drawing of its own: no styles or fonts from outside, prints
on white.
"""

from __future__ import annotations

import math
import re
from collections.abc import Iterator
from html import escape

from hornfels.core.domain.estate import Estate
from hornfels.core.policy.course import summary
from hornfels.core.reports.report import Mark
from hornfels.core.resolution.engine import DOMAIN_POLICY
from hornfels.core.resolution.section import Population, Section, remainders
from hornfels.core.values.text import printable
from hornfels.formats.reports.looks import PAPER, look_of

WIDTH = 1100
_LABELS = 250
_ROW = 36
_NARROWEST = 62
"""The least width of a column: ten letters of a name stand in it."""
_LETTER = 6.2
_LINES = 6


def section_svg(estate: Estate, section: Section, mark: Mark, foot: str = "") -> str:
    """The section as SVG: layers from the top, bedrock below them, populations as columns. The
    largest that there is room for are drawn; the foot says how many are not.
    """
    rows = {policy: number for number, (policy, _) in enumerate(section.layers)}
    shown = _shown(section.populations)
    widths = _widths(shown)
    names = [
        _broken(one.who, int(width / _LETTER)) for one, width in zip(shown, widths, strict=True)
    ]
    head = 25 + 13 * max(map(len, names), default=0)
    base = head + len(rows) * _ROW
    height = base + _ROW + 50
    marks = [mark(policy) for policy in rows] + [None]
    looks = {one: look_of(one) for one in marks}
    parts = [
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {WIDTH} {height}" width="{WIDTH}" '
        f'height="{height}" font-family="sans-serif" font-size="13" fill="{PAPER["ink"]}" '
        'role="img" aria-label="Which policy holds where">',
        "<defs>",
        *(look.solid + look.ghost for look in looks.values()),
        "</defs>",
        f'<rect width="100%" height="100%" fill="{PAPER["page"]}"/>',
        f'<path d="M{_LABELS} {head - 3}H{WIDTH}" stroke="{PAPER["ink"]}" stroke-width="2"/>',
        *_layers(estate, section, shown, head, mark),
        f'<rect x="0" y="{base}" width="{WIDTH}" height="{_ROW}" fill="{PAPER["bed"]}"/>',
        _text(10, base + 15, "Bedrock: domain policy", "bold"),
        _text(10, base + 29, summary(estate.domain.settings), "small"),
    ]
    x = _LABELS
    for one, name, width in zip(shown, names, widths, strict=True):
        parts += _column(one, name, x, width, rows, head, mark)
        x += width
    left = len(section.populations) - len(shown) + section.unlisted
    told = " ".join(
        filter(
            None,
            (
                foot,
                "Solid holds, dashed reaches but another takes it.",
                f"{left:,} smaller populations are not drawn." if left else "",
            ),
        )
    )
    return "".join([*parts, _text(0, height - 8, told, "small"), "</svg>"])


def _shown(populations: tuple[Population, ...]) -> list[Population]:
    """The largest that there is room for, in the order of the layers that take them."""
    places = (WIDTH - _LABELS - 20) // _NARROWEST
    largest = sorted(populations, key=lambda one: -one.count)[:places]
    numbers = {one.number for one in largest}
    return [one for one in populations if one.number in numbers]


def _widths(shown: list[Population]) -> list[int]:
    """Square roots keep a crowd from squeezing everybody else."""
    spare = WIDTH - _LABELS - 20 - len(shown) * _NARROWEST
    roots = [math.sqrt(one.count) for one in shown]
    total = sum(roots) or 1.0
    return [_NARROWEST + int(spare * root / total) for root in roots]


def _layers(
    estate: Estate, section: Section, shown: list[Population], head: int, mark: Mark
) -> Iterator[str]:
    left = remainders(section, shown)
    drawn = {cell.policy for one in shown for cell in one.cells}
    for row, (policy, how) in enumerate(section.layers):
        y, one = head + row * _ROW, estate.policies[policy]
        yield (
            f'<rect x="0" y="{y}" width="{WIDTH}" height="{_ROW - 2}" fill="{PAPER["sheet"]}" '
            f'stroke="{PAPER["line"]}"/>'
        )
        yield _text(34, y + 21, str(one.precedence), "bold", "end")
        yield (
            f'<rect x="42" y="{y + 10}" width="14" height="14" rx="3" '
            f'fill="url(#s{mark(policy)})"/>'
        )
        name = one.name if len(one.name) <= 27 else f"{one.name[:26]}…"
        yield _text(64, y + 15, name + (" △ tie" if how.ties else ""), "bold")
        yield _text(64, y + 29, summary(one.settings), "small")
        if how.idle:
            yield _text(_LABELS + 8, y + 21, f"△ {how.idle}", "warn")
        elif policy not in drawn:
            count = left[policy].governed
            accounts = f"{count:,} account{'s' * (count != 1)} in populations that are not drawn"
            yield _text(_LABELS + 8, y + 21, accounts, "small")


def _column(
    one: Population,
    name: list[str],
    x: int,
    width: int,
    rows: dict[int, int],
    head: int,
    mark: Mark,
) -> Iterator[str]:
    centre, base = x + width / 2, head + len(rows) * _ROW
    yield f"<g><title>{escape(printable(f'{one.who}: {one.count:,}'))}</title>"
    for cell in one.cells:
        y = head + rows[cell.policy] * _ROW + 3
        ink = look_of(mark(cell.policy)).ink
        dashed = "" if cell.holds else f' stroke="{ink}" stroke-dasharray="3 2"'
        kind = "s" if cell.holds else "g"
        yield _block(x, y, width, _ROW - 8, f"{kind}{mark(cell.policy)}", dashed)
    if one.winner == DOMAIN_POLICY:
        yield _block(x, base + 3, width, _ROW - 6, "sNone", "")
    end = base if one.winner == DOMAIN_POLICY else head + rows[one.winner] * _ROW
    ink = look_of(mark(one.winner)).ink
    direct = one.source == "account"
    yield (
        f'<path d="M{centre} {head - 2}V{end + 3}" stroke="{ink}" '
        f'stroke-width="{5 if direct else 1.5}"/>'
    )
    if direct:
        yield f'<path d="M{centre} {head - 8}l5 5-5 5-5-5z" fill="{ink}"/>'
    for number, line in enumerate(reversed(name)):
        yield _text(centre, head - 12 - 13 * number, line, "small", "middle")
    yield _text(centre, base + _ROW + 17, f"{one.count:,}", "small", "middle")
    yield "</g>"


def _block(x: float, y: float, width: int, height: int, pattern: str, dashed: str) -> str:
    return (
        f'<rect x="{x + 2}" y="{y}" width="{width - 4}" height="{height}" rx="3" '
        f'fill="url(#{pattern})"{dashed}/>'
    )


_STYLES = {
    "": "",
    "bold": ' font-weight="600"',
    "small": f' font-size="11" fill="{PAPER["soft"]}"',
    "warn": f' font-size="11" fill="{PAPER["warn"]}"',
}


def _text(x: float, y: float, text: str, style: str, anchor: str = "start") -> str:
    placed = "" if anchor == "start" else f' text-anchor="{anchor}"'
    return f'<text x="{x:g}" y="{y}"{placed}{_STYLES[style]}>{escape(printable(text))}</text>'


def _broken(name: str, letters: int) -> list[str]:
    """A name in lines of so many letters, broken where it may be and cut at the last line."""
    lines: list[str] = []
    for part in re.split(r"(?<=[-_. ])", name):
        if lines and len(lines[-1]) + len(part) <= letters:
            lines[-1] += part
        else:
            lines.append(part)
    cut = [line if len(line) <= letters else f"{line[: letters - 1]}…" for line in lines[:_LINES]]
    return cut if len(lines) <= _LINES else [*cut[:-1], "…"]
