"""`hornfels gate`: the gate on a directory server's own machine."""

from __future__ import annotations

import asyncio
import shlex
import signal
import socket
from pathlib import Path

from hornfels.cli.errors import fail
from hornfels.cli.settings import settings
from hornfels.gate import hook
from hornfels.gate.desk import TakenError, listen, serve
from hornfels.gate.keeper import Keeper
from hornfels.gate.upstream import Upstream, refuse_address
from hornfels.logs import set_up
from hornfels.service.corpora import corpora


def run_gate(address: str, token_file: Path, path: Path, authorities: Path | None) -> None:
    """Answer at the socket until Ctrl+C or SIGTERM."""
    held = settings()
    set_up(held.log, "hornfels gate")
    try:
        refuse_address(address)
    except ValueError as error:
        fail(f"--from {address}: {error}")
    token = _token(token_file)
    if authorities is not None and not authorities.is_file():
        fail(f"{authorities}: there is no such file; name certificates (PEM)")
    try:
        listener = listen(path)
    except TakenError as error:
        fail(str(error))
    except OSError as error:
        fail(f"{path}: cannot listen there ({error.strerror}); choose another with --socket")
    unanswered = Path(f"{path}.unanswered")
    keeper = Keeper(
        held.home / "gate", Upstream(address, token, authorities), unanswered, corpora()
    )
    keeper.start()
    print(f"The gate answers at {path}. Ctrl+C ends it.", flush=True)
    try:
        asyncio.run(_until_told(keeper, listener))
    finally:
        keeper.close()
        path.unlink(missing_ok=True)


async def _until_told(keeper: Keeper, listener: socket.socket) -> None:
    ending = asyncio.Event()
    for told in (signal.SIGINT, signal.SIGTERM):
        asyncio.get_running_loop().add_signal_handler(told, ending.set)
    await serve(keeper, listener, ending)


def _token(file: Path) -> str:
    try:
        if file.stat().st_mode & 0o077:
            fail(f"{file}: others can read the token; take that away (chmod 600)")
        found = file.read_text().strip()
    except OSError as error:
        fail(f"{file}: cannot be read ({error.strerror}); put the caller's token into it")
    if not found:
        fail(f"{file}: it is empty; put the caller's token into it")
    return found


def hook_line(path: Path, otherwise: str) -> str:
    """The line for the directory server's configuration, by which it asks at a socket."""
    words = ["/usr/bin/python3", "-I", "-S", str(Path(hook.__file__)), str(path), otherwise]
    return f"check password script = {shlex.join(words)}"
