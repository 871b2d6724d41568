"""People at their browsers: what they ask for one after another, and what they see."""

from __future__ import annotations

import asyncio
import random
import time
from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass, field

Asked = tuple[str, str, bytes]
"""Method, path and body."""


@dataclass
class Seen:
    """What was answered: statuses, seconds of those that were served, and what was neither served
    nor told when to come back.
    """

    statuses: Counter[str] = field(default_factory=Counter)
    times: list[float] = field(default_factory=list)
    wrong: Counter[str] = field(default_factory=Counter)
    memory: list[tuple[float, float]] = field(default_factory=list)


async def person(
    port: int, cookie: str, ask: Callable[[int], Asked], thinking: float, ends: float, seen: Seen
) -> None:
    """Somebody who looks at each answer for `thinking` seconds on average, then asks the next."""
    number, reader, writer = 0, None, None
    while time.monotonic() < ends:
        number += 1
        await asyncio.sleep(random.expovariate(1 / thinking))
        method, path, body = ask(number)
        head = (
            f"{method} {path} HTTP/1.1\r\nHost: 127.0.0.1\r\nCookie: "
            f"hornfels_session={cookie}\r\nContent-Type: application/json\r\n"
        )
        begun = time.monotonic()
        try:
            if writer is None:
                reader, writer = await asyncio.open_connection("127.0.0.1", port)
            assert reader
            writer.write(f"{head}Content-Length: {len(body)}\r\n\r\n".encode() + body)
            answer = await asyncio.wait_for(reader.readuntil(b"\r\n\r\n"), 60)
            lines = answer.lower().split(b"\r\n")
            size = next(
                (int(line[15:]) for line in lines if line.startswith(b"content-length:")), 0
            )
            await reader.readexactly(size)
        except (OSError, asyncio.IncompleteReadError):
            # The server is being started again: there is nobody to answer.
            seen.statuses["no server"] += 1
            if writer:
                writer.close()
            reader = writer = None
            await asyncio.sleep(0.5)
            continue
        status = answer.split(b" ")[1].decode()
        seen.statuses[status] += 1
        if status.startswith("2"):
            seen.times.append(time.monotonic() - begun)
        elif status == "503" and any(line.startswith(b"retry-after:") for line in lines):
            await asyncio.sleep(1)
        else:
            seen.wrong[f"{status} {method} {path.split('?')[0]}"] += 1
        if b"\r\nconnection: close" in answer.lower():
            writer.close()
            reader = writer = None
