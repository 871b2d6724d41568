"""A load generator light enough to leave the other processor to the server: prepared bytes over
kept connections.
"""

from __future__ import annotations

import asyncio
import ssl
import time
from dataclasses import dataclass, field


@dataclass
class Request:
    """A POST of JSON, ready to be sent again and again."""

    port: int
    path: str
    body: bytes
    cookie: str = ""
    bearer: str = ""
    data: bytes = field(init=False)

    def __post_init__(self) -> None:
        head = (
            f"POST {self.path} HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Type: "
            f"application/json\r\nContent-Length: {len(self.body)}\r\n"
        )
        cookie = f"Cookie: {self.cookie}\r\n" if self.cookie else ""
        bearer = f"Authorization: Bearer {self.bearer}\r\n" if self.bearer else ""
        self.data = f"{head}{cookie}{bearer}\r\n".encode() + self.body


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


async def _paced(
    requests: list[Request], per_second: float, connections: int, tls: ssl.SSLContext | None
) -> list[float]:
    times: list[float] = []
    begun = time.perf_counter() + 0.2

    async def one(first: int) -> None:
        reader, writer = await asyncio.open_connection("127.0.0.1", requests[0].port, ssl=tls)
        for number in range(first, len(requests), connections):
            due = begun + number / per_second
            await asyncio.sleep(max(0.0, due - time.perf_counter()))
            await _ask(reader, writer, requests[number])
            # From when it was due: one that waits for the answer before it waits all the same.
            times.append(time.perf_counter() - due)
        writer.close()

    await asyncio.gather(*map(one, range(connections)))
    return times


def latencies(
    requests: list[Request],
    per_second: float,
    connections: int = 1,
    tls: ssl.SSLContext | None = None,
) -> list[float]:
    """Seconds that each request took, sorted, when they are sent at an even pace over some
    connections.
    """
    return sorted(asyncio.run(_paced(requests, per_second, connections, tls)))
