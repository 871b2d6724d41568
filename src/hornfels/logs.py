"""The log: lines for people, or JSON for machines, each with the request that it belongs to."""

from __future__ import annotations

import logging
from contextvars import ContextVar
from typing import Literal

REQUEST: ContextVar[str] = ContextVar("request", default="")
"""The id of the request that is being answered."""


class _WithRequest(logging.Filter):
    """Adds the request, and shows line ends and other hidden characters in what is logged as
    escapes: a name from outside begins no line of its own.
    """

    def filter(self, record: logging.LogRecord) -> bool:
        record.request = REQUEST.get()
        if isinstance(record.args, tuple):
            record.args = tuple(map(_shown, record.args))
        return True


def _shown(argument: object) -> object:
    # A place in our own code has a line for each call.
    ours = isinstance(argument, str) and argument.startswith('  File "')
    if ours or not isinstance(argument, str | BaseException):
        return argument
    return "".join(
        one if one.isprintable() else one.encode("unicode_escape").decode() for one in str(argument)
    )


def set_up(how: Literal["text", "json"], program: str) -> None:
    """Send what Hornfels has to say to standard error, and warnings of everything else."""
    handler = logging.StreamHandler()
    handler.addFilter(_WithRequest())
    if how == "json":
        from pythonjsonlogger.json import JsonFormatter

        handler.setFormatter(
            JsonFormatter(
                "%(asctime)s %(levelname)s %(name)s %(message)s %(request)s",
                rename_fields={"asctime": "at", "levelname": "level", "name": "logger"},
                static_fields={"program": program},
            )
        )
    else:
        handler.setFormatter(logging.Formatter(f"{program}: %(message)s"))
    logging.basicConfig(level=logging.WARNING, handlers=[handler], force=True)
    logging.getLogger("hornfels").setLevel(logging.INFO)
    # It says each failed try; we say it once.
    logging.getLogger("psycopg.pool").setLevel(logging.ERROR)
    logging.getLogger("alembic").setLevel(logging.WARNING)
