"""The verdict endpoint against an empty one with the same body, each on a worker of its own, and
answers as somebody types.
"""

from __future__ import annotations

import io
import json
import statistics
import subprocess
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import UTC, datetime
from pathlib import Path

import httpx2
from sqlalchemy import Engine
from sqlalchemy.orm import Session

from benchmarks.load import Request, latencies, rate
from hornfels.core.rights.roles import EVERYWHERE
from hornfels.demo.tarnholt import entries
from hornfels.formats.dump import load_dump
from hornfels.formats.ldif import write
from hornfels.store import people
from hornfels.store.estates import save_dump

PATH = "/api/domains/sky.tarnholt.example/verdicts"
TYPED = "Perigee-Transit-2031"


@contextmanager
def worker(kind: str, url: str, *tls: Path) -> Iterator[int]:
    """The port of one in a process of its own, which is given a certificate and its key for TLS."""
    command = [sys.executable, "-m", "benchmarks.serving", kind, url, *map(str, tls)]
    process = subprocess.Popen(command, stdout=subprocess.PIPE, text=True)
    assert process.stdout
    try:
        yield int(process.stdout.readline())
    finally:
        process.terminate()
        process.wait()


def _body(candidate: str, accounts: list[str]) -> bytes:
    return json.dumps(
        {"candidate": candidate, "operation": "change", "accounts": accounts}
    ).encode()


def store_demo(engine: Engine) -> None:
    """Store the demo domain, and let "bench" sign in."""
    with Session(engine) as session, session.begin():
        dump = load_dump(io.BytesIO(b"".join(write(entries(datetime.now(UTC))))))
        save_dump(session, dump, "demo", "bench")
        people.add(session, "bench", "bench-password")
        people.grant(session, "bench", EVERYWHERE, "administrator")


def served(engine: Engine) -> None:
    """The demo must be stored."""
    url = engine.url.render_as_string(hide_password=False)
    accounts = ["ilse.varga", "svc-spectro3", "tarek.okonjo"]
    print("\nThe demo, over HTTP, one worker")
    with worker("application", url) as port, worker("empty", url) as empty:
        answer = httpx2.post(
            f"http://127.0.0.1:{port}/api/session",
            json={"name": "bench", "password": "bench-password"},
        )
        cookie = f"hornfels_session={answer.raise_for_status().cookies['hornfels_session']}"
        for chosen in (accounts[:1], accounts):
            body = _body("Perigee-2031", chosen)
            ours, nothing = Request(port, PATH, body, cookie), Request(empty, PATH, body, cookie)
            rate(ours, 1), rate(nothing, 1)
            pairs = [(rate(ours), rate(nothing)) for _ in range(3)]
            share = statistics.median(mine / theirs for mine, theirs in pairs)
            mine, theirs = (statistics.median(side) for side in zip(*pairs, strict=True))
            print(
                f"  {f'verdicts, candidate × {len(chosen)}':<58}{mine:>12,.0f} /s  "
                f"{share:.0%} of an empty endpoint's {theirs:,.0f} /s"
            )
        typed = [
            Request(port, PATH, _body(TYPED[: 1 + n % len(TYPED)], accounts), cookie)
            for n in range(600)
        ]
        times = latencies(typed, per_second=50)
        p50, p99 = times[len(times) // 2], times[len(times) * 99 // 100]
        print(
            f"  {'as somebody types, 50 a second, three accounts':<58}{p50 * 1000:>12,.2f} "
            f"ms  99th percentile {p99 * 1000:.1f} ms"
        )
