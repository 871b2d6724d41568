"""The corpora of known-exposed passwords on this machine."""

from __future__ import annotations

from functools import cache
from pathlib import Path

from hornfels.formats.corpus.shelf import Shelf
from hornfels.settings import read_settings

_shelf = cache(Shelf)
"""One for all who ask for the same folder, so that each file is opened once."""


def corpora_folder() -> Path:
    """Where corpora are put."""
    held = read_settings()
    return held.corpora or held.home / "corpora"


def corpora() -> Shelf:
    """The corpora that are at hand."""
    return _shelf(corpora_folder())
