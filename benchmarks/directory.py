"""Reading a directory: `python -m benchmarks.directory [ACCOUNTS]` (20,000, which takes minutes to
be put there).

Side by side in one run on one server: objects a second and processor time of ldapsearch and of
ours, then a reading of what is new of all that, from the first word to the server to the stored
estate.
"""

from __future__ import annotations

import os
import resource
import subprocess
import sys
import tempfile
import time
from pathlib import Path
from random import Random

import ldap
from sqlalchemy import Engine
from sqlalchemy.orm import Session

from directory_server import (
    ADMINISTRATOR,
    BASE,
    PASSWORD,
    PEOPLE,
    REALM,
    DirectoryServer,
    account,
    add,
    change,
    directory_server,
    group,
    policy,
    provisioned,
)
from hornfels.directory import reading as asking
from hornfels.directory.link import Link
from hornfels.service import reading
from hornfels.service.connections import Connection
from hornfels.settings import Settings
from hornfels.store.cluster import Cluster
from hornfels.store.database import connect
from hornfels.store.models import ConnectionRow

CHANGES = 50


def fill(link: Link, accounts: int) -> list[str]:
    add(link, PEOPLE, objectClass="organizationalUnit")
    names = [account(link, f"p{n}", displayName=f"Person {n}") for n in range(accounts)]
    size = max(1, accounts // 100)
    groups = [group(link, f"GS-{n}", names[n * size : (n + 1) * size]) for n in range(100)]
    for n in range(10):
        policy(link, f"Policy {n}", 10 + n, [groups[n]])
    return names


def spent(who: int) -> float:
    used = resource.getrusage(who)
    return used.ru_utime + used.ru_stime


def by_ldapsearch(server: DirectoryServer) -> tuple[int, float, float]:
    before, begun = spent(resource.RUSAGE_CHILDREN), time.perf_counter()
    done = subprocess.run(
        [
            *("ldapsearch", "-LLL", "-x", "-H", f"ldaps://{server.address}", "-b", BASE),
            *("-D", ADMINISTRATOR, "-w", PASSWORD, "-E", "pr=1000/noprompt"),
            asking._WHERE,
            *asking.ATTRIBUTES,
        ],
        env={**os.environ, "LDAPTLS_REQCERT": "never"},
        check=True,
        capture_output=True,
    )
    seconds = time.perf_counter() - begun
    return done.stdout.count(b"\ndn:") + 1, seconds, spent(resource.RUSAGE_CHILDREN) - before


def by_us(server: DirectoryServer) -> tuple[int, float, float]:
    before, begun = spent(resource.RUSAGE_SELF), time.perf_counter()
    with server.administrator() as link:
        count = sum(1 for _ in asking.whole(link, BASE))
    return count, time.perf_counter() - begun, spent(resource.RUSAGE_SELF) - before


def brought(engine: Engine, where: Settings, *, whole: bool) -> tuple[float, int]:
    begun = time.perf_counter()
    found = reading.read(engine, REALM, where, lambda *_: None, whole=whole)
    assert found is not None
    with Session(engine) as session, session.begin():
        reading.store(session, REALM, found, "bench", lambda _: None)
    return time.perf_counter() - begun, len(found.changed or found.entries)


def main(accounts: int) -> None:
    folder = Path(tempfile.mkdtemp(prefix="hornfels-bench-"))
    folder.chmod(0o755)
    secrets = folder / "secrets"
    secrets.mkdir()
    (secrets / "bench").write_text(PASSWORD)
    (secrets / "bench").chmod(0o600)
    where = Settings(home=folder)
    cluster = Cluster(folder, {})
    cluster.start()
    try:
        engine = connect(cluster.url)
        cluster.migrate()
        with directory_server(provisioned(folder), "9") as server:
            measured(engine, server, where, accounts)
        engine.dispose()
    finally:
        cluster.stop()
        subprocess.run(["rm", "-rf", str(folder)], check=False)


def measured(engine: Engine, server: DirectoryServer, where: Settings, accounts: int) -> None:
    with server.administrator() as link:
        begun = time.perf_counter()
        names = fill(link, accounts)
        print(f"{accounts:,} accounts put there in {time.perf_counter() - begun:.0f} s")
        for turn in range(3):
            for what, act in (("ldapsearch", by_ldapsearch), ("ours", by_us)):
                count, seconds, processor = act(server)
                print(
                    f"  {turn + 1}. {what:11} {count:,} objects, {count / seconds:,.0f} a second, "
                    f"{processor:.2f} s of processor"
                )
        held = Connection.model_validate(
            {
                "servers": [{"host": "dc1.sky.tarnholt.example", "address": server.address}],
                "authorities": server.authorities,
                "reader": {"name": ADMINISTRATOR, "secret": "bench"},
            }
        )
        with Session(engine) as session, session.begin():
            row = ConnectionRow(
                dns_name=REALM, settings=held.model_dump(mode="json"), version=1, changed_by="bench"
            )
            session.add(row)
        seconds, count = brought(engine, where, whole=True)
        print(f"  everything into Hornfels: {seconds:.1f} s ({count:,} objects)")
        for _ in range(3):
            for dn in Random(7).sample(names, CHANGES):
                value = str(time.monotonic_ns()).encode()
                change(link, dn, (ldap.MOD_REPLACE, "displayName", [value]))
            seconds, count = brought(engine, where, whole=False)
            print(f"  {count} changes into Hornfels: {seconds:.2f} s")


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 20_000)
