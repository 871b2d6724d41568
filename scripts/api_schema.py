"""Print the API's OpenAPI description; the build turns it into the front end's types."""

from __future__ import annotations

import json

from fastapi import FastAPI

from hornfels.api.app import ROUTERS

app = FastAPI(title="Hornfels")
for router in ROUTERS:
    app.include_router(router)
print(json.dumps(app.openapi()))
