"""The application behind a real socket, and raw words to it."""

from __future__ import annotations

import contextlib
import os
import socket
import threading
from collections.abc import Iterator
from pathlib import Path

import uvicorn
from fastapi import FastAPI

from hornfels.api.patience import settings
from shaken import Shaken


@contextlib.contextmanager
def served(
    app: FastAPI, listener: socket.socket | None = None, *, tls: tuple[Path, Path] | None = None
) -> Iterator[int]:
    """The port at which the application is served for as long as the block runs: the listener's,
    which is closed then, or any. With the files of a certificate and its key it speaks TLS.
    """
    certificate, key = tls or (None, None)
    listener = listener or socket.create_server(("127.0.0.1", 0))
    shaken = Shaken(app, float(os.environ.get("HORNFELS_SHAKE", 0)))
    given = {"log_level": "critical", "ssl_certfile": certificate, "ssl_keyfile": key}
    server = uvicorn.Server(uvicorn.Config(shaken, **{**settings(), **given}))
    thread = threading.Thread(target=server.run, kwargs={"sockets": [listener]})
    thread.start()
    try:
        yield listener.getsockname()[1]
    finally:
        server.should_exit = True
        thread.join()


def raw(port: int, words: bytes) -> bytes:
    """What comes back for these bytes until the server closes or has sent the head of an answer."""
    with socket.create_connection(("127.0.0.1", port), timeout=30) as connection:
        connection.sendall(words)
        return connection.recv(1 << 16)


def ends_by_itself(port: int, words: bytes) -> bool:
    """Whether the server ends a connection on which this and nothing more is sent."""
    with socket.create_connection(("127.0.0.1", port), timeout=30) as connection:
        connection.sendall(words)
        while connection.recv(1 << 16):
            pass
        return True
