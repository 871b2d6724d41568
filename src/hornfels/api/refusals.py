"""What the API says when it does not do what was asked, in one shape everywhere."""

from __future__ import annotations

from typing import Any

from pydantic import BaseModel, Field
from starlette.requests import Request
from starlette.responses import JSONResponse

from hornfels.refusals import (
    ConflictError,
    FieldsError,
    ForbiddenError,
    NotFoundError,
    NotYetError,
    ProofNeededError,
    RefusalError,
    TooManyTriesError,
)


class FieldProblem(BaseModel):
    """What is wrong with one field of a request, and the repair."""

    field: str = Field(
        description=(
            "the field, with dots between the parts of its place; empty for the request as a whole"
        )
    )
    message: str


class Refusal(BaseModel):
    """Why something was not done and what to do instead."""

    detail: str


class Invalid(BaseModel):
    """What is wrong with a request, field by field."""

    detail: list[FieldProblem]


def refusal(
    status: int, detail: str, retry_after: int | None = None, needs: str = ""
) -> JSONResponse:
    """`needs` tells a browser what would help: "password" (once more) or "new-password"."""
    headers = {"Retry-After": str(retry_after)} if retry_after is not None else {}
    if needs:
        headers["Needs"] = needs
    return JSONResponse({"detail": detail}, status_code=status, headers=headers)


def invalid(field: str, message: str) -> JSONResponse:
    return JSONResponse({"detail": [{"field": field, "message": message}]}, status_code=422)


STATUS: dict[type[RefusalError], int] = {
    NotFoundError: 404,
    ConflictError: 409,
    FieldsError: 422,
    ForbiddenError: 403,
    TooManyTriesError: 429,
    NotYetError: 503,
}


async def tell(_request: Request, error: Exception) -> JSONResponse:
    """What a use case refused, told to a browser."""
    assert isinstance(error, RefusalError)  # noqa: S101
    status = next(status for kind, status in STATUS.items() if isinstance(error, kind))
    if isinstance(error, FieldsError):
        found = [{"field": field, "message": message} for field, message in error.problems]
        return JSONResponse({"detail": found}, status_code=status)
    return refusal(
        status,
        str(error),
        error.retry_after if isinstance(error, NotYetError) else None,
        needs="password" if isinstance(error, ProofNeededError) else "",
    )


WORDS = {
    400: "The request cannot be read.",
    401: "Nobody is signed in.",
    403: "Refused.",
    404: "There is no such thing.",
    408: "The request did not arrive in time.",
    409: "It cannot be done as things stand.",
    413: "The request is too large.",
    421: "The server does not answer to this name.",
    422: "Something in the request is wrong.",
    429: "Too many tries.",
    431: "Address and headers are too long.",
    500: "A fault of Hornfels.",
    503: "Not now; `Retry-After` says when.",
}
EVERYWHERE: dict[int, type[BaseModel]] = {
    status: Invalid if status == 422 else Refusal
    for status in (400, 401, 403, 404, 408, 409, 413, 421, 422, 431, 500, 503)
}
"""What any route may answer besides its own: whoever stands before the routes refuses in these
ways.
"""


def answers(*statuses: int) -> dict[int | str, dict[str, Any]]:
    """How a route describes further refusals of its own."""
    return {status: {"model": Refusal, "description": WORDS[status]} for status in statuses}
