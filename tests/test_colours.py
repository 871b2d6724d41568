"""Every colour stands out from what it lies on, by day and by lamplight (WCAG 2.2, 1.4.3 and
1.4.11).
"""

from __future__ import annotations

import json
import re
from importlib.resources import files
from pathlib import Path

import pytest

SOURCE = Path(__file__).parents[1] / "web" / "src"
STYLES = (SOURCE / "index.css").read_text()
LOOKS = files("hornfels.formats.reports") / "looks.json"

TEXTS = ("ink", "soft", "pass", "fail", "warn")
GROUNDS = ("paper", "sheet", "white", "hover", "bed")


def luminance(colour: str) -> float:
    channels = [int(colour[at : at + 2], 16) / 255 for at in (1, 3, 5)]
    red, green, blue = (
        c / 12.92 if c <= 0.04045 else ((c + 0.055) / 1.055) ** 2.4 for c in channels
    )
    return 0.2126 * red + 0.7152 * green + 0.0722 * blue


def contrast(one: str, other: str) -> float:
    low, high = sorted((luminance(one), luminance(other)))
    return (high + 0.05) / (low + 0.05)


def tokens(block: str) -> dict[str, str]:
    return dict(re.findall(r"--color-(\w+): (#[0-9a-f]{6});", block))


DAY = tokens(
    STYLES[
        STYLES.index("@theme {") : STYLES.index(
            "By lamplight" if "By lamplight" in STYLES else "prefers-color-scheme"
        )
    ]
)
LAMPLIGHT = DAY | tokens(
    STYLES[STYLES.index("prefers-color-scheme: dark") : STYLES.index("@layer base")]
)
HUES = [(h["fill"], h["ink"], h["light"]) for h in json.loads(LOOKS.read_text())["hues"]]


def test_contrast_is_what_it_is_said_to_be() -> None:
    assert contrast("#000000", "#ffffff") == pytest.approx(21)
    assert contrast("#777777", "#ffffff") == pytest.approx(4.48, abs=0.01)
    assert (len(DAY), len(HUES)) == (24, 11)
    assert DAY["paper"] != LAMPLIGHT["paper"]


@pytest.mark.parametrize("scheme", [DAY, LAMPLIGHT], ids=["day", "lamplight"])
def test_texts_and_edges_stand_out(scheme: dict[str, str]) -> None:
    weak = [
        (text, ground)
        for text in TEXTS
        for ground in GROUNDS
        if contrast(scheme[text], scheme[ground]) < 4.5
    ]
    weak += [
        (tone, f"{tone}bg")
        for tone in ("pass", "fail", "warn")
        if contrast(scheme[tone], scheme[f"{tone}bg"]) < 4.5
    ]
    weak += [
        ("white", tone)
        for tone in ("ink", "fail", "warn")
        if contrast(scheme["white"], scheme[tone]) < 4.5
    ]
    weak += [
        ("edge", ground)
        for ground in ("paper", "sheet", "white")
        if contrast(scheme["edge"], scheme[ground]) < 3
    ]
    weak += [
        ("focus", ground) for ground in GROUNDS if contrast(scheme["focus"], scheme[ground]) < 3
    ]
    weak += [
        (text, ground)
        for text in ("railink", "railsoft")
        for ground in ("rail", "railon", "railhover")
        if contrast(scheme[text], scheme[ground]) < 4.5
    ]
    assert not weak


@pytest.mark.parametrize(("fill", "ink", "light"), HUES)
def test_a_policys_fill_strokes_and_name_stand_out(fill: str, ink: str, light: str) -> None:
    stroke = "#fdfbf6"
    assert contrast(fill, stroke) >= 3
    for ground in ("sheet", "white"):
        assert contrast(fill, DAY[ground]) >= 3
        assert contrast(fill, LAMPLIGHT[ground]) >= 3
        assert contrast(ink, DAY[ground]) >= 4.5
        assert contrast(light, LAMPLIGHT[ground]) >= 4.5
