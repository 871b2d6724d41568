"""Run the benchmarks: all parts, or the parts that are named. A part that fails does not end the
others.
"""

from __future__ import annotations

import statistics
import string
import subprocess
import sys
import tempfile
import time
import traceback
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import replace
from datetime import UTC, datetime
from functools import partial
from pathlib import Path
from random import Random
from typing import Any

import numpy as np
from psycopg import Connection, sql
from sqlalchemy import Engine
from sqlalchemy.orm import Session

from benchmarks.beyond import beyond
from benchmarks.browsing import browsing
from benchmarks.corpora import corpora
from benchmarks.crowd import crowd
from benchmarks.drafting import drafting
from benchmarks.estates import make
from benchmarks.gate import at_the_gate
from benchmarks.hundreds import hundreds
from benchmarks.lockout import lockout
from benchmarks.planning import planning
from benchmarks.reading import reading
from benchmarks.roster import finding_people
from benchmarks.web import served, store_demo
from hornfels.core.domain.estate import Estate, Link, Memberships
from hornfels.core.drafts.impact import impact
from hornfels.core.findings.survey import findings
from hornfels.core.resolution.engine import DOMAIN_POLICY, resolve, winners
from hornfels.core.resolution.what_if import link_moves, precedence_moves, unlink_moves
from hornfels.demo.tarnholt import entries
from hornfels.formats.ldif import write
from hornfels.store.bulk import copy_in, copy_out, pairs_out
from hornfels.store.cluster import Cluster
from hornfels.store.database import connect
from persons import let_in

SIZES = (10_000, 100_000, 1_000_000)


def median(act: Callable[[], object], runs: int = 5) -> float:
    """Median seconds of some runs after one that warms up."""
    act()
    times = []
    for _ in range(runs):
        begun = time.perf_counter()
        act()
        times.append(time.perf_counter() - begun)
    return statistics.median(times)


def row(what: str, seconds: float, note: str = "") -> None:
    print(f"  {what:<58}{seconds * 1000:>12,.2f} ms  {note}")


@contextmanager
def database() -> Iterator[Engine]:
    folder = Path(tempfile.mkdtemp(prefix="hornfels-bench-"))
    folder.chmod(0o755)
    cluster = Cluster(
        folder,
        {
            "shared_buffers": "1GB",
            "work_mem": "512MB",
            "fsync": "off",
            "max_wal_size": "8GB",
            "jit": "off",
        },
    )
    cluster.start()
    # As a worker: a large estate takes longer than a page may wait.
    engine = connect(cluster.owner_url, patient=True)
    try:
        cluster.migrate()
        with Session(engine) as session, session.begin():
            let_in(session, "ann")
        yield engine
    finally:
        engine.dispose()
        cluster.stop()
        subprocess.run(["rm", "-rf", str(folder)], check=False)


def fresh(estate: Estate) -> Estate:
    """The same estate without anything computed for it yet."""
    m = estate.memberships
    return replace(
        estate,
        memberships=Memberships(
            m.account, m.account_group, m.child, m.child_group, m.accounts, m.groups
        ),
    )


def store_edges(connection: Connection, estate: Estate) -> None:
    m = estate.memberships
    connection.execute("TRUNCATE account_memberships, group_memberships")
    connection.execute("DROP TABLE IF EXISTS bench_links")
    for table, members, containers in (
        ("account_memberships", m.account, m.account_group),
        ("group_memberships", m.child, m.child_group),
    ):
        copy_in(
            connection,
            table,
            ("estate_id", "member", "container"),
            (np.ones(len(members), np.int32), members, containers),
        )
        connection.execute(
            sql.SQL("CREATE INDEX IF NOT EXISTS {} ON {} (container) INCLUDE (member)").format(
                sql.Identifier(f"bench_{table}"), sql.Identifier(table)
            )
        )
        connection.execute(sql.SQL("ANALYZE {}").format(sql.Identifier(table)))
    connection.execute("CREATE TABLE bench_links (rank int, direct bool, target int)")
    place = {policy: n for n, policy in enumerate(resolve(estate).order)}
    with connection.cursor() as cursor, cursor.copy("COPY bench_links FROM STDIN") as copy:
        for link in estate.links:
            copy.write_row((place[link.policy], link.kind == "account", link.target))
    connection.execute("ANALYZE bench_links")


# Walks down from the linked groups once, then takes the best rank of each account; direct links
# come before all others.
WALK_DOWN = """
WITH RECURSIVE below(rank, grp) AS (
    SELECT rank, target FROM bench_links WHERE NOT direct
    UNION SELECT b.rank, n.member FROM below b JOIN group_memberships n ON n.container = b.grp
), best(grp, rank) AS (SELECT grp, min(rank) FROM below GROUP BY grp)
SELECT member, min(rank) AS rank FROM (
    SELECT m.member, b.rank FROM best b JOIN account_memberships m ON m.container = b.grp
    UNION ALL SELECT target, rank - 1000000 FROM bench_links WHERE direct
) AS reached GROUP BY member
"""


def resolution(connection: Connection, accounts: int) -> None:
    estate = make(accounts)
    m = estate.memberships
    edges = len(m.account) + len(m.child)
    print(
        f"\n{accounts:,} accounts, {len(estate.groups):,} groups, {edges:,} memberships, "
        f"{len(estate.policies)} policies"
    )
    store_edges(connection, estate)
    reading = median(lambda: int(m.account_group.sum()) + int(m.account.sum()))
    row("read the membership edges once", reading)
    resident = median(lambda: winners(estate))
    row("every account's winner, resident arrays", resident, f"{resident / reading:.1f} × reading")
    bare = median(lambda: winners(fresh(estate)), runs=3)
    row("the same from bare edge lists, indexes built", bare, f"{bare / reading:.1f} × reading")
    whole = median(lambda: resolve(estate))
    row(
        "populations with full stacks",
        whole,
        f"{whole / resident:.1f} × winners, {len(resolve(estate)):,} populations",
    )
    won = winners(estate)
    statement = sql.SQL(WALK_DOWN)
    found = copy_out(connection, statement, ["i4", "i4"])
    exempt = estate.exempt[found[0]]
    assert int((won != DOMAIN_POLICY).sum()) == int((~exempt).sum()), "the rivals disagree"
    by_sql = median(
        lambda: connection.execute(
            sql.SQL("SELECT count(*) FROM ({}) AS w").format(statement)
        ).fetchone(),
        runs=3,
    )
    row(
        "PostgreSQL, recursive query down from the linked groups",
        by_sql,
        f"{by_sql / resident:.0f} × ours, {by_sql / bare:.0f} × from bare",
    )
    walk = python_walk(estate)
    in_python = median(walk, runs=1)
    row(
        "plain Python, memoised, up from each account",
        in_python,
        f"{in_python / resident:.0f} × ours",
    )
    changes(estate)
    stored(connection, estate)
    footprint(estate)


def python_walk(estate: Estate) -> Callable[[], list[int]]:
    """A rival: plain Python, from each account up through its groups, every group's best policy
    found once.
    """
    place = {policy: n for n, policy in enumerate(resolve(estate).order)}
    rank: dict[int, int] = {}
    for link in estate.links:
        if link.kind == "group":
            rank[link.target] = min(rank.get(link.target, len(place)), place[link.policy])
    m = estate.memberships
    parents = [m.groups_of_group.of(g).tolist() for g in range(len(estate.groups))]
    inside = [m.groups_of_account.of(a).tolist() for a in range(len(estate.accounts))]

    def walk() -> list[int]:
        best: dict[int, int] = {}

        def of_group(group: int) -> int:
            if group not in best:
                seen, waiting, found = {group}, [group], len(place)
                while waiting:
                    at = waiting.pop()
                    found = min(found, rank.get(at, found))
                    waiting += [p for p in parents[at] if p not in seen]
                    seen.update(parents[at])
                best[group] = found
            return best[group]

        return [min((of_group(g) for g in groups), default=len(place)) for groups in inside]

    return walk


def changes(estate: Estate) -> None:
    resolved = resolve(estate)
    row(
        "what-if: another precedence",
        median(lambda: precedence_moves(estate, resolved, 3, 1), runs=15),
    )
    rng = np.random.default_rng(3)
    groups = rng.choice(len(estate.groups), size=60, replace=False).tolist()
    times = [median(partial(link_moves, estate, resolved, 3, g), runs=3) for g in groups]
    row(
        "what-if: one more link, median over 60 groups",
        statistics.median(times),
        f"slowest {max(times) * 1000:.1f} ms",
    )
    linked = [ln for ln in estate.links if ln.kind == "group"][:60]
    times = [
        median(partial(unlink_moves, estate, resolved, ln.policy, ln.target), runs=3)
        for ln in linked
    ]
    row(
        "what-if: one link less, median over 60 links",
        statistics.median(times),
        f"slowest {max(times) * 1000:.1f} ms",
    )
    everybody = replace(estate.accounts, primary_group=np.zeros(len(estate.accounts), np.int32))
    m = estate.memberships
    whole = replace(
        estate,
        accounts=everybody,
        memberships=Memberships(
            m.account, m.account_group, m.child, m.child_group, everybody, estate.groups
        ),
    )
    settled = resolve(whole)
    joined = median(lambda: link_moves(whole, settled, 3, 0))
    linked_to_all = whole.with_policies(whole.policies, (*whole.links, Link(3, "group", 0, "")))
    settled_all = resolve(linked_to_all)
    row("what-if: a link to the group of everybody", joined)
    row("what-if: that link less", median(lambda: unlink_moves(linked_to_all, settled_all, 3, 0)))
    begun = time.perf_counter()
    drafted = replace(
        estate,
        policies=tuple(
            replace(p, precedence=p.precedence + 7) if n % 9 == 0 else p
            for n, p in enumerate(estate.policies)
        ),
    )
    finding_people(estate, resolved, row, median)
    row(
        "impact of a draft, resolving it included",
        median(lambda: impact(estate, resolved, drafted, resolve(drafted), 0), runs=3),
    )
    begun = time.perf_counter()
    count = len(findings(estate, resolved))
    row("all findings", time.perf_counter() - begun, f"{count} findings")


def stored(connection: Connection, estate: Estate) -> None:
    edges = len(estate.memberships.account)
    this = sql.SQL("estate_id = 1")
    seconds = median(
        lambda: pairs_out(connection, "account_memberships", "member", "container", this), runs=3
    )
    row("memberships from PostgreSQL into arrays", seconds, f"{edges / seconds / 1e6:.2f} M rows/s")


def footprint(estate: Estate) -> None:
    m, a, g = estate.memberships, estate.accounts, estate.groups
    arrays: list[np.ndarray[Any, Any]] = [
        m.account,
        m.account_group,
        m.child,
        m.child_group,
        *m.members,
        *m.groups_of_account,
        *m.nested,
        *m.groups_of_group,
        a.rid,
        a.control,
        a.password_set,
        a.bad_count,
        a.bad_time,
        a.lockout_time,
        a.primary_group,
        g.rid,
        g.kind,
    ]
    text = sum(c.size_in_bytes for c in (a.dn, a.name, a.display_name, g.dn, g.name))
    numbers = sum(x.nbytes for x in arrays)
    print(
        f"  {'resident: arrays and indexes, and text':<58}{numbers / 1e6:>12,.0f} MB  and "
        f"{text / 1e6:,.0f} MB of text"
    )


def command() -> None:
    print("\nThe command")
    program = str(Path(sys.executable).parent / "hornfels")
    row(
        "hornfels --help",
        median(lambda: subprocess.run([program, "--help"], stdout=subprocess.DEVNULL, check=True)),
    )
    with tempfile.NamedTemporaryFile(suffix=".ldif") as file:
        file.write(b"".join(write(entries(datetime.now(UTC)))))
        file.flush()
        ask = [program, "resolve", file.name, "--account", "ilse.varga", "--json"]
        row(
            "hornfels resolve of the demo",
            median(lambda: subprocess.run(ask, stdout=subprocess.DEVNULL, check=True)),
        )


def stream() -> None:
    random = Random(1)
    letters = string.ascii_letters + string.digits + "-+!#"
    count = 1_000_000
    lines = "".join(
        "".join(random.choices(letters, k=random.randint(6, 20))) + "\n" for _ in range(count)
    ).encode()
    program = str(Path(sys.executable).parent / "hornfels")
    with (
        tempfile.NamedTemporaryFile(suffix=".ldif") as file,
        tempfile.TemporaryFile() as candidates,
    ):
        file.write(b"".join(write(entries(datetime.now(UTC)))))
        file.flush()
        candidates.write(lines)
        ask = [
            program,
            "try",
            file.name,
            "--account",
            "ilse.varga",
            "--operation",
            "change",
            "--json",
        ]

        peaks = [0]

        def answer() -> None:
            candidates.seek(0)
            with subprocess.Popen(ask, stdin=candidates, stdout=subprocess.DEVNULL) as process:
                while process.poll() is None:
                    status = Path(f"/proc/{process.pid}/status").read_text()
                    peaks.append(
                        next(
                            (
                                int(line.split()[1])
                                for line in status.splitlines()
                                if line.startswith("VmRSS")
                            ),
                            0,
                        )
                    )
                    time.sleep(0.05)
            assert process.returncode == 0

        seconds = median(answer, runs=3)
    print(
        f"\nA stream of {count:,} candidates through hornfels try --json, one process, start "
        "included"
    )
    row(
        "read, judged, written",
        seconds,
        f"{count / seconds:,.0f} verdicts/s in {max(peaks) / 1024:.0f} MB",
    )


def resolving(engine: Engine) -> None:
    for size in SIZES:
        with engine.connect() as held:
            driver = held.connection.driver_connection
            assert isinstance(driver, Connection)
            resolution(driver, size)
            held.rollback()


ALONE: dict[str, Callable[[], None]] = {
    "stream": stream,
    "beyond": beyond,
    "corpora": corpora,
    "lockout": lockout,
    "reading": reading,
    "planning": planning,
    "command": command,
}
"""Parts that need no database."""
STORED: dict[str, Callable[[Engine], None]] = {
    "resolution": resolving,
    "web": served,
    "gate": at_the_gate,
    "drafting": drafting,
    "browsing": browsing,
    "crowd": crowd,
    "hundreds": hundreds,
}
WITH_DEMO = ("web", "gate", "drafting")


def main() -> None:
    wanted = sys.argv[1:] or [*ALONE, *STORED]
    unknown = [part for part in wanted if part not in ALONE and part not in STORED]
    if unknown:
        sys.exit(f"There is no part {unknown[0]}. Parts: {', '.join([*ALONE, *STORED])}")
    failed = []
    for part in wanted:
        try:
            if part in ALONE:
                ALONE[part]()
            else:
                with database() as engine:
                    if part in WITH_DEMO:
                        store_demo(engine)
                    STORED[part](engine)
        except Exception:
            traceback.print_exc()
            failed.append(part)
    if failed:
        sys.exit(f"These parts failed: {', '.join(failed)}")


if __name__ == "__main__":
    main()
