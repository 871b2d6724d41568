"""Print the API's OpenAPI description; the build turns it into the front end's types."""

from __future__ import annotations

import json

from fastapi import FastAPI

from hornfels.api.app import include

app = FastAPI(title="Hornfels")
include(app)
print(json.dumps(app.openapi()))
