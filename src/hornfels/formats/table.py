"""Tables as comma-separated values (RFC 4180) that a spreadsheet opens as text and never as
formulas.
"""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Sequence

from hornfels.core.values.text import visible

_FORMULA = ("=", "+", "-", "@", "\t", "\r")
"""What a spreadsheet takes for the beginning of a formula."""


def write_table(headings: Sequence[str], rows: Iterable[Sequence[str]]) -> str:
    """The table with its headings. A cell or a heading that would be run as a formula begins with
    an apostrophe; hidden characters show.
    """
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerows([_safe(cell) for cell in row] for row in (headings, *rows))
    return out.getvalue()


def _safe(cell: str) -> str:
    shown = visible(cell)
    return "'" + shown if cell.startswith(_FORMULA) or shown.startswith(_FORMULA) else shown
