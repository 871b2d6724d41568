"""Two hundred people for some minutes, with a load, a killed database and a restart in the middle:
`python -m benchmarks.soak`.

Prints what was answered, how fast, and how much memory was held. Everything runs on loopback in a
folder of its own.
"""

from __future__ import annotations

import asyncio
import contextlib
import json
import os
import random
import signal
import socket
import subprocess
import sys
import tempfile
import time
from functools import partial
from pathlib import Path

import httpx2
from sqlalchemy import Engine
from sqlalchemy.orm import Session

from benchmarks.reading import dump_of
from benchmarks.visits import Asked, Seen, person
from hornfels.core.rights.roles import ALLOWED, EVERYWHERE, ROLES, Role
from hornfels.store import people
from hornfels.store.cluster import Cluster
from hornfels.store.database import connect
from hornfels.store.people import stored_hash
from hornfels.store.sessions import open_session

PEOPLE = 200
SECONDS = 120
THINKING = 0.5
"""Seconds that somebody looks at an answer, on average."""
LOAD_AT, KILL_AT, RESTART_AT = 20, 35, 75
PLACE = "/api/domains/big.example"
COMMAND = str(Path(sys.executable).parent / "hornfels")


class Served:
    """`hornfels serve` as a process of its own."""

    def __init__(self, home: Path, port: int) -> None:
        self._home, self._port = home, port
        self.start()

    def start(self) -> None:
        environment = {**os.environ, "HORNFELS_HOME": str(self._home)}
        self.process = subprocess.Popen(
            [COMMAND, "serve", "--port", str(self._port)],
            env=environment,
            stdout=subprocess.PIPE,
            stderr=subprocess.DEVNULL,
        )
        assert self.process.stdout
        self.process.stdout.readline()

    def end(self) -> None:
        self.process.send_signal(signal.SIGTERM)
        self.process.wait()
        assert self.process.stdout
        self.process.stdout.close()

    def memory(self) -> float:
        """Megabytes of the web server's own."""
        status = Path(f"/proc/{self.process.pid}/status").read_text()
        return (
            next(int(line.split()[1]) for line in status.splitlines() if line.startswith("VmRSS"))
            / 1024
        )


def asked(number: int, *, tries: bool) -> Asked:
    """What somebody asks for next, who may try candidates or only look."""
    name = f"person{random.randrange(100_000)}"
    tried = json.dumps(
        {"candidate": f"Perigee-{number}", "operation": "change", "accounts": [name]}
    ).encode()
    trying = [("POST", f"{PLACE}/verdicts", tried)] * 3
    choices: list[Asked] = [
        *(trying if tries else ()),
        ("GET", f"{PLACE}/strata", b""),
        ("GET", f"{PLACE}/accounts?offset={random.randrange(1000)}", b""),
        ("GET", f"{PLACE}/accounts/{name}", b""),
        ("GET", f"{PLACE}/search?q={name[:8]}", b""),
        ("GET", f"{PLACE}/drafts", b""),
        ("GET", f"{PLACE}/findings", b""),
        ("GET", "/api/domains", b""),
    ]
    return random.choice(choices)


async def troubles(
    served: Served, cluster: Cluster, port: int, cookie: str, dump: bytes, begun: float
) -> None:
    async def until(moment: float) -> None:
        await asyncio.sleep(max(0.0, begun + moment - time.monotonic()))

    await until(LOAD_AT)
    async with httpx2.AsyncClient(
        base_url=f"http://127.0.0.1:{port}", cookies={"hornfels_session": cookie}, timeout=120
    ) as client:
        job = (
            (await client.post("/api/loads?name=again.ldif", content=dump))
            .raise_for_status()
            .json()["id"]
        )
        print(
            f"  {time.monotonic() - begun:5.0f} s  a load of {len(dump) / 1e6:.0f} MB is sent",
            flush=True,
        )
    await until(KILL_AT)
    os.kill(int((cluster.data / "postmaster.pid").read_text().split()[0]), signal.SIGKILL)
    killed = time.monotonic()
    print(f"  {killed - begun:5.0f} s  the database is killed", flush=True)
    async with httpx2.AsyncClient(
        base_url=f"http://127.0.0.1:{port}", cookies={"hornfels_session": cookie}, timeout=120
    ) as client:
        while (await client.get("/readyz")).status_code != 200:
            await asyncio.sleep(0.1)
        print(f"         ready again after {time.monotonic() - killed:.1f} s", flush=True)
    await until(RESTART_AT)
    print(f"  {time.monotonic() - begun:5.0f} s  Hornfels is started again", flush=True)
    await asyncio.to_thread(served.end)
    await asyncio.to_thread(served.start)
    async with httpx2.AsyncClient(
        base_url=f"http://127.0.0.1:{port}", cookies={"hornfels_session": cookie}, timeout=120
    ) as client:
        while (state := (await client.get(f"/api/jobs/{job}")).json().get("state")) in (
            "queued",
            "running",
            None,
        ):
            await asyncio.sleep(0.5)
        print(f"  {time.monotonic() - begun:5.0f} s  the load is {state}", flush=True)


async def watch(served: Served, ends: float, seen: Seen, begun: float) -> None:
    while time.monotonic() < ends:
        with contextlib.suppress(OSError, StopIteration):
            seen.memory.append((time.monotonic() - begun, served.memory()))
        await asyncio.sleep(5)


async def soak(
    served: Served, cluster: Cluster, port: int, cookies: list[tuple[str, Role]], dump: bytes
) -> Seen:
    seen, begun = Seen(), time.monotonic()
    ends = begun + SECONDS
    people = [
        person(port, cookie, partial(asked, tries="bench" in ALLOWED[role]), THINKING, ends, seen)
        for cookie, role in cookies
    ]
    await asyncio.gather(
        troubles(served, cluster, port, cookies[0][0], dump, begun),
        watch(served, ends, seen, begun),
        *people,
    )
    return seen


def signed_in(engine: Engine) -> list[tuple[str, Role]]:
    """Sessions of people of every role, in turn, an administrator first."""
    with Session(engine) as session, session.begin():
        for role in ROLES:
            people.add(session, f"soak {role}", "a long enough one")
            people.grant(session, f"soak {role}", EVERYWHERE, role)
        roles = [ROLES[-1 - number % len(ROLES)] for number in range(PEOPLE)]
        return [(_open(session, f"soak {role}"), role) for role in roles]


def _open(session: Session, name: str) -> str:
    return open_session(session, name, stored_hash(session, name) or "") or ""


def main() -> None:
    folder = Path(tempfile.mkdtemp(prefix="hornfels-soak-"))
    folder.chmod(0o755)
    with socket.create_server(("127.0.0.1", 0)) as free:
        port = free.getsockname()[1]
    dump = dump_of(100_000)
    file = folder / "big.ldif"
    file.write_bytes(dump)
    home = folder / "home"
    subprocess.run(
        [COMMAND, "load", file], env={**os.environ, "HORNFELS_HOME": str(home)}, check=True
    )
    served, cluster = Served(home, port), Cluster(home, {})
    engine = connect(lambda: cluster.url)
    cookies = signed_in(engine)
    engine.dispose()
    print(f"{PEOPLE} people on 100,000 accounts for {SECONDS} s")
    try:
        seen = asyncio.run(soak(served, cluster, port, cookies, dump))
    finally:
        served.end()
        subprocess.run(["rm", "-rf", str(folder)], check=False)
    times = sorted(seen.times)
    print(f"  answers {dict(seen.statuses)}")
    print(f"  neither served nor told when to come back: {dict(seen.wrong) or 'none'}")
    print(
        f"  served: p50 {times[len(times) // 2] * 1000:.0f} ms, p95 "
        f"{times[len(times) * 95 // 100] * 1000:.0f} ms, {len(times) / SECONDS:.0f} a second"
    )
    print(
        "  memory of the web server: "
        + ", ".join(f"{size:,.0f} MB at {moment:.0f} s" for moment, size in seen.memory[::4])
    )


if __name__ == "__main__":
    main()
