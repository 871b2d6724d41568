"""Mail servers on loopback that say what a test wants them to say."""

from __future__ import annotations

import asyncio
import contextlib
import email
import socket
import ssl
import threading
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from email.message import EmailMessage
from email.policy import default
from typing import Any

from aiosmtpd.controller import Controller
from aiosmtpd.smtp import AuthResult, Envelope


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
