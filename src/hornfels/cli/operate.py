"""Commands that need the database: load, serve, demo, worker, user add."""

from __future__ import annotations

import asyncio
import contextlib
import getpass
import io
import logging
import os
import resource
import secrets
import signal
import socket
import sys
import threading
from collections.abc import Callable, Iterator
from datetime import UTC, datetime
from pathlib import Path

import uvicorn
from sqlalchemy import Engine, select
from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.orm import Session

from hornfels.cli.errors import fail, opened, say
from hornfels.core.domain.estate import LinkedGroups
from hornfels.core.passwords.characters import group_of
from hornfels.demo.tarnholt import DNS_NAME, entries, templates
from hornfels.demo.trials import demo_trials
from hornfels.formats.dump import Dump, DumpError, LdifError, load_dump
from hornfels.formats.ldif import write
from hornfels.formats.template import read_template
from hornfels.store import trials
from hornfels.store.cluster import Cluster, ClusterError, default_home
from hornfels.store.database import connect, migrate
from hornfels.store.estates import save_dump, save_template
from hornfels.store.models import DomainRow
from hornfels.store.people import set_password
from hornfels.worker.keeper import worker_beside

DEMO_USER = "demo"
_MOST_TO_END = 8.0
"""Seconds that a worker may take to end in good order."""
_LOOPBACK = frozenset({"127.0.0.1", "localhost", "::1"})


@contextlib.contextmanager
def database(*, patient: bool = True) -> Iterator[Engine]:
    """The database, up to date: the one named by ``HORNFELS_DATABASE_URL``, else our own, started
    if it does not run.
    """
    logging.getLogger("alembic").setLevel(logging.WARNING)
    url = os.environ.get("HORNFELS_DATABASE_URL")
    own = None if url else Cluster(default_home(), {})
    try:
        with own.running() if own else contextlib.nullcontext():
            engine = connect(url or (lambda: own.url if own else ""), patient=patient)
            try:
                migrate(engine)
                yield engine
            finally:
                engine.dispose()
    except ClusterError as error:
        fail(str(error))
    except SQLAlchemyError as error:
        fail(f"the database does not answer as it should: {str(error).splitlines()[0]}")


def load_file(file: Path, linked_groups: LinkedGroups) -> None:
    """`hornfels load`."""
    with opened(file) as source:
        try:
            dump = load_dump(source, linked_groups=linked_groups, progress=_show_progress)
        except (LdifError, DumpError) as error:
            fail(f"{file}: {error}; nothing was stored")
    with database() as engine, Session(engine) as session, session.begin():
        save_dump(session, dump, file.name, "command line")
    _clear_progress()
    say(f"{dump.estate.domain.dns_name}: {_counted(dump)}.")
    for notice in dump.notices:
        say(f"  note: {notice}")


def _counted(dump: Dump) -> str:
    e = dump.estate
    edges = len(e.memberships.account) + len(e.memberships.child)
    return (
        f"{len(e.accounts):,} accounts, {len(e.groups):,} groups, {edges:,} memberships, "
        f"{len(e.policies):,} policies"
    )


def _show_progress(count: int) -> None:
    if sys.stderr.isatty():
        print(f"\r{count:,} entries read", end="", file=sys.stderr, flush=True)


def _clear_progress() -> None:
    if sys.stderr.isatty():
        print("\r\033[K", end="", file=sys.stderr, flush=True)


def run_worker(*, while_parent: bool) -> None:
    """`hornfels worker`, until Ctrl+C or SIGTERM, or until its parent is gone."""
    logging.basicConfig(level=logging.WARNING, format="hornfels worker: %(message)s")
    logging.getLogger("psycopg.pool").setLevel(
        logging.ERROR
    )  # it says each failed try; we say it once
    with database() as engine:
        asyncio.run(_worked(engine, while_parent=while_parent))
    # What is being done in a thread cannot be told to stop, and is taken up again by another
    # worker.
    os._exit(0)


async def _worked(engine: Engine, *, while_parent: bool) -> None:
    from hornfels.worker.work import keep_working

    loop, ending = asyncio.get_running_loop(), asyncio.Event()
    for told in (signal.SIGINT, signal.SIGTERM):
        loop.add_signal_handler(told, ending.set)
    if while_parent:
        loop.add_reader(sys.stdin, _end_of_parent, loop, ending)
    working = asyncio.create_task(keep_working(engine))
    await asyncio.wait(
        (working, asyncio.create_task(ending.wait())), return_when=asyncio.FIRST_COMPLETED
    )
    # Whatever does not let go, such as a pool whose database is gone: it ends all the same, and
    # others take up what it did.
    hard_end = threading.Timer(_MOST_TO_END, os._exit, (0,))
    hard_end.daemon = True
    hard_end.start()
    working.cancel()
    await asyncio.wait((working,), timeout=3)
    if working.done() and not working.cancelled():
        working.result()


def _end_of_parent(loop: asyncio.AbstractEventLoop, ending: asyncio.Event) -> None:
    loop.remove_reader(sys.stdin)
    ending.set()


def write_demo(file: Path) -> None:
    """`hornfels demo-dump`."""
    lines = write(entries(datetime.now(UTC)))
    if str(file) == "-":
        sys.stdout.buffer.writelines(lines)
        return
    try:
        with file.open("wb") as out:
            out.writelines(lines)
    except OSError as error:
        fail(f"{file}: {error.strerror}")


def add_user(name: str) -> None:
    """`hornfels user add`."""
    password = (
        getpass.getpass("Password: ") if sys.stdin.isatty() else sys.stdin.readline().rstrip("\n")
    )
    if len(password) < 12:
        fail("the password needs at least 12 characters")
    with database() as engine, Session(engine) as session, session.begin():
        set_password(session, name, password)
    say(f"{name} may sign in.")


def store_demo(session: Session) -> None:
    """Store the invented domain the way a real one comes in: its dump first, then its templates."""
    source = io.BytesIO(b"".join(write(entries(datetime.now(UTC)))))
    domain = save_dump(session, load_dump(source), "tarnholt.ldif", DEMO_USER)
    for gpo, template in templates().items():
        save_template(session, domain, gpo, read_template(template), DEMO_USER)
    for title, trial in demo_trials():
        trials.add(session, domain.id, title, trial, DEMO_USER)


def _load_demo(session: Session) -> str:
    """Store the invented domain if it is not there, and make a fresh sign-in for it."""
    if session.scalar(select(DomainRow.id).where(DomainRow.dns_name == DNS_NAME)) is None:
        store_demo(session)
    password = "-".join(secrets.token_hex(2) for _ in range(3))
    set_password(session, DEMO_USER, password)
    return password


def serve_web(host: str, port: int, *, demo: bool) -> None:
    """`hornfels serve` and `hornfels demo`, until Ctrl+C or SIGTERM."""
    from hornfels.api.app import STATIC

    if not (STATIC / "index.html").exists():
        fail(
            "this installation holds no web pages. Install the wheel that 'make wheel' makes, "
            "or run 'make build' in a checkout and start Hornfels from there"
        )
    listener = _listen(host, port)
    # However it is told to end, what was started is ended too.
    ending = _Ending()
    signal.signal(signal.SIGINT, ending)
    signal.signal(signal.SIGTERM, ending)
    with (
        contextlib.suppress(KeyboardInterrupt),
        database(patient=False) as engine,
        _kept(),
        worker_beside(),
    ):
        _serve(engine, listener, ending, host, port, demo=demo)


def _kept() -> contextlib.AbstractContextManager[None]:
    """Our own database is started again when it dies; somebody else's is theirs to keep."""
    return (
        contextlib.nullcontext()
        if os.environ.get("HORNFELS_DATABASE_URL")
        else Cluster(default_home(), {}).kept()
    )


def _hosts(host: str) -> frozenset[str] | None:
    """The names that the server answers to: on loopback those of loopback, besides what
    ``HORNFELS_HOSTS`` names.
    """
    named = frozenset(filter(None, os.environ.get("HORNFELS_HOSTS", "").replace(",", " ").split()))
    if host in _LOOPBACK:
        return named | _LOOPBACK | {"[::1]"}
    return named | {host} if named else None


class _Ending:
    """What a signal does: before the web server is there it interrupts, afterwards it asks the
    server to end.

    Nothing is raised inside the server's event loop, which may swallow it. The server raises the
    signals it caught once more when it is done; that finds nothing left to do.
    """

    server: uvicorn.Server | None = None

    def __call__(self, _signal: int, _frame: object) -> None:
        if self.server is None:
            raise KeyboardInterrupt
        self.server.should_exit = True


def _serve(
    engine: Engine, listener: socket.socket, ending: _Ending, host: str, port: int, *, demo: bool
) -> None:
    from hornfels.api.app import create_app
    from hornfels.api.patience import settings

    password = ""
    if demo:
        with Session(engine) as session, session.begin():
            password = _load_demo(session)
    _allow_files()
    app = create_app(engine, _hosts(host))
    threading.Thread(target=_warm, args=(app.state.snapshots.warm,), daemon=True).start()
    ending.server = uvicorn.Server(uvicorn.Config(app, **settings()))
    print(f"Hornfels is at http://{f'[{host}]' if ':' in host else host}:{port}", flush=True)
    if demo:
        print(f"Sign in as {DEMO_USER} with the password {password}", flush=True)
    print("Ctrl+C ends it.", flush=True)
    ending.server.run(sockets=[listener])


def _allow_files() -> None:
    """As many open files as the system lets us have: every connection is one."""
    most = resource.getrlimit(resource.RLIMIT_NOFILE)[1]
    with contextlib.suppress(ValueError, OSError):
        resource.setrlimit(
            resource.RLIMIT_NOFILE, (most if most != resource.RLIM_INFINITY else 65_536, most)
        )


def _warm(warm: Callable[[], None]) -> None:
    group_of(
        "é"
    )  # the first letter beyond ASCII makes a table of all, which a keystroke should not wait for
    # If the database goes away meanwhile, the first request says so better than this could.
    with contextlib.suppress(SQLAlchemyError):
        warm()


def _listen(host: str, port: int) -> socket.socket:
    """A listening socket, taken before anything else is started: a busy port is found out
    at once.
    """
    try:
        family, kind, protocol, _, address = socket.getaddrinfo(
            host, port, type=socket.SOCK_STREAM
        )[0]
        listener = socket.socket(family, kind, protocol)
        listener.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        listener.bind(address)
        listener.listen(128)
    except OSError as error:
        fail(
            f"cannot listen on {host}, port {port}: {error.strerror}; choose another with "
            "HORNFELS_PORT"
        )
    return listener
