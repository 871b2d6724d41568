"""One worker that serves the application on a database, or an empty endpoint that takes the same
body: `serving KIND URL [CERTIFICATE KEY]`.
"""

from __future__ import annotations

import socket
import sys

import uvicorn
from fastapi import FastAPI

from hornfels.api.app import create_app
from hornfels.api.bench_schemas import Attempt
from hornfels.api.patience import settings
from hornfels.store.database import connect


def empty() -> FastAPI:
    app = FastAPI()

    @app.post("/api/domains/{domain}/verdicts")
    async def nothing(domain: str, body: Attempt) -> dict[str, str]:  # noqa: ARG001
        return {}

    return app


def main(kind: str, url: str, certificate: str | None = None, key: str | None = None) -> None:
    listener = socket.create_server(("127.0.0.1", 0))
    print(listener.getsockname()[1], flush=True)
    app = empty() if kind == "empty" else create_app(connect(url))
    held = {**settings(), "log_level": "error"}
    configured = uvicorn.Config(app, **held, ssl_certfile=certificate, ssl_keyfile=key)
    uvicorn.Server(configured).run(sockets=[listener])


if __name__ == "__main__":
    main(*sys.argv[1:])
