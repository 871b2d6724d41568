"""The OpenAPI document: what every operation may answer besides its own, said once."""

from __future__ import annotations

from typing import Any

from fastapi import FastAPI
from fastapi.openapi.utils import get_openapi
from pydantic.json_schema import models_json_schema

from hornfels.api.refusals import EVERYWHERE, WORDS, Invalid, Refusal

_TEMPLATE = "#/components/schemas/{model}"


def describe(app: FastAPI) -> None:
    """Let an application describe the refusals of whoever stands before the routes, for every
    operation of theirs.

    Not declared at the routes: each declaration would be made ready for answering, sixty times over
    at every start.
    """

    def openapi() -> dict[str, Any]:
        if app.openapi_schema is None:
            app.openapi_schema = _whole(
                get_openapi(title=app.title, version=app.version, routes=app.routes)
            )
        return app.openapi_schema

    app.openapi = openapi  # type: ignore[method-assign]


def _whole(document: dict[str, Any]) -> dict[str, Any]:
    _, models = models_json_schema(
        [(Refusal, "serialization"), (Invalid, "serialization")], ref_template=_TEMPLATE
    )
    schemas = document.setdefault("components", {}).setdefault("schemas", {})
    for unused in ("HTTPValidationError", "ValidationError"):
        schemas.pop(unused, None)
    schemas |= models["$defs"]
    for operations in document["paths"].values():
        for operation in operations.values():
            responses = operation["responses"]
            responses.pop("422", None)
            for status, model in EVERYWHERE.items():
                content = {
                    "application/json": {"schema": {"$ref": _TEMPLATE.format(model=model.__name__)}}
                }
                responses.setdefault(
                    str(status), {"description": WORDS[status], "content": content}
                )
    return document
