"""Work that makes many values which all stay: Python's collector of cycles would walk them again
and again for nothing.
"""

from __future__ import annotations

import contextlib
import gc
from collections.abc import Iterator


@contextlib.contextmanager
def no_collection() -> Iterator[None]:
    """No looking for cycles until the block ends."""
    was_on = gc.isenabled()
    gc.disable()
    try:
        yield
    finally:
        if was_on:
            gc.enable()
