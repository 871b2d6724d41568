"""Print the API's OpenAPI description; the build turns it into the front end's types."""

from __future__ import annotations

import json

from fastapi import FastAPI

from hornfels.api.app import describe

app = FastAPI(title="Hornfels")
describe(app)
print(json.dumps(app.openapi()))
