"""Each policy's hue and texture, by its mark, on paper. The pages read the same table."""

from __future__ import annotations

import json
from importlib.resources import files
from typing import NamedTuple

_TABLE = json.loads((files(__package__) / "looks.json").read_text())

PAPER: dict[str, str] = _TABLE["paper"]
"""The colours of paper, ink and lines."""

_TILE = '<g fill="none" stroke="{stroke}" stroke-width="1.1">{shape}</g>'


class Look(NamedTuple):
    """The colour of a policy's lines, and its SVG patterns: where it holds, and where it reaches
    and another one holds.
    """

    ink: str
    solid: str
    ghost: str


def look_of(mark: int | None) -> Look:
    """The look of the policy with a mark, None for the domain policy."""
    if mark is None:
        hue, shape = _TABLE["bedrock"], _TABLE["bedrock_texture"]
    else:
        hues, textures = _TABLE["hues"], _TABLE["textures"]
        hue, shape = hues[mark % len(hues)], textures[mark % len(textures)]
    ground = f'<rect width="12" height="12" fill="{hue["fill"]}"/>'
    return Look(
        hue["ink"],
        _pattern(f"s{mark}", ground + _strokes(shape, PAPER["sheet"])),
        _pattern(f"g{mark}", _strokes(shape, hue["fill"])),
    )


def _strokes(shape: str, colour: str) -> str:
    return _TILE.format(stroke=colour, shape=shape.replace('"S"', f'"{colour}"'))


def _pattern(name: str, tile: str) -> str:
    size = 'width="12" height="12" patternUnits="userSpaceOnUse"'
    return f'<pattern id="{name}" {size}>{tile}</pattern>'
