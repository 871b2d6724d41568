"""Keyboards: the rows of their keys from left to right, unshifted and shifted. A blank stands for a
key that makes no character of its own.
"""

from __future__ import annotations

from functools import cache
from typing import NamedTuple

Row = tuple[str, str]

LAYOUTS: dict[str, tuple[Row, ...]] = {
    "us": (
        ("`1234567890-=", "~!@#$%^&*()_+"),
        ("qwertyuiop[]\\", "QWERTYUIOP{}|"),
        ("asdfghjkl;'", 'ASDFGHJKL:"'),
        ("zxcvbnm,./", "ZXCVBNM<>?"),
    ),
    "uk": (
        ("`1234567890-=", '¬!"£$%^&*()_+'),
        ("qwertyuiop[]", "QWERTYUIOP{}"),
        ("asdfghjkl;'#", "ASDFGHJKL:@~"),
        ("\\zxcvbnm,./", "|ZXCVBNM<>?"),
    ),
    "de": (
        ("^1234567890ß´", '°!"§$%&/()=?`'),
        ("qwertzuiopü+", "QWERTZUIOPÜ*"),
        ("asdfghjklöä#", "ASDFGHJKLÖÄ'"),
        ("<yxcvbnm,.-", ">YXCVBNM;:_"),
    ),
    "fr": (
        ("²&é\"'(-è_çà)=", " 1234567890°+"),
        ("azertyuiop^$", "AZERTYUIOP¨£"),
        ("qsdfghjklmù*", "QSDFGHJKLM%µ"),
        ("<wxcvbn,;:!", ">WXCVBN?./§"),
    ),
}


class Key(NamedTuple):
    """A key by its layout, row and place in it."""

    layout: str
    row: int
    place: int


@cache
def keys_of(layouts: tuple[str, ...]) -> dict[str, tuple[Key, ...]]:
    """For each character the keys that make it, on any of the layouts."""
    found: dict[str, set[Key]] = {}
    for layout in layouts:
        for row, (plain, shifted) in enumerate(LAYOUTS[layout]):
            for line in (plain, shifted):
                for place, character in enumerate(line):
                    if character != " ":
                        found.setdefault(character, set()).add(Key(layout, row, place))
    return {character: tuple(sorted(keys)) for character, keys in found.items()}
