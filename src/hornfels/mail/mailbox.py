"""A stand-in for a mail server: it takes every letter from this machine, keeps it as a file, and
sends none on.
"""

from __future__ import annotations

import contextlib
import email
import socket
import time
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import UTC, datetime
from email.message import EmailMessage
from email.policy import default
from pathlib import Path
from typing import Literal

from aiosmtpd.controller import Controller
from aiosmtpd.smtp import SMTP, Envelope, Session

MOST = 2000
"""Letters that are kept; the oldest go first."""


class _Keeper:
    def __init__(self, folder: Path) -> None:
        self._folder = folder

    async def handle_DATA(self, _server: SMTP, _session: Session, envelope: Envelope) -> str:  # noqa: N802 - the library's name
        content = envelope.content or b""
        written = content.encode() if isinstance(content, str) else content
        name = f"{time.time_ns():020}.eml"
        partly = self._folder / f"{name}.part"
        partly.touch(mode=0o600)
        partly.write_bytes(written)
        partly.replace(self._folder / name)
        for old in _files(self._folder)[MOST:]:
            old.unlink(missing_ok=True)
        return "250 Kept"


@contextlib.contextmanager
def standing_in(folder: Path, port: int = 0) -> Iterator[int]:
    """The port at which letters are taken as long as the block runs; they are kept in `folder`."""
    folder.mkdir(parents=True, exist_ok=True)
    if not port:
        with socket.create_server(("127.0.0.1", 0)) as free:
            port = free.getsockname()[1]
    controller = Controller(_Keeper(folder), hostname="127.0.0.1", port=port)
    controller.start()
    try:
        yield port
    finally:
        controller.stop()


@dataclass(frozen=True, slots=True)
class Kept:
    """A letter that was kept: its name, when it came, and what it says."""

    name: str
    at: datetime
    to: str
    sender: str
    subject: str
    language: str
    text: str


def page(folder: Path, name: str) -> str | None:
    """A kept letter as HTML, by its name; None where there is none."""
    for file in _files(folder):
        if file.stem == name:
            return _part(_message(file), "html")
    return None


def letters(folder: Path, most: int) -> list[Kept]:
    """The latest letters, the latest first."""
    return [_read(file) for file in _files(folder)[:most]]


def _files(folder: Path) -> list[Path]:
    return sorted(folder.glob("*.eml"), reverse=True) if folder.is_dir() else []


def _read(file: Path) -> Kept:
    found = _message(file)
    return Kept(
        file.stem,
        datetime.fromtimestamp(int(file.stem) / 1e9, UTC),
        str(found["To"] or ""),
        str(found["From"] or ""),
        str(found["Subject"] or ""),
        str(found["Content-Language"] or ""),
        _part(found, "plain"),
    )


def _message(file: Path) -> EmailMessage:
    found = email.message_from_bytes(file.read_bytes(), policy=default)
    assert isinstance(found, EmailMessage)  # noqa: S101 - by the policy
    return found


def _part(letter: EmailMessage, kind: Literal["plain", "html"]) -> str:
    part = letter.get_body((kind,))
    return str(part.get_content()) if part else ""
