"""Names that people take for one although a directory does not: letters of other scripts that look
like Latin ones ([UTS 39], the part of it that three scripts need).
"""

from __future__ import annotations

import re
import unicodedata

_CYRILLIC = "аА:a вВ:b сС:c еЕ:e һҺ:h нН:h іІ:i їЇ:i јЈ:j кК:k мМ:m оО:o рР:p ѕЅ:s тТ:t уУ:y хХ:x"
_GREEK = "αΑ:a βΒ:b εΕ:e ηΗ:h ιΙ:i κΚ:k μΜ:m νΝ:v οΟ:o ρΡ:p τΤ:t υΥ:y χΧ:x ζΖ:z"
_LATIN = {
    ord(letter): latin
    for pair in f"{_CYRILLIC} {_GREEK}".split()
    for letters, latin in [pair.split(":")]
    for letter in letters
}


def skeleton(name: str) -> str:
    """A key that is equal for names which look alike: without case, all dashes as one, all blanks
    as one, and letters of other scripts as the Latin ones they look like.
    """
    plain = unicodedata.normalize("NFKC", name).translate(_LATIN).lower()
    return re.sub(r"\s+", " ", re.sub("[‐-―]", "-", plain))
