"""`hornfels serve` and `hornfels demo`: the web application."""

from __future__ import annotations

import contextlib
import logging
import os
import resource
import signal
import socket
import ssl
import threading
from collections.abc import Callable, Iterator

import uvicorn
from sqlalchemy import Engine
from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.orm import Session

from hornfels.cli.database import database
from hornfels.cli.errors import fail
from hornfels.core.passwords.characters import group_of
from hornfels.demo.tarnholt import MAIL_DOMAIN
from hornfels.logs import set_up
from hornfels.mail.mailbox import standing_in
from hornfels.openid import Provider, refuse_issuer
from hornfels.service.corpora import corpora_folder
from hornfels.service.demo_domain import DEMO_PEOPLE, DEMO_USER, expose_demo, load_demo
from hornfels.service.exposure import hash_folder
from hornfels.service.people import FIRST, first_administrator
from hornfels.settings import Settings
from hornfels.store.cluster import Cluster
from hornfels.store.trail import head
from hornfels.worker.keeper import worker_beside

_log = logging.getLogger(__name__)

_LOOPBACK = frozenset({"127.0.0.1", "localhost", "::1"})


def _check(held: Settings) -> None:
    """End the command where others could read along, or a file is missing."""
    if (held.certificate is None) != (held.key is None):
        fail("TLS takes both: a certificate (--certificate) and its key (--key)")
    for file in (held.certificate, held.key):
        if file is not None and not os.access(file, os.R_OK):
            fail(f"{file}: cannot be read; name the files of a certificate and its key")
    if held.host in _LOOPBACK or held.certificate or held.proxies or held.plain:
        return
    fail(
        f"others could read along at {held.host}: give a certificate (--certificate, --key), "
        "name the proxy before it that has one (--proxies), or say that it is meant (--plain)"
    )


def _provider(held: Settings) -> Provider | None:
    """Where people may sign in besides here; ends the command where that is half set."""
    if not held.openid_issuer:
        return None
    if not held.openid_client:
        fail("HORNFELS_OPENID_CLIENT: give what the provider calls Hornfels (client id)")
    if held.openid_authorities and not os.access(held.openid_authorities, os.R_OK):
        fail(f"HORNFELS_OPENID_AUTHORITIES: {held.openid_authorities} cannot be read")
    try:
        refuse_issuer(held.openid_issuer)
    except ValueError as error:
        fail(f"HORNFELS_OPENID_ISSUER: {error}")
    return Provider(
        held.openid_issuer,
        held.openid_client,
        held.openid_secret.get_secret_value() if held.openid_secret else "",
        title=held.openid_title,
        claim=held.openid_claim,
        authorities=str(held.openid_authorities) if held.openid_authorities else None,
    )


def serve_web(held: Settings, *, demo: bool) -> None:
    """Serve until Ctrl+C or SIGTERM, with the invented domain if it is the `demo`."""
    from hornfels.api.app import STATIC

    if not (STATIC / "index.html").exists():
        fail(
            "this installation holds no web pages. Install the wheel that 'make wheel' makes, "
            "or run 'make build' in a checkout and start Hornfels from there"
        )
    _check(held)
    provider = _provider(held)
    set_up(held.log, "hornfels")
    listener = _listen(held.host, held.port)
    # However it is told to end, what was started is ended too.
    ending = _Ending()
    signal.signal(signal.SIGINT, ending)
    signal.signal(signal.SIGTERM, ending)
    with (
        contextlib.suppress(KeyboardInterrupt),
        _stand_in(held, demo=demo),
        database(held, patient=False) as engine,
        _kept(held),
        worker_beside(),
    ):
        _serve(engine, listener, ending, held, provider, demo=demo)


@contextlib.contextmanager
def _stand_in(held: Settings, *, demo: bool) -> Iterator[None]:
    """The demo writes to nobody: what keeps its letters stands in for a mail server, here and for
    the worker.
    """
    if not demo:
        yield
        return
    folder = held.home / "mailbox"
    with standing_in(folder) as port:
        os.environ |= {
            "HORNFELS_SMTP_HOST": "127.0.0.1",
            "HORNFELS_SMTP_PORT": str(port),
            "HORNFELS_SMTP_SECURITY": "none",
            "HORNFELS_SMTP_NAME": "",
            "HORNFELS_SMTP_SENDER": f"Passwords at Tarnholt <passwords@{MAIL_DOMAIN}>",
            "HORNFELS_MAILBOX": str(folder),
        }
        yield


def _kept(held: Settings) -> contextlib.AbstractContextManager[None]:
    """Our own database is started again when it dies; somebody else's is theirs to keep."""
    return contextlib.nullcontext() if held.database_url else Cluster(held.home, {}).kept()


def _hosts(held: Settings) -> frozenset[str]:
    """The names that the server answers to: on loopback those of loopback, beyond it the machine's
    own, and always those that are set. What another name leads to is not ours.
    """
    if held.host in _LOOPBACK:
        return held.names | _LOOPBACK | {"[::1]"}
    machine = {held.host, socket.gethostname().lower(), socket.getfqdn().lower()}
    return held.names | frozenset(machine)


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
    engine: Engine,
    listener: socket.socket,
    ending: _Ending,
    where: Settings,
    provider: Provider | None,
    *,
    demo: bool,
) -> None:
    from hornfels.api.app import create_app
    from hornfels.api.patience import settings

    with Session(engine) as session, session.begin():
        password = load_demo(session) if demo else ""
        first = first_administrator(session)
    with Session(engine) as session:
        number, digest = head(session)
    # Entries of the trail that are cut off later show only against what is kept elsewhere.
    _log.info("The trail stands at %d:%s.", number, digest)
    _allow_files()
    app = create_app(engine, _hosts(where), provider)
    if demo:
        threading.Thread(target=_expose, args=(engine, where), daemon=True).start()
    threading.Thread(target=_warm, args=(app.state.snapshots.warm,), daemon=True).start()
    try:
        configured = uvicorn.Config(
            app,
            **settings(),
            ssl_certfile=where.certificate,
            ssl_keyfile=where.key,
            # Only who is named may say from where something came.
            proxy_headers=bool(where.proxies),
            forwarded_allow_ips=where.proxies or None,
        )
        configured.load()
    except ssl.SSLError as error:
        fail(f"{where.certificate}: no certificate with this key ({error.reason or error})")
    ending.server = uvicorn.Server(configured)
    shown = f"[{where.host}]" if ":" in where.host else where.host
    scheme = "https" if where.certificate else "http"
    print(f"Hornfels is at {scheme}://{shown}:{where.port}", flush=True)
    if demo:
        print(f"Sign in as {DEMO_USER} with the password {password}", flush=True)
        others = ", ".join(name for name in DEMO_PEOPLE if name != DEMO_USER)
        print(f"The same password opens the other roles: {others}", flush=True)
    elif first:
        print(f"Sign in as {FIRST} with the one-time password {first}", flush=True)
    print("Ctrl+C ends it.", flush=True)
    ending.server.run(sockets=[listener])


def _expose(engine: Engine, where: Settings) -> None:
    """The demo's corpus takes some seconds to make, for which nobody waits."""
    with contextlib.suppress(SQLAlchemyError), Session(engine) as session:
        expose_demo(session, corpora_folder(), hash_folder(where))


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
