"""What is answered when the database does not do what it should: whether it is away, full, busy, or
at odds with us.
"""

from __future__ import annotations

import logging

from fastapi import Request
from sqlalchemy.exc import DBAPIError, OperationalError
from sqlalchemy.exc import TimeoutError as PoolTimeoutError
from starlette.responses import JSONResponse

from hornfels.api.refusals import refusal

_log = logging.getLogger(__name__)

_OUT_OF_RANGE = "22003"
"""PostgreSQL's code for a number too large for its column: nothing can have it."""
_FULL = ("53100", "58030")
_BUSY = ("55P03", "57014", "40P01", "40001", "53200", "53300", "25P03")
"""Waited too long for a lock or an answer, or chosen to give way."""
_AWAY = ("57P", "08", "58", "53", "XX001")
"""Classes of errors after which the server is gone or going."""

AWAY = (
    "The database does not answer. Nothing was changed; Hornfels goes on by itself as soon as it "
    "is back."
)
FULL = (
    "The database cannot write: its disk is full. Nothing was changed; make room, and Hornfels "
    "goes on by itself."
)
BUSY = (
    "The database is busy with something that is in the way. Nothing was changed; try again in a "
    "moment."
)


def answer_database(error: DBAPIError | PoolTimeoutError) -> JSONResponse:
    if isinstance(error, PoolTimeoutError):
        return refusal(503, "Too many ask at once just now. Try again in a moment.", retry_after=1)
    original = getattr(error, "orig", None)
    state: str = getattr(original, "sqlstate", None) or ""
    if state.startswith(_FULL):
        return refusal(503, FULL, retry_after=5)
    if state in _BUSY:
        return refusal(503, BUSY, retry_after=1)
    if (
        state.startswith(_AWAY)
        or error.connection_invalidated
        or (isinstance(error, OperationalError) and not state)
    ):
        return refusal(503, AWAY, retry_after=2)
    if state == _OUT_OF_RANGE:
        return refusal(404, "There is nothing with such a number.")
    # Only what PostgreSQL calls the primary message: the details may quote values.
    diagnosis = getattr(original, "diag", None)
    _log.error(
        "The database refused a request: %s",
        getattr(diagnosis, "message_primary", None) or type(error).__name__,
    )
    return refusal(500, "The database refused this. Nothing was changed.")


async def handle_database(_request: Request, error: Exception) -> JSONResponse:
    assert isinstance(error, DBAPIError | PoolTimeoutError)  # noqa: S101
    return answer_database(error)
