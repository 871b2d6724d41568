"""How a domain's directory is reached, and what went wrong on the way, in words."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Literal

Security = Literal["ldaps", "starttls", "none"]
Bind = Literal["simple", "gssapi"]
PORTS: dict[Security, int] = {"ldaps": 636, "starttls": 389, "none": 389}

PATIENCE = 10.0
"""Seconds to connect, and for each answer."""


class DirectoryError(Exception):
    """The directory did not do what was asked; the message says why and what to do.
    ``code`` is the result code of RFC 4511 (appendix A), None where no answer came; ``info`` is
    what the server said beside it, in its own words.
    """

    def __init__(self, message: str, code: int | None = None, info: str = "") -> None:
        super().__init__(message)
        self.code, self.info = code, info


class UnreachableError(DirectoryError):
    """No server answers, or the connection broke: another server, or a later moment, may help."""


class RefusedError(DirectoryError):
    """The directory knows the account that asks, or the rules, and says no."""


@dataclass(frozen=True, slots=True)
class Server:
    """A directory server by the name that stands in its certificate. It is connected to at
    ``address`` where that name cannot be looked up.
    """

    host: str
    port: int | None = None
    address: str | None = None

    def __str__(self) -> str:
        return self.host if self.port is None else f"{self.host}:{self.port}"


@dataclass(frozen=True, slots=True)
class Reach:
    """Servers in the order they are tried. ``authorities`` are certificates (PEM) that theirs are
    trusted by, in place of the machine's; ``pinned`` is the SHA-256 of the one certificate that is
    taken, whoever issued it. ``name`` and ``secret`` are for a simple bind.
    """

    servers: tuple[Server, ...]
    security: Security = "ldaps"
    authorities: str | None = None
    pinned: bytes | None = None
    bind: Bind = "simple"
    name: str = ""
    secret: str = field(default="", repr=False)
    patience: float = PATIENCE
