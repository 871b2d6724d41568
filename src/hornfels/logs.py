"""The log: lines for people, or JSON for machines, each with the request that it belongs to."""

from __future__ import annotations

import logging
from contextvars import ContextVar
from typing import Literal

REQUEST: ContextVar[str] = ContextVar("request", default="")
"""The id of the request that is being answered."""


class _WithRequest(logging.Filter):
    def filter(self, record: logging.LogRecord) -> bool:
        record.request = REQUEST.get()
        return True


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
