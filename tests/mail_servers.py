"""Mail servers on loopback that say what a test wants them to say."""

from __future__ import annotations

import asyncio
import contextlib
import email
import socket
import ssl
import threading
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field
from email.message import EmailMessage
from email.policy import default
from typing import Any

import pytest
from aiosmtpd.controller import Controller
from aiosmtpd.smtp import AuthResult, Envelope
from sqlalchemy import Engine, select
from sqlalchemy.orm import Session

from hornfels.store import jobs
from hornfels.store.cluster import Cluster
from hornfels.store.models import JobRow
from workers import another_worker, forget_heartbeats, lives


@dataclass
class MailServer:
    """What came in. ``says`` maps an address to what the server answers for it in place of taking
    it; ``hold`` keeps it from answering for a letter, until it is set.
    """

    port: int = 0
    came: list[EmailMessage] = field(default_factory=list)
    says: dict[str, str] = field(default_factory=dict)
    hold: threading.Event | None = None
    reached: threading.Event = field(default_factory=threading.Event)

    async def handle_RCPT(  # noqa: N802 - the library's name
        self, _server: Any, _session: Any, envelope: Envelope, address: str, _options: list[str]
    ) -> str:
        if address in self.says:
            return self.says[address]
        envelope.rcpt_tos.append(address)
        return "250 OK"

    async def handle_DATA(self, _server: Any, _session: Any, envelope: Envelope) -> str:  # noqa: N802
        content = envelope.content
        assert isinstance(content, bytes)
        letter = email.message_from_bytes(content, policy=default)
        assert isinstance(letter, EmailMessage)
        self.came.append(letter)
        self.reached.set()
        if self.hold is not None:
            await asyncio.to_thread(self.hold.wait, 60)
        return "250 OK"

    def to(self) -> list[str]:
        return [str(letter["To"]) for letter in self.came]


@contextlib.contextmanager
def mail_server(
    tls: ssl.SSLContext | None = None, accounts: Mapping[str, str] | None = None
) -> Iterator[MailServer]:
    """A started server: with StartTLS by a context, and for those who sign in."""
    server = MailServer()
    with socket.create_server(("127.0.0.1", 0)) as free:
        server.port = free.getsockname()[1]

    def check(_server: Any, _session: Any, _envelope: Any, _way: str, given: Any) -> AuthResult:
        known = (accounts or {}).get(given.login.decode())
        good = known is not None and known.encode() == given.password
        return AuthResult(success=good, handled=False)

    more: dict[str, Any] = {}
    if accounts is not None:
        more = {"authenticator": check, "auth_required": True, "auth_require_tls": tls is not None}
    if tls is not None:
        more |= {"tls_context": tls, "require_starttls": True}
    controller = Controller(server, hostname="127.0.0.1", port=server.port, **more)
    controller.start()
    try:
        yield server
    finally:
        if server.hold is not None:
            server.hold.set()
        controller.stop()


def use(server: MailServer, monkeypatch: pytest.MonkeyPatch, security: str = "none") -> None:
    """Have letters handed over to this one."""
    for name, value in {
        "HOST": "localhost",
        "PORT": str(server.port),
        "SECURITY": security,
        "SENDER": "Passwords <passwords@tarnholt.example>",
    }.items():
        monkeypatch.setenv(f"HORNFELS_SMTP_{name}", value)


def use_none(monkeypatch: pytest.MonkeyPatch) -> None:
    """Have the settings name a mail server that is away."""
    with mail_server() as gone:
        use(gone, monkeypatch)


def killed_while_handing_over(
    cluster: Cluster, engine: Engine, server: MailServer, begin: Callable[[], int], job: str
) -> None:
    """Kill the worker that hands over what is begun while the server keeps it waiting, and have
    another one go on until the job of that kind is done.
    """
    server.hold = threading.Event()
    assert begin() == 204
    first = another_worker(cluster)
    assert server.reached.wait(60)
    first.kill()
    first.wait()
    server.hold.set()
    server.hold = None
    forget_heartbeats(engine)
    second = another_worker(cluster)
    while _active(engine, job):
        assert lives(second)
    second.terminate()
    second.wait()


def _active(engine: Engine, kind: str) -> bool:
    with Session(engine) as session:
        states = session.scalars(select(JobRow.state).where(JobRow.kind == kind))
        return any(state in jobs.ACTIVE for state in states)
