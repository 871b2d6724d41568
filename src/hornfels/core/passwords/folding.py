"""Text as it looks at a glance: without case and accents, and with what stands for a letter as that
letter (domain rules §9).
"""

from __future__ import annotations

import unicodedata

LOOK_ALIKES = {
    "0": "o",
    "1": "l",
    "3": "e",
    "4": "a",
    "5": "s",
    "6": "g",
    "7": "t",
    "8": "b",
    "9": "g",
    "@": "a",
    "$": "s",
    "!": "i",
    "|": "l",
    "+": "t",
    "(": "c",
    "€": "e",
    "£": "l",
}
"""What people write for a letter, by its shape: digits as leetspeak has them, signs by what they
are drawn from. 2 is left out, for people use it both for z and for “to”.
"""
_TABLE = str.maketrans(LOOK_ALIKES) | str.maketrans("i", "l")
# What stands for an i ends as l too, so that i, l, 1, ! and | all meet.
_TABLE[ord("!")] = "l"
_OF_ASCII = bytes(
    ord(chr(code).lower().translate(_TABLE)) if code < 128 else code for code in range(256)
)


def folded(text: str) -> str:
    """Text folded: NFKC, case folding, NFKD without combining marks, the table of look-alikes."""
    if text.isascii():
        return text.encode().translate(_OF_ASCII).decode()
    folding = unicodedata.normalize("NFKC", text).casefold()
    parts = unicodedata.normalize("NFKD", folding)
    plain = "".join(c for c in parts if not unicodedata.category(c).startswith("M"))
    return plain.translate(_TABLE)
