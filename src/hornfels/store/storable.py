"""Text as PostgreSQL can hold text: without NUL characters and lone surrogates. Every text and
every JSON value passes here on the way into a statement, so that text from outside never fails an
error, an entry of the log or a job on the way into a column.
"""

from __future__ import annotations

import json
from typing import Any

from sqlalchemy import String, TypeDecorator
from sqlalchemy.engine import Dialect


def storable(text: str) -> str:
    """Return the text with ␀ for NUL characters and ? for lone surrogates."""
    if text.isascii() and "\0" not in text:
        return text
    return text.replace("\0", "␀").encode("utf-8", "replace").decode()


def json_text(value: Any) -> str:
    """Return a value as JSON that a column of the type ``jsonb`` can hold."""
    written = json.dumps(value)
    # Nearly always there is nothing to do. An escaped surrogate may be half of a whole pair.
    return json.dumps(_deep(value)) if "\\u0000" in written or "\\ud" in written else written


def _deep(value: Any) -> Any:
    match value:
        case str():
            return storable(value)
        case dict():
            return {_deep(key): _deep(held) for key, held in value.items()}
        case list() | tuple():
            return [_deep(held) for held in value]
    return value


class StorableText(TypeDecorator[str]):
    """A column of text that takes every text."""

    impl = String
    cache_ok = True

    def process_bind_param(self, value: str | None, dialect: Dialect) -> str | None:  # noqa: ARG002
        return None if value is None else storable(value)
