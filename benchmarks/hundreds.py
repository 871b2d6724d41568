"""Two hundred people at once on 100,000 accounts, before two web servers: most of them read, some
try candidates, a few write drafts.
"""

from __future__ import annotations

import asyncio
import io
import json
import random
import time
from collections.abc import Callable
from functools import partial

import httpx2
from sqlalchemy import Engine
from sqlalchemy.orm import Session

from benchmarks.reading import dump_of
from benchmarks.visits import Asked, Seen, person
from benchmarks.web import worker
from hornfels.core.rights.roles import EVERYWHERE
from hornfels.formats.dump import load_dump
from hornfels.store import drafts, people
from hornfels.store.estates import save_dump
from hornfels.store.sessions import open_session

READING, TRYING, DRAFTING = 160, 30, 10
SECONDS = 45
THINKING = 5.0
PLACE = "/api/domains/big.example"


def _read(_number: int) -> Asked:
    name = f"person{random.randrange(100_000)}"
    path = random.choice(
        [
            *("strata", "drafts", "history", "locks"),
            *(f"accounts?offset={random.randrange(1000)}", f"accounts/{name}"),
            f"search?q={name[:8]}",
        ]
    )
    return "GET", f"{PLACE}/{path}", b""


def _try(number: int) -> Asked:
    name = f"person{random.randrange(100_000)}"
    body = {"candidate": f"Perigee-{number}", "operation": "change", "accounts": [name]}
    return "POST", f"{PLACE}/verdicts", json.dumps(body).encode()


def _draft(number: int, draft: int) -> Asked:
    place = f"{PLACE}~{draft}"
    if number % 3 == 0:
        return "POST", f"{place}/draft/renumber", b""
    return "GET", f"{place}/{random.choice(['draft', 'strata', 'draft/impact'])}", b""


def hundreds(engine: Engine) -> None:
    people_there = READING + TRYING + DRAFTING
    with Session(engine) as session, session.begin():
        domain = save_dump(session, load_dump(io.BytesIO(dump_of(100_000))), "big", "bench")
        people.add(session, "crowd", "bench-password")
        people.grant(session, "crowd", EVERYWHERE, "administrator")
        stored = people.stored_hash(session, "crowd") or ""
        cookies = [open_session(session, "crowd", stored) or "" for _ in range(people_there)]
        own = [drafts.create(session, domain.id, f"D{n}", "crowd").id for n in range(DRAFTING)]
    asks: list[Callable[[int], Asked]] = [
        *[_read] * READING,
        *[_try] * TRYING,
        *[partial(_draft, draft=draft) for draft in own],
    ]
    url, seen = engine.url.render_as_string(hide_password=False), Seen()
    with worker("application", url) as one, worker("application", url) as two:
        for port in (one, two):
            # As it is when people come: what they look at was looked at before.
            with httpx2.Client(
                base_url=f"http://127.0.0.1:{port}",
                cookies={"hornfels_session": cookies[0]},
                timeout=60,
            ) as client:
                for place in (PLACE, *(f"{PLACE}~{draft}" for draft in own)):
                    client.get(f"{place}/strata").raise_for_status()

        async def all_of_them() -> None:
            ends = time.monotonic() + SECONDS
            await asyncio.gather(
                *(
                    person((one, two)[number % 2], cookie, ask, THINKING, ends, seen)
                    for number, (cookie, ask) in enumerate(zip(cookies, asks, strict=True))
                )
            )

        asyncio.run(all_of_them())
    times = sorted(seen.times)
    print(f"\n{people_there} people on 100,000 accounts, two web servers, {SECONDS} s")
    print(
        f"  p50 {times[len(times) // 2] * 1000:.0f} ms, p95 "
        f"{times[len(times) * 95 // 100] * 1000:.0f} ms, p99 "
        f"{times[len(times) * 99 // 100] * 1000:.0f} ms, {len(times) / SECONDS:.0f} a second"
    )
    print(f"  answers {dict(seen.statuses)}, neither served nor put off: {dict(seen.wrong)}")
