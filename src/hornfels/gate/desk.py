"""The local socket at which the gate is asked: one JSON object on a line, answered by one."""

from __future__ import annotations

import asyncio
import contextlib
import json
import logging
import math
import socket
import time
from pathlib import Path
from typing import Any, get_args

from hornfels.core.gate.judging import GateOperation, Inquiry
from hornfels.gate.keeper import Keeper

MOST = 1 << 19
"""Bytes of a question: a candidate of 64 KB, each byte of it as an escape."""
PATIENCE = 2.0
"""Seconds for a question to come in."""

_log = logging.getLogger(__name__)


class TakenError(Exception):
    """Somebody answers at the socket already."""


def listen(path: Path) -> socket.socket:
    """The socket, for this person alone. One that was left behind is taken away; raises
    `TakenError` for one that answers.
    """
    if path.exists():
        with contextlib.suppress(OSError), socket.socket(socket.AF_UNIX) as other:
            other.connect(str(path))
            raise TakenError(f"{path}: another gate answers there; end that first")
        path.unlink()
    path.parent.mkdir(mode=0o700, parents=True, exist_ok=True)
    found = socket.socket(socket.AF_UNIX)
    try:
        found.bind(str(path))
        path.chmod(0o600)
        found.listen(128)
    except OSError:
        found.close()
        raise
    return found


async def serve(keeper: Keeper, listener: socket.socket, ending: asyncio.Event) -> None:
    """Answer until it is to end."""

    async def asked(reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        with contextlib.suppress(TimeoutError, OSError, asyncio.LimitOverrunError):
            async with asyncio.timeout(PATIENCE):
                line = await reader.readline()
                writer.write(json.dumps(_answer(keeper, line)).encode() + b"\n")
                await writer.drain()
        writer.close()

    async with await asyncio.start_unix_server(asked, sock=listener, limit=MOST):
        await ending.wait()


def _answer(keeper: Keeper, line: bytes) -> dict[str, Any]:
    """What is said to a question. Without ``accepted`` there is none."""
    try:
        asked = json.loads(line)
        inquiry, otherwise = _inquiry(asked), str(asked.get("otherwise", ""))
        late = time.monotonic() > float(asked.get("until", math.inf))
    except (ValueError, KeyError, TypeError, AttributeError, RecursionError):
        return {"error": "This is no question."}
    if late:
        # Whoever asked has gone on without: what it did then is what is kept.
        return {"error": "This is too late."}
    try:
        answer = keeper.answer(inquiry, otherwise)
    except Exception as error:
        # What it was about must not be said: whoever asks does as for no answer.
        _log.error("A question could not be answered (%s).", type(error).__name__)
        return {"error": "This could not be answered."}
    if answer is None:
        return {"error": "No rules are known yet."}
    return {"accepted": answer.verdict.accepted, "told": answer.verdict.told}


def _inquiry(asked: dict[str, Any]) -> Inquiry:
    operation = asked.get("operation", "unknown")
    names = asked.get("names", [])
    present = asked.get("present")
    texts = [asked["account"], asked["candidate"], asked.get("display_name", ""), *names]
    if present is not None:
        texts.append(present)
    if operation not in get_args(GateOperation) or not all(isinstance(t, str) for t in texts):
        raise TypeError
    return Inquiry(
        asked["account"],
        operation,
        asked["candidate"],
        present,
        asked.get("display_name", ""),
        tuple(names),
        bool(asked.get("complexity_left", False)),
    )
