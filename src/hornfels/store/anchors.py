"""Signed anchors of the audit log, written each hour to a file outside the database. Only this file
shows that entries were removed from the end of the log.
"""

from __future__ import annotations

import contextlib
import hashlib
import hmac
import os
import secrets
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path


class AnchorError(ValueError):
    """A line of the file is not as a worker signed the line; the message names the line."""


@dataclass(frozen=True, slots=True)
class Anchor:
    """The number and the digest (hexadecimal) of the last entry at a moment."""

    at: datetime
    number: int
    digest: str


def key_in(home: Path) -> bytes:
    """Return the key by which this installation signs, a file of `home`; made when first needed."""
    file = home / "trail-key"
    with contextlib.suppress(FileExistsError):
        file.parent.mkdir(parents=True, exist_ok=True)
        handle = os.open(file, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600)
        with os.fdopen(handle, "wb") as fresh:
            fresh.write(secrets.token_bytes(32))
    return file.read_bytes()


def keep(file: Path, key: bytes, anchor: Anchor) -> None:
    """Add a signed line to the file. Raises `OSError`."""
    file.parent.mkdir(parents=True, exist_ok=True)
    handle = os.open(file, os.O_WRONLY | os.O_CREAT | os.O_APPEND, 0o600)
    told = _told(anchor)
    with os.fdopen(handle, "w", encoding="ascii") as out:
        # One write, so that lines of several workers never mix.
        out.write(f"{told} {_signature(key, told)}\n")


def kept(file: Path, key: bytes) -> Iterator[Anchor]:
    """Yield the anchors of a file, oldest first. Raises `AnchorError`, `OSError`."""
    for number, line in enumerate(file.read_text("ascii", "replace").splitlines(), 1):
        told, _, signature = line.rpartition(" ")
        if not hmac.compare_digest(signature.encode(), _signature(key, told).encode()):
            raise AnchorError(f"{file}, line {number}: not signed by this installation")
        at, where = told.split(" ")
        entry, _, digest = where.partition(":")
        yield Anchor(datetime.fromisoformat(at), int(entry), digest)


def _told(anchor: Anchor) -> str:
    return f"{anchor.at.isoformat(timespec='seconds')} {anchor.number}:{anchor.digest}"


def _signature(key: bytes, told: str) -> str:
    return hmac.new(key, f"anchor {told}".encode(), hashlib.sha256).hexdigest()
