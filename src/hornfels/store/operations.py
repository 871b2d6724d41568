"""Operations as the database keeps them."""

from __future__ import annotations

from typing import Any

from pydantic import ValidationError

from hornfels.core.drafts.operations import ADAPTER, Operations
from hornfels.refusals import ConflictError

Written = list[Any]
"""Operations as JSON."""


class UnreadableOperationsError(ConflictError):
    """Operations that another version of Hornfels has written, with something unknown here."""


def written(operations: Operations) -> Written:
    return list(ADAPTER.dump_python(operations, mode="json"))


def read(kept: Written, whose: str) -> Operations:
    """The operations that were written. Raises `UnreadableOperationsError`, which names `whose`
    they are and what is unknown.
    """
    try:
        return ADAPTER.validate_python(kept)
    except ValidationError as error:
        number, *inside = error.errors(include_input=False, include_url=False)[0]["loc"]
        words = ".".join(str(part) for part in inside) or "kind"
        raise UnreadableOperationsError(
            f"{whose} holds something that this version of Hornfels does not know: change "
            f"{int(number) + 1}, {words}. Start the version that wrote it to see it."
        ) from None
