"""A load generator light enough to leave the other processor to the server: prepared bytes over
kept connections.
"""

from __future__ import annotations

import asyncio
import time
from dataclasses import dataclass, field


@dataclass
class Request:
    """A POST of JSON, ready to be sent again and again."""

    port: int
    path: str
    body: bytes
    cookie: str = ""
    data: bytes = field(init=False)

    def __post_init__(self) -> None:
        head = (
            f"POST {self.path} HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Type: "
            f"application/json\r\nContent-Length: {len(self.body)}\r\n"
        )
        cookie = f"Cookie: {self.cookie}\r\n" if self.cookie else ""
        self.data = f"{head}{cookie}\r\n".encode() + self.body


async def _ask(
    reader: asyncio.StreamReader, writer: asyncio.StreamWriter, request: Request
) -> bytes:
    writer.write(request.data)
    head = await reader.readuntil(b"\r\n\r\n")
    assert head.startswith(b"HTTP/1.1 200"), head
    size = next(
        int(line[15:])
        for line in head.split(b"\r\n")
        if line.lower().startswith(b"content-length:")
    )
    return await reader.readexactly(size)


async def _saturate(request: Request, seconds: float, connections: int) -> float:
    ends = time.perf_counter() + seconds

    async def one() -> int:
        reader, writer = await asyncio.open_connection("127.0.0.1", request.port)
        count = 0
        while time.perf_counter() < ends:
            await _ask(reader, writer, request)
            count += 1
        writer.close()
        return count

    begun = time.perf_counter()
    counts = await asyncio.gather(*(one() for _ in range(connections)))
    return sum(counts) / (time.perf_counter() - begun)


def rate(request: Request, seconds: float = 3.0, connections: int = 8) -> float:
    """Answers a second that a server gives to as many requests as it can take."""
    return asyncio.run(_saturate(request, seconds, connections))


async def _typed(requests: list[Request], per_second: float) -> list[float]:
    reader, writer = await asyncio.open_connection("127.0.0.1", requests[0].port)
    times, due = [], time.perf_counter()
    for request in requests:
        due += 1 / per_second
        await asyncio.sleep(max(0.0, due - time.perf_counter()))
        begun = time.perf_counter()
        await _ask(reader, writer, request)
        times.append(time.perf_counter() - begun)
    writer.close()
    return times


def latencies(requests: list[Request], per_second: float) -> list[float]:
    """Seconds that each request took, sorted, when they are sent one after another at an even pace,
    as by somebody typing.
    """
    return sorted(asyncio.run(_typed(requests, per_second)))
